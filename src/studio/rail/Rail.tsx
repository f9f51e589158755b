import Box from '@mui/material/Box';
import { useMemo, useRef } from 'react';
import { hueOf } from '../../core/depth/hues';
import { rulerDistance, rulerOf } from '../../core/depth/ruler';
import { calibrationOf } from '../../core/document/calibrationOf';
import { nearnessHex } from '../../core/raster/colour';
import { renderLens } from '../../core/shot/frame';
import { useHues } from '../controls/useTint';
import { useShot } from '../state/documentStore';
import { useSession } from '../state/sessionStore';
import { useShotNow } from '../state/shotNow';
import { useViewPart } from '../state/viewStore';
import { useSize } from '../viewer/useSize';
import { CameraLane, cameraLanes } from './CameraLane';
import { DepthLane } from './DepthLane';
import { EffectLane, withLanes } from './EffectLane';
import { EndHandle } from './EndHandle';
import { ProbeMark } from './ProbeMark';
import { RailHead } from './RailHead';
import { AXIS, HEAD, LANE, LANE_TOP, laneRows, PAD, railScale, type RailScale } from './railLayout';
import { Histogram, RulerAxis } from './RulerAxis';

/** half width of what lights up under the pointer, share of the ruler */
const GLANCE = 0.012;

/** Places along the ruler at which its colour is told. */
const GRADIENT = Array.from({ length: 33 }, (_, k) => k / 32);

/** The depth rail: a ruler from the near end to the far end, the picture's depths on it, and a lane for what acts by distance. */
export function Rail() {
  const shot = useShot();
  const now = useShotNow();
  const [ref, size] = useSize<HTMLDivElement>();
  const {
    ruler: choice,
    set,
    lit,
    chapter,
    selectedLayer,
    selectedEffect,
    selectedMove,
  } = useViewPart('ruler', 'set', 'lit', 'chapter', 'selectedLayer', 'selectedEffect', 'selectedMove');
  const preview = useSession((s) => s.preview);
  const hues = useHues();
  const span = Math.max(10, size.width - 2 * PAD);
  const lighting = useLighting(span);
  const calibration = now?.settings.calibration;
  const scale = useMemo(() => {
    if (!calibration) return null;
    const c = calibrationOf(calibration);
    return railScale(rulerOf(c, choice === 'as-map' ? c.spacing : choice), span, (z) => nearnessHex(hueOf(z, c, hues)));
  }, [calibration, choice, span, hues]);
  if (!shot || !now || !calibration || !scale) return <Box ref={ref} sx={{ borderTop: '1px solid var(--line)' }} />;
  const { layers } = now.settings;
  const c = calibrationOf(calibration);
  const lens = renderLens({ plate: now.plate, settings: now.settings, size: now.settings.framing });
  const lanes = withLanes(now);
  const camera = chapter === 'camera' ? cameraLanes(shot, selectedMove) : [];
  // in Depth the layer being made has the first lane, in Camera what moves has
  const first = chapter === 'depth' ? 1 : camera.length;
  const inHand =
    first > 0
      ? 0
      : Math.max(
          0,
          lanes.findIndex((e) => e.id === selectedEffect),
        );
  const rows = laneRows(first + lanes.length, inHand);
  const last = rows[rows.length - 1];
  const height = (last ? last.y + last.height + 4 : LANE_TOP + LANE) + 8;
  return (
    <Box ref={ref} data-testid="rail" sx={{ borderTop: '1px solid var(--line)', position: 'relative', flexShrink: 0 }} style={{ height }}>
      <RailHead calibration={c} scaled={calibration.scaled} />
      <svg width={Math.max(1, size.width)} height={height} style={{ display: 'block', touchAction: 'none' }} {...lighting(scale)}>
        <defs>
          <linearGradient id="near-far" x1={PAD} x2={PAD + span} gradientUnits="userSpaceOnUse">
            {GRADIENT.map((p) => (
              <stop key={p} offset={p} stopColor={scale.colour(rulerDistance(scale.ruler, p))} />
            ))}
          </linearGradient>
        </defs>
        <rect x={0} y={HEAD} width={size.width} height={height - HEAD} fill="transparent" />
        {preview && <Histogram bins={preview.histogram} span={span} />}
        {lit && <Lit lit={lit} scale={scale} />}
        <RulerAxis scale={scale} far={c.far} />
        {rows.length === 0 && (
          <text x={PAD + 4} y={LANE_TOP + 12} fill="var(--mute)" style={{ fontSize: 11 }}>
            Effects that act by distance get a lane here.
          </text>
        )}
        {lanes.map((item, k) => (
          <EffectLane
            key={item.id}
            item={item}
            lens={lens}
            fps={now.settings.time.fps}
            scale={scale}
            row={rows[first + k]!}
            onChoose={() => set({ selectedEffect: item.id })}
          />
        ))}
        {camera.map((lane, k) => (
          <CameraLane key={lane.key} lane={lane} scale={scale} row={rows[k]!} />
        ))}
        {chapter === 'depth' && (
          <DepthLane shot={shot} layer={layers.find((l) => l.id === selectedLayer)} scale={scale} y={rows[0]!.y} height={rows[0]!.height} />
        )}
        <ProbeMark scale={scale} height={height} />
        <EndHandle which="near" x={PAD} distance={c.near} colour={scale.colour(c.near)} limits={[0.01, c.far === Infinity ? 1e6 : c.far * 0.98]} />
        <EndHandle which="far" x={PAD + span} distance={c.far} colour={scale.colour(c.far)} limits={[c.near * 1.02, Infinity]} />
      </svg>
    </Box>
  );
}

/** The distances that are lit up in the picture. */
function Lit({ lit, scale: { x, span } }: { lit: { from: number; to: number }; scale: RailScale }) {
  const from = lit.from === 0 ? PAD : x(lit.from);
  const to = lit.to === Infinity ? PAD + span : x(lit.to);
  return <rect data-testid="lit" x={from} width={Math.max(1, to - from)} y={HEAD + 4} height={AXIS - HEAD - 4} fill="var(--paper)" opacity={0.2} />;
}

/** The pointer lights up the pixels under it; a drag those of a range. */
function useLighting(span: number): (scale: RailScale) => React.SVGProps<SVGSVGElement> {
  const { set } = useViewPart('set');
  const drag = useRef<{ from: number } | null>(null);
  const place = (event: React.PointerEvent<SVGElement>): number => (event.clientX - event.currentTarget.getBoundingClientRect().left - PAD) / span;
  return ({ ruler }) => {
    const light = (a: number, b: number): void => {
      const [p, q] = [Math.min(a, b) - (a === b ? GLANCE : 0), Math.max(a, b) + (a === b ? GLANCE : 0)];
      set({ lit: { from: p <= 0 ? 0 : rulerDistance(ruler, p), to: q >= 1 ? Infinity : rulerDistance(ruler, q) } });
    };
    return {
      onPointerDown: (e) => {
        if ((e.target as Element).closest('[role="slider"]')) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        drag.current = { from: place(e) };
      },
      onPointerMove: (e) => {
        if (e.buttons === 0 || !drag.current) light(place(e), place(e));
        else light(drag.current.from, place(e));
      },
      onPointerUp: () => {
        drag.current = null;
      },
      onPointerLeave: () => set({ lit: null }),
    };
  };
}
