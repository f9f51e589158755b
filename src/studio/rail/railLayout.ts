import { rulerDistance, rulerPlace, type Ruler } from '../../core/depth/ruler';

/** Measures of the rail, px. */
export const PAD = 22;
export const HEAD = 30;
export const HISTOGRAM = 52;
export const AXIS = HEAD + HISTOGRAM;
export const LANE_TOP = AXIS + 23;
/** a lane with its caption, and one that is folded because there are many */
export const LANE = 19;
export const FOLDED = 13;
/** so many lanes stand at full height */
const OPEN_LANES = 2;

/** Where things lie on the rail. */
export interface RailScale {
  readonly ruler: Ruler;
  /** px of the ruler */
  readonly span: number;
  /** px of a distance */
  x(distance: number): number;
  /** the distance that lies so many px from another */
  moved(from: number, dx: number): number;
  colour(distance: number): string;
}

export const railScale = (ruler: Ruler, span: number, colour: (distance: number) => string): RailScale => ({
  ruler,
  span,
  colour,
  x: (distance) => PAD + span * rulerPlace(ruler, distance),
  moved: (from, dx) => rulerDistance(ruler, rulerPlace(ruler, from) + dx / span),
});

/** Where each of so many lanes lies: with more than a few, only the one in hand stands at full height. */
export function laneRows(count: number, inHand: number): readonly { readonly y: number; readonly height: number; readonly folded: boolean }[] {
  let y = LANE_TOP;
  return Array.from({ length: count }, (_, k) => {
    const folded = count > OPEN_LANES && k !== inHand;
    const row = { y, height: (folded ? FOLDED : LANE) - 4, folded };
    y += folded ? FOLDED : LANE;
    return row;
  });
}
