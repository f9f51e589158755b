import { steady } from '../controls/steady';
import { curvePath, LABELS, TRACK, type TimeScale } from './scale';

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
export const StretchTrack = steady(function StretchTrack({ clean, length, values, scale, y }: StretchProps) {
  const share = shareOfStretch(values, clean);
  const curve = curvePath(scale, y, TRACK, (f) =>
    share(values[Math.min(values.length - 1, Math.round((f / Math.max(1, length - 1)) * (values.length - 1)))] ?? 0),
  );
  const line = y + TRACK - 3 - (TRACK - 6) * share(clean);
  return (
    <g>
      <path d={`${curve}L${scale.x(scale.length - 1)} ${y + TRACK - 3}L${scale.x(0)} ${y + TRACK - 3}Z`} fill="var(--mute)" opacity={0.35} />
      <line x1={LABELS} x2={LABELS + scale.span} y1={line} y2={line} stroke="var(--mute)" strokeDasharray="2 4" />
    </g>
  );
});
