import { expect, test } from '@jest/globals';
import { seededRandom } from '../random';
import { srgbToLinear } from './colour';
import { newPlane, type Plane, type Raster } from '../picture';
import { enlargeSmoothly, fitLongSide, samplePlaneLinear, samplePlaneNearest, sampleRaster, shrinkPicture, stretch, thinRaster } from './resample';

const grey = (width: number, height: number, value: (x: number, y: number) => number): Raster => ({
  width,
  height,
  channels: 1,
  data: Uint8Array.from({ length: width * height }, (_, i) => value(i % width, Math.floor(i / width))),
});

test('a picture at its own size is read pixel for pixel', () => {
  const raster = grey(7, 5, (x, y) => 10 * x + 3 * y);
  const out = sampleRaster(raster, stretch(raster, 7, 5), 7, 5);
  for (let i = 0; i < 35; i++) expect(out.data[i * 4]).toBeCloseTo(srgbToLinear(raster.data[i]! / 255), 6);
});

test('minification averages light, not encoded values', () => {
  const raster = grey(2, 2, (x, y) => ((x + y) % 2 ? 255 : 0));
  const out = sampleRaster(raster, stretch(raster, 1, 1), 1, 1);
  expect(out.data[0]).toBeCloseTo(0.5, 6);
});

test('a fractional footprint weighs its pixels by the area covered', () => {
  // 3 px onto 2: the first output pixel covers one and a half
  const raster = grey(3, 1, (x) => [255, 0, 0][x]!);
  const out = sampleRaster(raster, stretch(raster, 2, 1), 2, 1);
  expect(out.data[0]).toBeCloseTo(2 / 3, 5);
  expect(out.data[4]).toBeCloseTo(0, 6);
});

test('the mean light of a picture survives any reduction', () => {
  const raster = grey(60, 40, (x, y) => (x * 7 + y * 13) % 256);
  let mean = 0;
  for (const v of raster.data) mean += srgbToLinear(v / 255) / raster.data.length;
  for (const [w, h] of [
    [30, 20],
    [17, 11],
    [5, 40],
  ] as const) {
    const out = sampleRaster(raster, stretch(raster, w, h), w, h);
    let m = 0;
    for (let i = 0; i < w * h; i++) m += out.data[i * 4]! / (w * h);
    expect(m).toBeCloseTo(mean, 3);
  }
});

test('outside the picture is transparent, the border itself is not faded', () => {
  const raster = grey(4, 4, () => 255);
  const out = sampleRaster(raster, { a: 1, b: 0, c: -2, d: 0, e: 1, f: 0 }, 4, 4);
  expect(out.data[3]).toBe(0);
  expect(out.data[2 * 4 + 3]).toBeCloseTo(1, 6);
});

test('see-through colour does not bleed: light is premultiplied', () => {
  const raster: Raster = { width: 2, height: 1, channels: 4, data: Uint8Array.from([255, 0, 0, 0, 0, 255, 0, 255]) };
  const out = sampleRaster(raster, stretch(raster, 1, 1), 1, 1);
  expect(out.data[0]).toBe(0);
  expect(out.data[1]).toBeCloseTo(0.5, 6);
  expect(out.data[3]).toBeCloseTo(0.5, 6);
});

test('sampling can be stopped between rows', () => {
  const raster = grey(4, 64, () => 255);
  const rows: number[] = [];
  const sample = (): unknown =>
    sampleRaster(raster, stretch(raster, 4, 64), 4, 64, false, (row) => {
      rows.push(row);
      if (row >= 32) throw new Error('enough');
    });
  expect(sample).toThrow('enough');
  expect(rows).toEqual([0, 16, 32]);
});

test('planes: nearest keeps values, linear mixes them, both repeat the border', () => {
  const plane = { width: 2, height: 1, data: Float32Array.from([0, 1]) };
  const twice = { a: 0.5, b: 0, c: 0, d: 0, e: 1, f: 0 };
  expect([...samplePlaneNearest(plane, twice, 4, 1).data]).toEqual([0, 0, 1, 1]);
  expect([...samplePlaneLinear(plane, twice, 4, 1).data]).toEqual([0, 0.25, 0.75, 1]);
});

test('enlarging smoothly keeps what is even, what slopes evenly, and its range; its slopes never jump', () => {
  const small = newPlane(12, 8);
  for (let i = 0; i < small.data.length; i++) small.data[i] = 0.5 + 0.02 * (i % 12) - 0.01 * Math.floor(i / 12);
  const even = enlargeSmoothly(small, 120, 80);
  for (const [x, y] of [
    [30, 40],
    [61, 33],
    [88, 52],
  ] as const)
    expect(even.data[y * 120 + x]).toBeCloseTo(0.5 + 0.02 * ((x + 0.5) / 10 - 0.5) - 0.01 * ((y + 0.5) / 10 - 0.5), 5);
  const peak = newPlane(12, 8);
  peak.data[4 * 12 + 6] = 1;
  const bend = (p: Plane): number => {
    let most = 0;
    for (let i = 1; i < p.data.length - 1; i++)
      if (i % 120 > 0 && i % 120 < 119) most = Math.max(most, Math.abs(p.data[i - 1]! - 2 * p.data[i]! + p.data[i + 1]!));
    return most;
  };
  const smooth = enlargeSmoothly(peak, 120, 80);
  expect(bend(smooth)).toBeLessThan(bend(samplePlaneLinear(peak, stretch(peak, 120, 80), 120, 80)) / 5);
  expect(Math.min(...smooth.data)).toBeGreaterThanOrEqual(0);
  expect(Math.max(...smooth.data)).toBeLessThanOrEqual(1);
});

test('thinning takes every n-th pixel; shrinking averages', () => {
  const raster = grey(6, 6, (x, y) => x + 10 * y);
  expect([...thinRaster(raster, 3).data]).toEqual([11, 14, 41, 44]);
  const picture = { width: 2, height: 2, data: Float32Array.from([1, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1]) };
  expect([...shrinkPicture(picture, 1, 1).data]).toEqual([0.25, 0, 0, 1]);
});

test('shrinking counts the pixels that a smaller one covers in part', () => {
  const row = (...reds: number[]) => ({ width: reds.length, height: 1, data: Float32Array.from(reds.flatMap((r) => [r, 0, 0, 1])) });
  const reds = (p: { readonly data: Float32Array }): number[] => [...p.data].filter((_, i) => i % 4 === 0);
  // the middle one of three goes to both halves
  expect(reds(shrinkPicture(row(3, 6, 9), 2, 1))).toEqual([4, 8]);
  // light is kept at any ratio, on both axes
  const wide = { width: 23, height: 17, data: Float32Array.from({ length: 23 * 17 * 4 }, (_, i) => (i % 4 === 3 ? 1 : ((i * 29) % 101) / 101)) };
  const mean = (values: number[]): number => values.reduce((a, b) => a + b, 0) / values.length;
  for (const [w, h] of [
    [7, 5],
    [22, 17],
    [5, 16],
  ] as const) {
    const small = shrinkPicture(wide, w, h);
    expect(mean(reds(small))).toBeCloseTo(mean(reds(wide)), 5);
    expect(small.data[3]).toBeCloseTo(1, 6);
  }
  // a plain picture stays plain, also where it is enlarged
  expect(reds(shrinkPicture(row(0.5, 0.5, 0.5), 7, 2)).every((v) => Math.abs(v - 0.5) < 1e-6)).toBe(true);
});

test('a long side is never enlarged', () => {
  expect(fitLongSide({ width: 4000, height: 3000 }, 1000)).toEqual({ width: 1000, height: 750 });
  expect(fitLongSide({ width: 20, height: 10 }, 1000)).toEqual({ width: 20, height: 10 });
});

test('what is not turned is sampled as what is turned by next to nothing: smaller, larger, mirrored, moved, with alpha', () => {
  const random = seededRandom(12);
  for (const channels of [3, 4] as const) {
    const raster = { width: 23, height: 17, channels, data: Uint8Array.from({ length: 23 * 17 * channels }, () => 256 * random()) };
    for (const [a, c, e, f] of [
      [2.3, 0, 1.7, 0],
      [0.4, -3, 0.6, 5],
      [-1, 23, 1, 0],
      [1, -30, 1, 4],
    ] as const) {
      const upright = sampleRaster(raster, { a, b: 0, c, d: 0, e, f }, 12, 9);
      const turned = sampleRaster(raster, { a, b: 1e-12, c, d: 1e-12, e, f }, 12, 9);
      upright.data.forEach((v, i) => expect(v).toBeCloseTo(turned.data[i]!, 5));
    }
  }
});
