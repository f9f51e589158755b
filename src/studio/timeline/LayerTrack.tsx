import type { Layer } from '../../core/document/schema';
import { deleteLayerKey, moveLayerKey } from '../chapters/depth/layerActions';
import type { Gesture } from '../state/documentStore';
import { goTo } from '../state/playback';
import { useView } from '../state/viewStore';
import { LABELS, TRACK, type TimeScale } from './scale';
import { TrackHandle } from './TrackHandle';
import { steady } from '../controls/steady';

interface Props {
  readonly layer: Layer;
  readonly scale: TimeScale;
  readonly y: number;
}

/** A layer in which something moves: a pin for each of its keys. */
export const LayerTrack = steady(function LayerTrack({ layer, scale, y }: Props) {
  return (
    <g opacity={layer.visible ? 1 : 0.45}>
      <line x1={LABELS} x2={LABELS + scale.span} y1={y + TRACK / 2} y2={y + TRACK / 2} stroke="var(--line)" strokeWidth={5} />
      {(layer.keyed ?? []).map(({ frame }, k) => (
        // by its place in the row: a pin that is moved keeps the focus
        <LayerPin key={k} layer={layer} frame={frame} scale={scale} y={y} />
      ))}
    </g>
  );
});

/** A key of a layer: dragged, or moved with the arrow keys; Enter goes to it, Delete deletes it. */
function LayerPin({ layer, frame, scale, y }: Props & { frame: number }) {
  const here = useView((s) => s.frame === frame);
  const put = (from: number, by: number, gesture: Gesture): void =>
    moveLayerKey(layer.id, from, Math.min(scale.length - 1, Math.max(0, Math.round(from + by))), gesture);
  const x = scale.x(frame);
  return (
    <TrackHandle
      label={`${layer.name}: key at frame ${frame}`}
      frame={frame}
      scale={scale}
      onDrag={(by, grabbed, gesture) => put(grabbed, by, gesture)}
      onStep={(by, gesture) => put(frame, by, gesture)}
      onKey={(e) => {
        if (e.key === 'Enter') goTo(frame);
        else if (e.key === 'Delete' || e.key === 'Backspace') deleteLayerKey(layer.id, frame);
        else return false;
        return true;
      }}
      onDoubleClick={() => goTo(frame)}
    >
      <line x1={x} x2={x} y1={y + 8} y2={y + TRACK - 2} stroke="var(--paper)" strokeWidth={1.5} />
      <rect x={x - 8} y={y} width={16} height={TRACK} fill="transparent" />
      <circle cx={x} cy={y + 7} r={4} fill={here ? 'var(--paper)' : 'var(--base)'} stroke="var(--paper)" strokeWidth={1.5} />
    </TrackHandle>
  );
}
