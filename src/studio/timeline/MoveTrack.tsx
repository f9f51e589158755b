import { moveValues, runEnds, runOf, shareOf } from '../../core/camera/definition';
import { moveOf } from '../../core/camera/registry';
import type { MoveItem, ShotTime } from '../../core/document/schema';
import { changeSettings, type Gesture } from '../state/documentStore';
import { curvePath, LABELS, TRACK, type TimeScale } from './scale';
import { TrackHandle } from './TrackHandle';
import { steady } from '../controls/steady';

interface Props {
  readonly item: MoveItem;
  readonly time: ShotTime;
  readonly scale: TimeScale;
  readonly y: number;
}

/** A move: how far it has come, and where it begins and ends. One that goes on and on has no ends. */
export const MoveTrack = steady(function MoveTrack({ item, time, scale, y }: Props) {
  const definition = moveOf(item.kind);
  const run = runOf(definition, item.values);
  const at = (frame: number): number => {
    if (run) return shareOf({ ...run, plate: 'start' }, { frame, fps: time.fps }, time.length);
    const period = definition.period?.(moveValues(definition, item.values)) ?? null;
    return period ? 0.5 + 0.5 * Math.sin((2 * Math.PI * frame) / period) : 0.5;
  };
  const { from, to } = run ? runEnds(run, time.length) : { from: 0, to: time.length - 1 };
  const put = (which: 'from' | 'to', frame: number, gesture: Gesture): void =>
    changeSettings((s) => {
      const found = s.camera.moves.find((m) => m.id === item.id);
      if (!found) return;
      const [a, b] = which === 'from' ? [Math.min(frame, to - 1), to] : [from, Math.max(frame, from + 1)];
      found.values.from = Math.max(0, Math.round(a));
      found.values.over = Math.round(b) >= time.length - 1 && which === 'to' ? 0 : Math.round(b) - Math.max(0, Math.round(a));
    }, gesture);
  return (
    <g opacity={item.on ? 1 : 0.45}>
      <line x1={LABELS} x2={LABELS + scale.span} y1={y + TRACK / 2} y2={y + TRACK / 2} stroke="var(--line)" strokeWidth={5} />
      <path d={curvePath(scale, y, TRACK, at)} fill="none" stroke="var(--mute)" strokeWidth={1} />
      {run && (
        <>
          <End which="from" label={`${definition.label} begins`} frame={from} scale={scale} y={y} onMove={put} />
          <End which="to" label={`${definition.label} ends`} frame={Math.min(time.length - 1, to)} scale={scale} y={y} onMove={put} />
        </>
      )}
    </g>
  );
});

interface EndProps {
  readonly which: 'from' | 'to';
  readonly label: string;
  readonly frame: number;
  readonly scale: TimeScale;
  readonly y: number;
  readonly onMove: (which: 'from' | 'to', frame: number, gesture: Gesture) => void;
}

/** An end of a move: dragged, or moved with the arrow keys. */
function End({ which, label, frame, scale, y, onMove }: EndProps) {
  const x = scale.x(frame);
  return (
    <TrackHandle
      label={label}
      frame={frame}
      scale={scale}
      onDrag={(by, grabbed, gesture) => onMove(which, grabbed + by, gesture)}
      onStep={(by, gesture) => onMove(which, frame + by, gesture)}
    >
      <rect x={x - 8} y={y} width={16} height={TRACK} fill="transparent" />
      <line x1={x} x2={x} y1={y + 8} y2={y + TRACK - 2} stroke="var(--paper)" strokeWidth={1.5} />
      <circle cx={x} cy={y + 7} r={4} fill={which === 'from' ? 'var(--base)' : 'var(--paper)'} stroke="var(--paper)" strokeWidth={1.5} />
    </TrackHandle>
  );
}
