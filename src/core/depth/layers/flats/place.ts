import type { Flat } from './content';

type Box = Pick<Flat, 'x' | 'y' | 'height' | 'aspect'>;

/** Room left between flats and to the plate's borders, shares of the plate's width. */
const GAP = 0.02;
const FOOT = 0.9;

/**
 * Where a new flat stands free of those that are there: in the middle where it is the first, else beside the last, in the row above
 * where that one is full, and over the others once the plate is. `plateAspect` is width/height of the plate; sizes in shares of its height.
 */
export function freePlace(flats: readonly Box[], size: Pick<Flat, 'height' | 'aspect'>, plateAspect: number): { x: number; y: number } {
  const widthOf = (f: Pick<Flat, 'height' | 'aspect'>): number => (f.height * f.aspect) / plateAspect;
  const width = widthOf(size);
  const last = flats[flats.length - 1];
  if (!last) return { x: 0.5, y: FOOT };
  const overlaps = (x: number, y: number): boolean =>
    flats.some((f) => Math.abs(f.x - x) < (widthOf(f) + width) / 2 + GAP / 2 && f.y > y - size.height && f.y - f.height < y);
  const left = width / 2 + GAP;
  for (let y = last.y; y - size.height > 0; y -= Math.max(size.height, 0.05) + GAP)
    for (let x = y === last.y ? last.x : left; x <= 1 - left + 1e-9; x += GAP) if (!overlaps(x, y)) return { x, y };
  return { x: Math.min(1 - GAP, last.x + GAP), y: Math.max(size.height, last.y - GAP) };
}
