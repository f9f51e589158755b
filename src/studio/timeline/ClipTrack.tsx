import { useMemo } from 'react';
import type { Layer, Shot } from '../../core/document/schema';
import { framesShown } from '../../core/need/need';
import { clipDepthSpec } from '../../core/shot/clipLayer';
import { useSession } from '../state/sessionStore';
import { useClipDepth } from '../state/useClipDepth';
import { RowName } from '../score/RowName';
import { LABELS, TRACK, type TimeScale } from './scale';

interface Props {
  readonly shot: Shot;
  readonly layer: Layer;
  readonly scale: TimeScale;
  readonly y: number;
}

/** Runs of frames that follow each other. */
export function runsOf(frames: readonly number[]): readonly (readonly [number, number])[] {
  const out: [number, number][] = [];
  for (const f of frames) {
    const last = out[out.length - 1];
    if (last && f === last[1] + 1) last[1] = f;
    else out.push([f, f]);
  }
  return out;
}

/** Frames of a shot on which one of some frames of its clip is shown. */
export function framesOn(shown: readonly number[], frames: readonly number[]): readonly number[] {
  const wanted = new Set(frames);
  return shown.flatMap((f, t) => (wanted.has(f) ? [t] : []));
}

/** Frames of a shot with which a scene of its clip begins: a cut lies between them and the frame before. Where a clip begins anew there is none. */
export const framesOfCuts = (shown: readonly number[], cuts: readonly number[]): readonly number[] =>
  shown.flatMap((f, t) => (t > 0 && cuts.some((c) => shown[t - 1]! < c && c <= f) ? [t] : []));

/** Which frames of a clip have depth, where on the shot's timeline they are shown: estimated ones as thin marks, steady ones as a bar; the cuts; and how far finding it has come. */
export function ClipTrack({ shot, layer, scale, y }: Props) {
  const state = useClipDepth(clipDepthSpec(shot.plate, layer));
  const clipDepthJob = useSession((s) => s.clipDepthJob);
  const { finished, estimated, report } = state ?? { finished: [], estimated: [], report: null };
  const { length, fps } = shot.settings.time;
  const shown = useMemo(() => framesShown(shot.plate, { length, fps }), [shot.plate, length, fps]);
  const bars = useMemo(() => runsOf(framesOn(shown, finished)), [shown, finished]);
  const marks = useMemo(() => runsOf(framesOn(shown, estimated)), [shown, estimated]);
  const cuts = useMemo(() => framesOfCuts(shown, report?.cuts ?? []), [shown, report]);
  const half = scale.length > 1 ? (scale.x(1) - scale.x(0)) / 2 : 2;
  const left = (f: number): number => Math.max(LABELS, scale.x(f) - half);
  const right = (f: number): number => Math.min(LABELS + scale.span, scale.x(f) + half);
  const told = clipDepthJob ? `, ${Math.round(100 * clipDepthJob.share)} %` : '';
  return (
    <g
      role="img"
      aria-label={`Depth of the clip: ${finished.length} frames steady, ${estimated.length} estimated, ${report?.cuts.length ?? 0} cuts${told}`}
      data-testid="clip-track"
    >
      <line x1={LABELS} x2={LABELS + scale.span} y1={y + TRACK / 2} y2={y + TRACK / 2} stroke="var(--line)" strokeWidth={5} />
      {marks.map(([from, to]) => (
        <rect key={from} x={left(from)} y={y + TRACK / 2 - 1.5} width={Math.max(1, right(to) - left(from))} height={3} fill="var(--faint)" />
      ))}
      {bars.map(([from, to]) => (
        <rect key={from} x={left(from)} y={y + TRACK / 2 - 2.5} width={right(to) - left(from)} height={5} fill="var(--mute)" />
      ))}
      {cuts.map((f) => (
        <line key={f} x1={scale.x(f) - half} x2={scale.x(f) - half} y1={y + 3} y2={y + TRACK - 3} stroke="var(--paper)" strokeWidth={1.5} />
      ))}
    </g>
  );
}

/** The name of the depth of a clip beside its track, and how far finding it has come. */
export function ClipName({ y, inHand, onChoose }: { y: number; inHand: boolean; onChoose: () => void }) {
  const clipDepthJob = useSession((s) => s.clipDepthJob);
  return (
    <RowName
      y={y}
      height={TRACK}
      name="Depth"
      aside={clipDepthJob ? `${Math.round(100 * clipDepthJob.share)} %` : undefined}
      inHand={inHand}
      onChoose={onChoose}
    />
  );
}
