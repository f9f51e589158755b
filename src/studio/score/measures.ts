/** What rail and timeline have in common, px: a column of names at the left, distances and time beside it, and what is left free at the right. */
export const NAMES = 160;
export const END = 16;
/** Where names begin. */
export const NAME_LEFT = 14;
/** How so many rows that are folded away share a height, px: from one to the next, and how high each is. */
export function hairlines(count: number, height: number): { readonly step: number; readonly high: number } {
  const step = Math.min(5, height / Math.max(1, count));
  return { step, high: 0.75 * step };
}
/** How wide a name may be. */
export const NAME_WIDE = NAMES - NAME_LEFT - 10;
