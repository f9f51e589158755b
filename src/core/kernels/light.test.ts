import { expect, test } from '@jest/globals';
import { seededRandom } from '../random';
import { encodePicture8, linearToSrgb } from '../raster/colour';
import { newPicture, type Raster } from '../picture';
import { rasterRow, sampleRaster } from '../raster/resample';
import { footprints } from './lightHost';

const random = seededRandom(8);
const still = (width: number, height: number, channels: 1 | 2 | 3 | 4, wide: boolean): Raster => {
  const values = Array.from({ length: width * height * channels }, () => Math.floor(random() * (wide ? 65536 : 256)));
  return { width, height, channels, data: wide ? Uint16Array.from(values) : Uint8Array.from(values) };
};
const worst = (a: ArrayLike<number>, b: ArrayLike<number>): number => {
  let most = 0;
  for (let i = 0; i < a.length; i++) most = Math.max(most, Math.abs(a[i]! - b[i]!));
  return most;
};

/** A turn too small to move anything, which goes the way of turned pictures: that loop is the kernel's twin. */
const HARDLY_TURNED = 1e-9;

test.each([
  ['RGB made smaller', 3, false, { a: 3.3, b: 0, c: 0, d: 0, e: 2.7, f: 0 }],
  ['RGB of 16 bits made larger', 3, true, { a: 0.4, b: 0, c: 1.2, d: 0, e: 0.3, f: 0.7 }],
  ['RGBA over its border', 4, false, { a: 1.9, b: 0, c: -9, d: 0, e: 1.6, f: -7 }],
  ['RGBA of 16 bits, mirrored', 4, true, { a: -1.5, b: 0, c: 34, d: 0, e: 1.5, f: 0 }],
  ['grey', 1, false, { a: 2, b: 0, c: 0.5, d: 0, e: 2, f: 0.5 }],
  ['grey with alpha', 2, true, { a: 1.25, b: 0, c: -3, d: 0, e: 1, f: 0 }],
  ['all of it outside', 3, false, { a: 1, b: 0, c: 90, d: 0, e: 1, f: 0 }],
] as const)('the kernel samples as its twin does: %s', (_, channels, wide, map) => {
  const raster = still(37, 29, channels, wide);
  const fast = sampleRaster(raster, map, 21, 17);
  const slow = sampleRaster(raster, { ...map, b: HARDLY_TURNED }, 21, 17);
  expect(worst(fast.data, slow.data)).toBeLessThan(1e-5);
});

test('alpha that is none is not looked at', () => {
  const raster = { ...still(9, 9, 4, false), opaque: true };
  const out = sampleRaster(raster, { a: 3, b: 0, c: 0, d: 0, e: 3, f: 0 }, 3, 3);
  for (let i = 3; i < out.data.length; i += 4) expect(out.data[i]).toBeCloseTo(1, 6);
});

test.each([1, 2, 3, 4] as const)('a row read by itself is the row of the whole: %i channels', (channels) => {
  const raster = still(13, 5, channels, channels % 2 === 0);
  const whole = sampleRaster(raster, { a: 1, b: 0, c: 0, d: 0, e: 1, f: 0 }, 13, 5);
  const row = new Float32Array(13 * 4);
  rasterRow(raster, 3, row);
  expect(worst(row, whole.data.subarray(3 * 52, 4 * 52))).toBeLessThan(1e-6);
});

test('footprints share out every source pixel once, and outside there are none', () => {
  const shares = new Float64Array(50);
  const prints = footprints(7, 50 / 7, 0, 50);
  for (let k = 0; k < 7; k++) for (let i = 0; i < prints.covered[k]!; i++) shares[prints.first[k]! + i]! += prints.weights[prints.at[k]! + i]!;
  shares.forEach((share) => expect(share).toBeCloseTo(1, 5));
  const beyond = footprints(4, 1, 100, 50);
  expect([...beyond.covered]).toEqual([0, 0, 0, 0]);
  expect([...beyond.total]).toEqual([0, 0, 0, 0]);
});

test('encoding: every step of sRGB comes back, light outside 0..1 is clipped, no number is black, alpha is straight', () => {
  const picture = newPicture(20000, 1);
  const linear = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
  for (let i = 0; i < 20000; i++) picture.data.set([linear((i % 256) / 255), -0.1, 3, 1], i * 4);
  // beyond the first batch of pixels
  picture.data.set([NaN, 0.25, 0.5, 0.5], 19999 * 4);
  picture.data.set([0.2, 0.2, 0.2, 0], 19998 * 4);
  const out = new Uint8ClampedArray(80000);
  encodePicture8(picture, out);
  for (let i = 0; i < 19998; i++)
    if (out[i * 4] !== i % 256 || out[i * 4 + 1] !== 0 || out[i * 4 + 2] !== 255 || out[i * 4 + 3] !== 255) throw new Error(`pixel ${i}`);
  expect([...out.subarray(19999 * 4)]).toEqual([0, Math.round(255 * linearToSrgb(0.5)), 255, 128]);
  expect(out[19998 * 4 + 3]).toBe(0);
});
