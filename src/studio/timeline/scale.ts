import { END, NAMES } from '../score/measures';

/** Measures of the timeline, px: where frames begin, a track, what is left of those that are folded away, and the ruler. */
export const LABELS = NAMES;
export const TRACK = 22;
export const FOLD = 18;
export const RULER = 24;

/** Where frames lie on the timeline. */
export interface TimeScale {
  readonly length: number;
  readonly span: number;
  /** px of a frame, and the frame nearest to a px */
  x(frame: number): number;
  frame(x: number): number;
}

export const timeScale = (length: number, width: number): TimeScale => {
  const span = Math.max(40, width - LABELS - END);
  const last = Math.max(1, length - 1);
  return {
    length,
    span,
    x: (frame) => LABELS + (span * frame) / last,
    frame: (x) => Math.min(length - 1, Math.max(0, Math.round(((x - LABELS) / span) * last))),
  };
};

/** Frames at which the ruler has a figure: about so many px apart, at steps that people count in. */
export function ticks({ length, span }: TimeScale, fps: number, apart = 62): readonly number[] {
  const wanted = (apart * (length - 1)) / span;
  const seconds = [0.25, 0.5, 1, 2, 5, 10, 30, 60, 120, 300, 600].map((s) => Math.round(s * fps));
  const step =
    [1, 2, 5, 10, ...seconds]
      .filter((v) => v > 0)
      .sort((a, b) => a - b)
      .find((v) => v >= wanted) ?? Math.ceil(wanted);
  const out: number[] = [];
  for (let f = 0; f < length; f += step) out.push(f);
  return out;
}

/** A curve over the frames of a track, as a path; `share` is 0 at the lower border and 1 at the upper one. */
export function curvePath(scale: TimeScale, y: number, height: number, share: (frame: number) => number): string {
  const step = Math.max(1, Math.floor(scale.length / Math.max(1, scale.span / 3)));
  const points: string[] = [];
  const at = (f: number): string => `${scale.x(f).toFixed(1)} ${(y + height - 3 - (height - 6) * share(f)).toFixed(1)}`;
  for (let f = 0; f < scale.length; f += step) points.push(at(f));
  points.push(at(scale.length - 1));
  return `M${points.join('L')}`;
}
