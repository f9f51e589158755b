/** The mark: four bars that shrink from near to far, in a field of 20x20. */
export const MARK_BARS = [
  { x: 1, y: 3, w: 4, h: 14, near: 1 },
  { x: 7, y: 5.5, w: 3.4, h: 9, near: 0.5 },
  { x: 12.3, y: 7.5, w: 2.8, h: 5, near: 0.25 },
  { x: 17, y: 9, w: 2, h: 2, near: 0 },
] as const;
