/** A box in a picture, in any unit. */
export interface Box {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

/** What two boxes have in common, of what both cover. */
export function overlap(a: Box, b: Box): number {
  const w = Math.max(0, Math.min(a.right, b.right) - Math.max(a.left, b.left));
  const h = Math.max(0, Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top));
  const area = ({ left, top, right, bottom }: Box): number => (right - left) * (bottom - top);
  return (w * h) / Math.max(1e-9, area(a) + area(b) - w * h);
}
