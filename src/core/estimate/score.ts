import { seededRandom } from '../random';
import type { Plane } from '../picture';

/** Pairs drawn, and how far apart in 1/z (share of the larger) they must be to count. */
const PAIRS = 20000;
const APART = 0.02;

/**
 * Share of random point pairs (at least 2 % apart in 1/z) that a map orders as the true distances do; ties count half.
 * The map may have any size; it is read at the same place of the picture.
 */
export function orderScore(map: Plane, distance: Plane, seed = 1): number {
  const random = seededRandom(seed);
  let right = 0;
  let counted = 0;
  for (let tries = 0; counted < PAIRS && tries < PAIRS * 20; tries++) {
    const [x0, y0, x1, y1] = [random(), random(), random(), random()];
    const [a, b] = [1 / at(distance, x0, y0), 1 / at(distance, x1, y1)];
    if (Math.abs(a - b) <= APART * Math.max(a, b)) continue;
    const d = at(map, x0, y0) - at(map, x1, y1);
    right += d === 0 ? 0.5 : d > 0 === a > b ? 1 : 0;
    counted++;
  }
  return counted > 0 ? right / counted : 0.5;
}

const at = (plane: Plane, x: number, y: number): number =>
  plane.data[Math.min(plane.height - 1, Math.floor(y * plane.height)) * plane.width + Math.min(plane.width - 1, Math.floor(x * plane.width))]!;

/** Spearman's rank correlation of a map with 1/z, on 20 000 random points. */
export function spearman(map: Plane, distance: Plane, seed = 1): number {
  const random = seededRandom(seed);
  const a: number[] = [];
  const b: number[] = [];
  for (let i = 0; i < PAIRS; i++) {
    const [x, y] = [random(), random()];
    a.push(at(map, x, y));
    b.push(1 / at(distance, x, y));
  }
  return correlationOfRanks(a, b);
}

/** Places along each side at which two maps are compared. */
const GRID = 96;

/** Spearman's rank correlation of two maps laid over each other, of any sizes, on a grid; what is no number is left out. */
export function rankCorrelation(a: Plane, b: Plane): number {
  const pairs: [number, number][] = [];
  for (let j = 0; j < GRID; j++)
    for (let i = 0; i < GRID; i++) {
      const [x, y] = [(i + 0.5) / GRID, (j + 0.5) / GRID];
      const pair: [number, number] = [at(a, x, y), at(b, x, y)];
      if (!pair.some(Number.isNaN)) pairs.push(pair);
    }
  return correlationOfRanks(
    pairs.map(([v]) => v),
    pairs.map(([, v]) => v),
  );
}

/** Spearman's rank correlation of numbers that belong together, -1..1; 0 where either are all the same. */
function correlationOfRanks(a: readonly number[], b: readonly number[]): number {
  const [ra, rb] = [ranks(a), ranks(b)];
  const mean = (a.length - 1) / 2;
  let [ab, aa, bb] = [0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    ab += (ra[i]! - mean) * (rb[i]! - mean);
    aa += (ra[i]! - mean) ** 2;
    bb += (rb[i]! - mean) ** 2;
  }
  return aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : 0;
}

/** Ranks from 0; equal values share their mean rank. */
function ranks(values: readonly number[]): Float64Array {
  const order = Array.from(values.keys()).sort((i, j) => values[i]! - values[j]!);
  const out = new Float64Array(values.length);
  for (let i = 0; i < order.length;) {
    let j = i;
    while (j < order.length && values[order[j]!] === values[order[i]!]) j++;
    for (let k = i; k < j; k++) out[order[k]!] = (i + j - 1) / 2;
    i = j;
  }
  return out;
}
