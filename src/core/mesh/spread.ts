/** How deep a scene is: inverse distances, 1/m, that nearly all of it lies between, and one that half of it is nearer than. */
export interface Spread {
  readonly least: number;
  readonly middle: number;
  readonly most: number;
}

/** Samples that are looked at. */
const LOOKED_AT = 40_000;
/** Share at either end that may be strays. */
const STRAY = 0.002;
/** A scene that is less deep counts as being so deep, as a share of its nearest: noise of a wall is no depth. */
const SHALLOW = 0.02;

/** How deep something is by the inverse distances of its samples; those below 0 are none. A scene without any is 10 m away. */
export function spreadOf(length: number, q: (i: number) => number): Spread {
  const step = Math.max(1, Math.floor(length / LOOKED_AT));
  const some = new Float64Array(Math.ceil(length / step));
  let count = 0;
  for (let i = 0; i < length; i += step) {
    const v = q(i);
    if (v >= 0) some[count++] = v;
  }
  if (count === 0) return { least: 0.1, middle: 0.1, most: 0.1 };
  const sorted = some.subarray(0, count).sort();
  const at = (share: number): number => sorted[Math.min(count - 1, Math.floor(share * count))]!;
  return { least: at(STRAY), middle: at(0.5), most: at(1 - STRAY) };
}

/** How far the ends lie apart, 1/m: never nothing. */
export const depthOfSpread = ({ least, most }: Pick<Spread, 'least' | 'most'>): number => Math.max(1e-6, SHALLOW * most, most - least);

/** px of parallax for each 1/m where the nearest passes the farthest by a share of the width. */
export const gainFor = (parallax: number, width: number, spread: Pick<Spread, 'least' | 'most'>): number =>
  (parallax * width) / depthOfSpread(spread);
