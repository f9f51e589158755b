import { useDrag } from '@use-gesture/react';
import { useRef } from 'react';
import { playedRange } from '../../core/document/driven';
import type { Shot } from '../../core/document/schema';
import { changeSettings, type Gesture } from '../state/documentStore';
import { goTo } from '../state/playback';
import { useView } from '../state/viewStore';
import { RULER, ticks, type TimeScale } from './scale';
import { TrackHandle } from './TrackHandle';

/** Frames with their figures, the range that is played, and the playhead. */
export function Ruler({ shot, scale, width }: { shot: Shot; scale: TimeScale; width: number }) {
  const { time } = shot.settings;
  const { from, to } = playedRange(shot.settings);
  const ref = useRef<SVGSVGElement>(null);
  const bind = useDrag(
    ({ xy: [x] }) => {
      useView.getState().set({ playing: false });
      goTo(scale.frame(x - ref.current!.getBoundingClientRect().left));
    },
    { pointer: { keys: false } },
  );
  return (
    <svg {...bind()} ref={ref} width={Math.max(1, width)} height={RULER} style={{ display: 'block', touchAction: 'none', cursor: 'pointer' }}>
      <rect x={0} y={0} width={width} height={RULER} fill="transparent" />
      {ticks(scale, time.fps).map((f) => (
        <g key={f}>
          <line x1={scale.x(f)} x2={scale.x(f)} y1={RULER - 8} y2={RULER - 4} stroke="var(--line2)" />
          <text x={scale.x(f)} y={11} textAnchor="middle" className="mono" fill="var(--mute)" style={{ fontSize: 10 }}>
            {f}
          </text>
        </g>
      ))}
      <line x1={scale.x(0)} x2={scale.x(time.length - 1)} y1={RULER - 3} y2={RULER - 3} stroke="var(--line2)" strokeWidth={3} />
      <line x1={scale.x(from)} x2={scale.x(to)} y1={RULER - 3} y2={RULER - 3} stroke="var(--mute)" strokeWidth={3} />
      <RangeEnd which="from" frame={from} scale={scale} limits={[0, to]} shown={time.from !== null} />
      <RangeEnd which="to" frame={to} scale={scale} limits={[from, time.length - 1]} shown={time.to !== null} />
      <Playhead scale={scale} length={time.length} />
    </svg>
  );
}

function Playhead({ scale, length }: { scale: TimeScale; length: number }) {
  const frame = useView((s) => s.frame);
  const x = scale.x(frame);
  return (
    <g
      role="slider"
      tabIndex={0}
      aria-label="Playhead"
      aria-valuemin={0}
      aria-valuemax={length - 1}
      aria-valuenow={frame}
      aria-valuetext={`Frame ${frame}`}
      onKeyDown={(e) => {
        const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageUp: 10, PageDown: -10 }[e.key];
        const to = e.key === 'Home' ? 0 : e.key === 'End' ? length - 1 : by === undefined ? null : frame + by * (e.shiftKey ? 10 : 1);
        if (to === null) return;
        e.preventDefault();
        e.stopPropagation();
        goTo(to);
      }}
    >
      <path d={`M${x - 5} ${RULER - 15}h10v6l-5 6l-5 -6z`} fill="var(--paper)" />
    </g>
  );
}

/** Where playing begins or ends. */
function RangeEnd({
  which,
  frame,
  scale,
  limits,
  shown,
}: {
  which: 'from' | 'to';
  frame: number;
  scale: TimeScale;
  limits: readonly [number, number];
  shown: boolean;
}) {
  const put = (to: number, gesture: Gesture): void => {
    const at = Math.min(limits[1], Math.max(limits[0], Math.round(to)));
    changeSettings((s) => void (s.time[which] = at === (which === 'from' ? 0 : s.time.length - 1) ? null : at), gesture);
  };
  const x = scale.x(frame);
  return (
    <TrackHandle
      label={which === 'from' ? 'Range in' : 'Range out'}
      frame={frame}
      scale={scale}
      limits={limits}
      onDrag={(by, grabbed, gesture) => put(grabbed + by, gesture)}
      onStep={(by, gesture) => put(frame + by, gesture)}
    >
      <rect x={which === 'from' ? x - 10 : x} y={RULER - 12} width={10} height={12} fill="transparent" />
      <path d={which === 'from' ? `M${x} ${RULER - 7}h-4v7h4z` : `M${x} ${RULER - 7}h4v7h-4z`} fill={shown ? 'var(--paper)' : 'var(--mute)'} />
    </TrackHandle>
  );
}
