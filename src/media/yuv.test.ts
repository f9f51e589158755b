import { expect, test } from '@jest/globals';
import { seededRandom } from '../core/random';
import { greyToI420, packGrey16, toI420, unpackGrey16 } from './yuv';

const flat = (r: number, g: number, b: number, a = 255): Uint8ClampedArray => Uint8ClampedArray.from({ length: 16 }, (_, i) => [r, g, b, a][i % 4]!);

test('colours become BT.709 in video range', () => {
  // Y, Cb, Cr of the bars of Rec. ITU-R BT.709, 8 bits
  const known: readonly (readonly [number, number, number, readonly [number, number, number]])[] = [
    [255, 255, 255, [235, 128, 128]],
    [0, 0, 0, [16, 128, 128]],
    [255, 0, 0, [63, 102, 240]],
    [0, 255, 0, [173, 42, 26]],
    [0, 0, 255, [32, 240, 118]],
  ];
  for (const [r, g, b, [y, cb, cr]] of known) {
    const planes = toI420(flat(r, g, b), 2, 2);
    expect([planes[0], planes[4], planes[5]].map((v, k) => Math.abs(v! - [y, cb, cr][k]!) <= 1)).toEqual([true, true, true]);
  }
});

test('transparency is a fourth plane of the whole size; chroma is the mean of four', () => {
  const rgba = flat(200, 10, 60, 77);
  rgba.set([0, 0, 0, 255], 0);
  const planes = toI420(rgba, 2, 2, true);
  expect(planes).toHaveLength(4 + 2 + 4);
  expect([...planes.subarray(6)]).toEqual([255, 77, 77, 77]);
  const whole = toI420(flat(150, 7.5, 45), 2, 2);
  expect(Math.abs(planes[4]! - whole[4]!)).toBeLessThanOrEqual(1);
});

test('greys run from 16 to 235', () => {
  expect([...greyToI420(Float32Array.of(0, 1, 0.5, 2), 2, 2)]).toEqual([16, 235, 126, 235, 128, 128]);
});

test('16 bits in two planes come back the same, and the low plane never jumps between neighbours that are one apart', () => {
  const random = seededRandom(5);
  const values = Uint16Array.from({ length: 3000 }, (_, i) => (i < 1000 ? i + 60000 : Math.floor(65536 * random())));
  const planes = packGrey16(values);
  expect(unpackGrey16(planes, values.length)).toEqual(values);
  for (let i = 1; i < 1000; i++) expect(Math.abs(planes[3000 + i]! - planes[2999 + i]!)).toBeLessThanOrEqual(1);
});
