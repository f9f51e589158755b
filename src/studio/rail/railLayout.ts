import { rulerDistance, rulerPlace, type Ruler } from '../../core/depth/ruler';
import { hairlines, NAMES } from '../score/measures';

/** Measures of the rail, px: where its ruler begins, what is free above it, and how high depths stand over it when nobody says otherwise. */
export const LEFT = NAMES;
export const HEAD = 6;
export const HISTOGRAM = 46;
/** from the ruler's line to the first lane */
const FIGURES = 23;
/** a lane in hand with its name and figures, another one, and what is folded away */
const IN_HAND = 34;
const LANE = 19;
const FOLD = 17;
const BELOW = 4;

/** Where things lie on the rail. */
export interface RailScale {
  readonly ruler: Ruler;
  /** px of the ruler */
  readonly span: number;
  /** how far down its line lies, px */
  readonly axis: number;
  /** px of a distance */
  x(distance: number): number;
  /** the distance that lies so many px from another */
  moved(from: number, dx: number): number;
  colour(distance: number): string;
}

export const railScale = (ruler: Ruler, span: number, axis: number, colour: (distance: number) => string): RailScale => ({
  ruler,
  span,
  axis,
  colour,
  x: (distance) => LEFT + span * rulerPlace(ruler, distance),
  moved: (from, dx) => rulerDistance(ruler, rulerPlace(ruler, from) + dx / span),
});

/** Where a lane lies. */
export interface LaneRow {
  readonly y: number;
  readonly height: number;
  readonly folded: boolean;
}

/** Where lanes lie under the ruler: those in hand first; then the others, or what is left of them when they are folded. */
export function laneRows(
  inHand: number,
  others: number,
  unfolded: boolean,
  axis: number,
): { readonly rows: readonly LaneRow[]; readonly fold: LaneRow | null; readonly height: number } {
  let y = axis + FIGURES;
  const rows: LaneRow[] = [];
  const add = (height: number, gap: number): void => {
    rows.push({ y, height: height - gap, folded: false });
    y += height;
  };
  for (let k = 0; k < inHand; k++) add(IN_HAND, 6);
  if (inHand + others === 0) y += LANE;
  if (unfolded) for (let k = 0; k < others; k++) add(LANE, 4);
  const fold = others > 0 ? { y, height: FOLD - 3, folded: true } : null;
  if (fold && !unfolded) {
    const { step, high } = hairlines(others, fold.height);
    for (let k = 0; k < others; k++) rows.push({ y: y + k * step, height: high, folded: true });
  }
  return { rows, fold, height: y + (fold ? FOLD : 0) + BELOW };
}
