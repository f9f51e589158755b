import { distanceOf, nearnessAtDistance, type Spacing } from './calibrate';

/** The axis of the depth rail: from the near end (0) to the far end (1), spaced as asked. */
export interface Ruler {
  readonly near: number;
  readonly far: number;
  readonly spacing: Spacing;
}

/** Where the far end is infinite, a ruler that cannot reach it ends at this multiple of the near end; the rest is gathered there. */
const OPEN_END = 500;

/** The ruler of a calibration. */
export const rulerOf = (c: { readonly near: number; readonly far: number }, spacing: Spacing): Ruler => ({
  near: c.near,
  far: c.far === Infinity && spacing !== 'perspective' ? c.near * OPEN_END : c.far,
  spacing,
});

/** Place 0..1 on the ruler of a distance in metres. */
export const rulerPlace = (ruler: Ruler, distance: number): number => 1 - nearnessAtDistance(distance, ruler);

/** Distance in metres at a place 0..1 of the ruler. */
export const rulerDistance = (ruler: Ruler, place: number): number => distanceOf(1 - Math.min(1, Math.max(0, place)), ruler);

/** Round figures, the roundest first. */
const ROUND = [[1], [5], [2], [3], [1.5, 4, 7], [2.5, 6, 8], [1.2, 1.7, 3.5, 4.5, 9]];

export interface Tick {
  readonly distance: number;
  readonly place: number;
}

/**
 * Ticks at round distances, at least `gap` (share of the ruler) apart; both ends are always there. Rounder figures win.
 */
export function rulerTicks(ruler: Ruler, gap: number): Tick[] {
  const ticks: Tick[] = [
    { distance: ruler.near, place: 0 },
    { distance: ruler.far, place: 1 },
  ];
  const far = Math.min(ruler.far, 1e5);
  const first = Math.floor(Math.log10(ruler.near));
  const last = Math.ceil(Math.log10(far));
  for (const figures of ROUND)
    for (let power = first; power <= last; power++)
      for (const figure of figures) {
        const distance = figure * 10 ** power;
        if (distance <= ruler.near || distance >= far) continue;
        const place = rulerPlace(ruler, distance);
        if (ticks.every((t) => Math.abs(t.place - place) >= gap)) ticks.push({ distance, place });
      }
  return ticks.sort((a, b) => a.place - b.place);
}
