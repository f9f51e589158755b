import { describe, expect, test } from '@jest/globals';
import { coverage } from '../motion/view';
import { coarseFlow, denseFlow, enlargedFlow, pyramid } from '../motion/flow';
import { linkFrames } from '../motion/links';
import { seededRandom } from '../random';
import { boxMean } from '../raster/filters';
import type { Plane, Raster } from '../picture';
import { addTold, boxMeans, carriedMean, chainedWay, shrunkBytes, type Field, type Way } from './motionHost';
import { addToldTwin, carriedTwin, chainedTwin, shrunkTwin } from '../motion/motionTwin';

const SIZES = [
  [64, 48],
  [61, 47],
  [23, 50],
] as const;

const random = seededRandom(11);
const numbers = (n: number, low: number, high: number): Float32Array => Float32Array.from({ length: n }, () => low + (high - low) * random());
const plane = (width: number, height: number, low = 0, high = 1): Plane => ({ width, height, data: numbers(width * height, low, high) });
const field = (width: number, height: number): Field => ({
  width,
  height,
  u: numbers(width * height, -4, 4),
  v: numbers(width * height, -4, 4),
});
const seenOf = (n: number): Uint8Array => Uint8Array.from({ length: n }, () => (random() < 0.8 ? 1 : 0));
/** A way whose vectors are kept at their own size, or at half of it. */
const way = (width: number, height: number, halved: boolean): Way => ({
  vectors: halved ? field(width >> 1, height >> 1) : field(width, height),
  seen: seenOf(width * height),
});

const farthest = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  let most = 0;
  for (let i = 0; i < a.length; i++) most = Math.max(most, Math.abs(a[i]! - b[i]!));
  return most;
};

describe('a frame made small', () => {
  test.each([
    [97, 53, 23, 13],
    [64, 32, 16, 8],
    [40, 30, 40, 30],
    [31, 7, 30, 6],
  ])('%i x %i at %i x %i: means over what each pixel covers', (w, h, width, height) => {
    const data = Uint8Array.from({ length: w * h * 4 }, () => 256 * random());
    const raster: Raster = { width: w, height: h, channels: 4, data };
    const [across, down] = [coverage(w, width), coverage(h, height)];
    const made = shrunkBytes(data, w, across, down);
    const twin = shrunkTwin(raster, across, down);
    expect(farthest(made.luma, twin.luma)).toBeLessThan(1e-3);
    expect(farthest(made.rgb, twin.rgb)).toBeLessThan(0.501);
    // nothing is lost: the mean of all is that of the picture
    const mean = (v: ArrayLike<number>, step: number): number =>
      Array.from(v).reduce((s, x, i) => (i % step === 0 ? s + x : s), 0) / (v.length / step);
    expect(mean(twin.rgb, 3)).toBeCloseTo(mean(data, 4), 2);
  });

  test('shares of what is covered sum up to one', () => {
    for (const [from, to] of [
      [1920, 480],
      [1000, 333],
      [17, 16],
    ] as const) {
      const { first, most, shares } = coverage(from, to);
      for (let k = 0; k < to; k++) {
        const own = shares.subarray(k * most, (k + 1) * most);
        expect(own.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 5);
        expect(first[k]! + own.findLastIndex((s) => s > 0)).toBeLessThan(from);
      }
    }
  });
});

describe.each(SIZES)('kernels of motion at %i x %i do what their twins do', (w, h) => {
  test.each([false, true])('ways after another (kept at half size: %s)', (halved) => {
    const [first, second] = [way(w, h, halved), way(w, h, halved)];
    const made = chainedWay(first, second, w, h);
    const twin = chainedTwin(first, second, w, h);
    expect(farthest(made.vectors.u, twin.vectors.u)).toBeLessThan(1e-4);
    expect(farthest(made.vectors.v, twin.vectors.v)).toBeLessThan(1e-4);
    expect(made.seen).toEqual(twin.seen);
  });

  test.each([false, true])('what a map on another frame tells (kept at half size: %s)', (halved) => {
    const told = {
      way: way(w, h, halved),
      map: plane(w, h),
      there: plane(w, h, 0, 60),
      here: plane(w, h, 0, 60),
      near: 0.5,
      hidden: 0.003,
      like: 14,
    };
    const [sum, total] = [numbers(w * h, 0, 1), numbers(w * h, 0, 1)];
    const [sumTwin, totalTwin] = [sum.slice(), total.slice()];
    addTold(told, sum, total);
    addToldTwin(told, sumTwin, totalTwin);
    expect(farthest(sum, sumTwin)).toBeLessThan(1e-5);
    expect(farthest(total, totalTwin)).toBeLessThan(1e-5);
  });

  test.each([false, true])('a mean carried on (kept at half size: %s)', (halved) => {
    const last = { value: numbers(w * h, 0, 1), count: numbers(w * h, 1, 40) };
    const [map, luma, lumaLast] = [plane(w, h), plane(w, h, 0, 60), plane(w, h, 0, 60)];
    const along = way(w, h, halved);
    const how = { memory: 30, soft: 0.2, noise: 100, miss: 0.25 };
    const made = carriedMean(map, luma, along, last, lumaLast, how);
    const twin = carriedTwin(map, luma, along, last, lumaLast, how);
    expect(farthest(made.value, twin.value)).toBeLessThan(1e-5);
    expect(farthest(made.count, twin.count)).toBeLessThan(1e-3);
    // a pixel that is not seen there begins anew
    along.seen.forEach((seen, i) => !seen && expect([made.value[i], made.count[i]]).toEqual([map.data[i], 1]));
  });

  test('box means are those of boxMean, to the bit', () => {
    const planes = [plane(w, h), plane(w, h, -3, 9)];
    for (const radius of [1, 8, 40])
      expect(
        boxMeans(
          planes.map((p) => p.data),
          w,
          h,
          radius,
        ),
      ).toEqual(planes.map((p) => boxMean(p, radius).data));
  });
});

test.each(SIZES)('a link at %i x %i keeps its flow at half size and gives it whole', (w, h) => {
  const [a, b] = [plane(w, h, 0, 255), plane(w, h, 0, 255)].map((p) => boxMean(p, 3)) as [Plane, Plane];
  const { there } = linkFrames(a, b);
  expect(there.kept).toEqual(coarseFlow(pyramid(a), pyramid(b)));
  expect(there.flow).toEqual(denseFlow(pyramid(a), pyramid(b)));
  expect(enlargedFlow(there.kept!, w, h)).toEqual(there.flow);
});
