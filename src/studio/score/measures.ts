/** What rail and timeline have in common, px: a column of names at the left, distances and time beside it, and what is left free at the right. */
export const NAMES = 160;
export const END = 16;
/** Where names begin. */
export const NAME_LEFT = 14;
/** How wide a name may be. */
export const NAME_WIDE = NAMES - NAME_LEFT - 10;
