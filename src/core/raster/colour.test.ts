import { expect, test } from '@jest/globals';
import { decodeTable, encodePicture16, encodePicture8, fromOklab, linearToSrgb, nearnessHex, srgbToLinear, toOklab } from './colour';
import { newPicture } from '../picture';

test('sRGB and linear light are inverse to each other', () => {
  for (let i = 0; i <= 1000; i++) expect(linearToSrgb(srgbToLinear(i / 1000))).toBeCloseTo(i / 1000, 9);
  // IEC 61966-2-1: mid grey 0.5 is 21.4 % of the light
  expect(srgbToLinear(0.5)).toBeCloseTo(0.21404, 5);
});

test('every 8-bit step survives decoding and encoding', () => {
  const table = decodeTable(255);
  const picture = newPicture(256, 1);
  for (let i = 0; i < 256; i++) picture.data.set([table[i]!, table[i]!, table[i]!, 1], i * 4);
  const out = new Uint8ClampedArray(1024);
  encodePicture8(picture, out);
  for (let i = 0; i < 256; i++) expect(out[i * 4]).toBe(i);
});

test('premultiplied light is written with straight alpha', () => {
  const picture = newPicture(1, 1);
  picture.data.set([0.25, 0.25, 0.25, 0.5]);
  const out = new Uint8ClampedArray(4);
  encodePicture8(picture, out);
  expect(out[0]).toBe(Math.round(255 * linearToSrgb(0.5)));
  expect(out[3]).toBe(128);
  expect(encodePicture16(picture, 4)[0]).toBe(Math.round(65535 * linearToSrgb(0.5)));
});

test('light above white and below black is clipped', () => {
  const picture = newPicture(1, 1);
  picture.data.set([40, -1, 1, 1]);
  const out = new Uint8ClampedArray(4);
  encodePicture8(picture, out);
  expect([...out]).toEqual([255, 0, 255, 255]);
});

test('OKLab turns back into the colour it came from', () => {
  for (const c of [
    [0, 0, 0],
    [1, 1, 1],
    [0.9, 0.2, 0.1],
    [0.1, 0.5, 0.8],
  ] as const) {
    const back = fromOklab(toOklab(c));
    for (let k = 0; k < 3; k++) expect(back[k]).toBeCloseTo(c[k]!, 4);
  }
  expect(toOklab([1, 1, 1])[0]).toBeCloseTo(1, 3);
});

test('the hues of distance run from ember through sand to slate', () => {
  expect(nearnessHex(1)).toBe('#f0a04b');
  expect(nearnessHex(0.5)).toBe('#c4b393');
  expect(nearnessHex(0)).toBe('#6a9cc4');
});
