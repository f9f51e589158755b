import Box from '@mui/material/Box';
import { useMemo, useRef } from 'react';
import { drivenNumbers, isTimed, keyedLayers, playedRange } from '../../core/document/driven';
import type { Shot } from '../../core/document/schema';
import { steady } from '../controls/steady';
import { changeSettings, useShot, type Gesture } from '../state/documentStore';
import { clipDepthSpec } from '../../core/shot/clipLayer';
import { goTo } from '../state/playback';
import { useSession } from '../state/sessionStore';
import { useView } from '../state/viewStore';
import { useSize } from '../viewer/useSize';
import { ClipTrack } from './ClipTrack';
import { KeyTrack } from './KeyTrack';
import { LayerTrack } from './LayerTrack';
import { MoveTrack } from './MoveTrack';
import { curvePath, LABELS, RULER, ticks, timeScale, TRACK, type TimeScale } from './scale';
import { TrackHandle } from './TrackHandle';
import { Transport } from './Transport';

/** So many tracks are seen at once; more are scrolled to. */
const SEEN = 5;

/** The time of a shot in which something moves: playing, a ruler with the playhead, a track for every driven number and every move. */
export function Timeline() {
  const shot = useShot();
  if (!shot || !isTimed(shot)) return null;
  return <Tracks shot={shot} />;
}

function Tracks({ shot }: { shot: Shot }) {
  const [ref, size] = useSize<HTMLDivElement>();
  const path = useSession((s) => s.path);
  const { settings } = shot;
  const { time } = settings;
  const scale = useMemo(() => timeScale(time.length, size.width), [time.length, size.width]);
  const moves = settings.camera.moves;
  const layers = keyedLayers(settings);
  const numbers = drivenNumbers(settings);
  // its row is there before its figures, so that nothing moves when they come
  const stretched = moves.length > 0;
  const estimate = [...settings.layers].reverse().find((l) => l.visible && clipDepthSpec(shot.plate, l) !== null);
  const first = estimate ? 1 : 0;
  const count = first + moves.length + layers.length + numbers.length + (stretched ? 1 : 0);
  const height = count * TRACK;
  return (
    <Box
      ref={ref}
      component="section"
      aria-label="Timeline"
      data-testid="timeline"
      sx={{ borderTop: '1px solid var(--line)', flexShrink: 0, position: 'relative', paddingBottom: '4px' }}
    >
      <Transport shot={shot} />
      <Ruler shot={shot} scale={scale} width={size.width} />
      <Box sx={{ maxHeight: SEEN * TRACK, overflowY: count > SEEN ? 'auto' : 'hidden', overflowX: 'hidden' }}>
        <svg width={Math.max(1, size.width)} height={Math.max(1, height)} style={{ display: 'block' }}>
          {estimate && <ClipTrack shot={shot} layer={estimate} scale={scale} y={0} />}
          {moves.map((item, k) => (
            <MoveTrack key={item.id} item={item} time={time} scale={scale} y={(first + k) * TRACK} />
          ))}
          {layers.map((layer, k) => (
            <LayerTrack key={layer.id} layer={layer} scale={scale} y={(first + moves.length + k) * TRACK} />
          ))}
          {numbers.map((number, k) => (
            <KeyTrack
              key={`${number.place}/${number.item}/${number.name}`}
              number={number}
              time={time}
              scale={scale}
              y={(first + moves.length + layers.length + k) * TRACK}
            />
          ))}
          {stretched && (
            <StretchTrack
              clean={(settings.camera.clean / 100) * settings.framing.width}
              length={time.length}
              values={path?.stretch ?? []}
              scale={scale}
              y={(count - 1) * TRACK}
            />
          )}
          <PlayheadLine scale={scale} height={height} />
        </svg>
      </Box>
    </Box>
  );
}

/** The line of the playhead through the tracks. */
function PlayheadLine({ scale, height }: { scale: TimeScale; height: number }) {
  const frame = useView((s) => s.frame);
  return <line x1={scale.x(frame)} x2={scale.x(frame)} y1={0} y2={height} stroke="var(--paper)" strokeWidth={1} pointerEvents="none" />;
}

/** Frames with their figures, the range that is played, and the playhead. */
function Ruler({ shot, scale, width }: { shot: Shot; scale: TimeScale; width: number }) {
  const { time } = shot.settings;
  const { from, to } = playedRange(shot.settings);
  const ref = useRef<SVGSVGElement>(null);
  const scrub = (event: React.PointerEvent): void => {
    useView.getState().set({ playing: false });
    goTo(scale.frame(event.clientX - ref.current!.getBoundingClientRect().left));
  };
  return (
    <svg
      ref={ref}
      width={Math.max(1, width)}
      height={RULER}
      style={{ display: 'block', touchAction: 'none', cursor: 'pointer' }}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        scrub(e);
      }}
      onPointerMove={(e) => {
        if (e.buttons > 0 && e.currentTarget.hasPointerCapture(e.pointerId)) scrub(e);
      }}
    >
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

/** How high on its track a stretch is drawn, 0..1. What goes behind the camera tears endlessly wide: up to the top. */
export function shareOfStretch(values: readonly number[], clean: number): (px: number) => number {
  const top = Math.max(1e-6, clean * 1.3, ...values.filter(Number.isFinite));
  return (px) => Math.min(1, px / top);
}

interface StretchProps {
  /** px up to which it is filled without being seen */
  readonly clean: number;
  readonly length: number;
  readonly values: readonly number[];
  readonly scale: TimeScale;
  readonly y: number;
}

/** How wide the moves tear the picture open, frame by frame. */
const StretchTrack = steady(function StretchTrack({ clean, length, values, scale, y }: StretchProps) {
  const share = shareOfStretch(values, clean);
  const curve = curvePath(scale, y, TRACK, (f) =>
    share(values[Math.min(values.length - 1, Math.round((f / Math.max(1, length - 1)) * (values.length - 1)))] ?? 0),
  );
  const line = y + TRACK - 3 - (TRACK - 6) * share(clean);
  return (
    <g>
      <text x={14} y={y + 15} fill="var(--mute)" style={{ fontSize: 11.5 }}>
        Stretch, clean to {clean.toFixed(0)} px
      </text>
      <path d={`${curve}L${scale.x(scale.length - 1)} ${y + TRACK - 3}L${scale.x(0)} ${y + TRACK - 3}Z`} fill="var(--mute)" opacity={0.35} />
      <line x1={LABELS} x2={LABELS + scale.span} y1={line} y2={line} stroke="var(--mute)" strokeDasharray="2 4" />
    </g>
  );
});
