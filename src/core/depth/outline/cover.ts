/** What a stroke or shape covers: a box of the output and the coverage 0..1 in it. */
export interface Cover {
  readonly x0: number;
  readonly y0: number;
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}

/** The cover of what lies outside the output. */
export const NOWHERE: Cover = { x0: 0, y0: 0, width: 0, height: 0, data: new Float32Array(0) };

/** The box in the output of what reaches from left to right and top to bottom, px, with a pixel to spare; null outside it. */
export function boxWithin(
  { width, height }: { width: number; height: number },
  left: number,
  top: number,
  right: number,
  bottom: number,
): Omit<Cover, 'data'> | null {
  const x0 = Math.max(0, Math.floor(left) - 1);
  const y0 = Math.max(0, Math.floor(top) - 1);
  const x1 = Math.min(width, Math.ceil(right) + 1);
  const y1 = Math.min(height, Math.ceil(bottom) + 1);
  return x1 > x0 && y1 > y0 ? { x0, y0, width: x1 - x0, height: y1 - y0 } : null;
}
