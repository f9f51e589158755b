import Button from '@mui/material/Button';
import { useState } from 'react';
import { groundLayer } from '../../../../core/depth/layers/ground';
import type { Layer } from '../../../../core/document/schema';
import { addressOfFile } from '../../../../core/need/need';
import { clampNumber, formatNumber } from '../../../../core/values/params';
import { engine } from '../../../../engine/pool/engine';
import { Section } from '../../../controls/rows';
import { keyGesture, useShot } from '../../../state/documentStore';
import { notifyError } from '../../../notices/noticeStore';
import { changeLayer, dragLayer, isLocked } from '../layerActions';
import type { OverlayProps } from '../plateView';
import { Handle } from './Handle';

const { horizon: HORIZON, tilt: TILT } = groundLayer.params;

/** Where the handles for the tilt lie, shares of the plate's width. */
const ENDS = [0.1, 0.9] as const;

/** The horizon over the picture: dragged by its middle, tilted by its ends. */
export function GroundOverlay({ shot, layer, view }: OverlayProps) {
  const horizon = Number(layer.values.horizon ?? HORIZON.default);
  const tilt = Number(layer.values.tilt ?? TILT.default);
  const aspect = shot.plate.width / shot.plate.height;
  const at = (x: number): { x: number; y: number } => view.toView(x, horizon / 100 + (x - 0.5) * aspect * Math.tan((tilt * Math.PI) / 180));
  const drag = (event: React.PointerEvent, which: 'middle' | number): void => {
    const from = { horizon, pointer: view.pointer(event) };
    dragLayer(event, layer, (e): { values: Layer['values'] } => {
      const p = view.pointer(e);
      if (which === 'middle') return { values: { horizon: clampNumber(HORIZON, from.horizon + 100 * (p.y - from.pointer.y)) } };
      const across = (ENDS[which]! - 0.5) * aspect;
      return { values: { tilt: clampNumber(TILT, (Math.atan((p.y - horizon / 100) / across) * 180) / Math.PI) } };
    });
  };
  const step = (down: number, which: 'middle' | number): void => {
    if (isLocked(layer)) return;
    changeLayer(
      layer.id,
      (l) => {
        if (which === 'middle') l.values.horizon = clampNumber(HORIZON, Number(l.values.horizon ?? HORIZON.default) + 0.5 * down);
        else l.values.tilt = clampNumber(TILT, Number(l.values.tilt ?? TILT.default) + 0.2 * down * (which === 0 ? -1 : 1));
      },
      keyGesture(`horizon:${layer.id}`),
    );
  };
  const [left, right, middle] = [at(-0.02), at(1.02), at(0.5)];
  return (
    <>
      <svg width={view.width} height={view.height} style={{ position: 'absolute', inset: 0, pointerEvents: 'none' }} aria-hidden="true">
        <line x1={left.x} y1={left.y} x2={right.x} y2={right.y} stroke="#000" strokeOpacity={0.5} strokeWidth={3.5} />
        <line x1={left.x} y1={left.y} x2={right.x} y2={right.y} stroke="#fff" strokeWidth={1.5} strokeDasharray="6 4" />
        <text
          x={middle.x + 14}
          y={middle.y - 8}
          fill="#fff"
          style={{ fontSize: 11, paintOrder: 'stroke', stroke: '#000a', strokeWidth: 3 }}
        >{`horizon, tilt ${formatNumber(TILT, tilt)}`}</text>
      </svg>
      <Handle
        at={middle}
        label={`Horizon at ${formatNumber(HORIZON, horizon)}`}
        cursor="ns-resize"
        onPointerDown={(e) => drag(e, 'middle')}
        onStep={(_, down) => step(down, 'middle')}
      />
      {ENDS.map((x, i) => (
        <Handle
          key={x}
          at={at(x)}
          label={`${i === 0 ? 'Left' : 'Right'} end of the horizon, tilt ${formatNumber(TILT, tilt)}`}
          cursor="ns-resize"
          onPointerDown={(e) => drag(e, i)}
          onStep={(_, down) => step(down, i)}
        />
      ))}
    </>
  );
}

/** Proposes the horizon from the picture. */
export function GroundPanel({ layer }: { layer: Layer }) {
  const shot = useShot();
  const [looking, setLooking] = useState(false);
  const find = async (): Promise<void> => {
    if (!shot || isLocked(layer)) return;
    setLooking(true);
    try {
      const share = await engine().horizon(addressOfFile(shot.plate));
      changeLayer(layer.id, (l) => Object.assign(l.values, { horizon: clampNumber(HORIZON, Number((100 * share).toFixed(1))), tilt: 0 }));
    } catch (error) {
      notifyError(error);
    } finally {
      setLooking(false);
    }
  };
  return (
    <Section last>
      <Button fullWidth disabled={looking} onClick={() => void find()}>
        {looking ? 'Looking for the horizon…' : 'Find the horizon'}
      </Button>
    </Section>
  );
}
