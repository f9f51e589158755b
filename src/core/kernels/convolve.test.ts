import { expect, test } from '@jest/globals';
import { seededRandom } from '../random';
import { convolve, paddedSize, type Activation, type Maps, type Taps } from './convolveHost';
import { convolveTwin } from './convolveTwin';

const random = seededRandom(5);
const noise = (n: number): Float32Array => Float32Array.from({ length: n }, () => 2 * random() - 1);
const maps = (channels: number, width: number, height: number): Maps => ({ channels, width, height, data: noise(channels * width * height) });
const taps = (outputs: number, inputs: number, size: number): Taps => ({
  outputs,
  inputs,
  size,
  weights: noise(outputs * inputs * size * size),
  bias: noise(outputs),
});

function worst(a: Float32Array, b: Float32Array): number {
  expect(a.length).toBe(b.length);
  return a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i]!)), 0);
}

test.each<[string, number, number, number, number, number, Activation, 1 | 2]>([
  ['one tap, widths that fill no vector', 7, 5, 6, 10, 1, 'none', 1],
  ['3x3', 3, 17, 9, 4, 3, 'rectify', 1],
  ['3x3, halved', 3, 32, 18, 16, 3, 'swish', 2],
  ['3x3, halved, odd sides', 4, 33, 19, 8, 3, 'none', 2],
  ['one pixel', 2, 1, 1, 3, 3, 'none', 1],
])('the kernel convolves as its twin does: %s', (_, inputs, width, height, outputs, size, activation, stride) => {
  const [from, by] = [maps(inputs, width, height), taps(outputs, inputs, size)];
  const out = convolve(from, by, activation, stride);
  const twin = convolveTwin(from, by, activation, stride);
  expect([out.channels, out.width, out.height]).toEqual([twin.channels, twin.width, twin.height]);
  expect(worst(out.data, twin.data)).toBeLessThan(1e-4);
});

test('the border may lie elsewhere', () => {
  const [from, by] = [maps(3, 16, 12), taps(4, 3, 3)];
  const out = convolve(from, by, 'none', 2, 1);
  expect(worst(out.data, convolveTwin(from, by, 'none', 2, 1).data)).toBeLessThan(1e-4);
  expect(worst(out.data, convolve(from, by, 'none', 2).data)).toBeGreaterThan(0.1);
});

test.each<[number, number, number, number, Activation, 1 | 2]>([
  [6, 21, 11, 3, 'rectify', 1],
  [5, 24, 12, 3, 'swish', 2],
  [9, 20, 14, 5, 'none', 1],
  [9, 20, 14, 5, 'swish', 2],
])('planes with taps of their own: %i of %i x %i by %i px, %s, stride %i', (channels, width, height, size, activation, stride) => {
  const [from, by] = [maps(channels, width, height), taps(channels, 1, size)];
  expect(worst(convolve(from, by, activation, stride).data, convolveTwin(from, by, activation, stride).data)).toBeLessThan(1e-4);
});

test('a single tap in the middle gives the picture back, one beside it moves it, and beyond the border all is zero', () => {
  const from = maps(1, 9, 4);
  const one = (at: number): Taps => ({
    outputs: 1,
    inputs: 1,
    size: 3,
    weights: Float32Array.from({ length: 9 }, (_, k) => (k === at ? 1 : 0)),
    bias: new Float32Array(1),
  });
  expect(convolve(from, one(4), 'none').data).toEqual(from.data);
  const moved = convolve(from, one(5), 'none').data;
  for (let y = 0; y < 4; y++) for (let x = 0; x < 9; x++) expect(moved[y * 9 + x]).toBe(x === 8 ? 0 : from.data[y * 9 + x + 1]!);
});

test('hard swish is 0 below −3, the value itself above 3, and x(x + 3)/6 between', () => {
  const values = [-5, -3, -1, 0, 1.5, 3, 7];
  const from: Maps = { channels: 1, width: values.length, height: 1, data: Float32Array.from(values) };
  const through: Taps = { outputs: 1, inputs: 1, size: 1, weights: Float32Array.of(1), bias: new Float32Array(1) };
  const out = [...convolve(from, through, 'swish').data];
  [0, 0, -1 / 3, 0, 1.125, 3, 7].forEach((v, i) => expect(out[i]).toBeCloseTo(v, 6));
});

test('planes of every size find a place: whole multiples of 32 up to 1024, and their halves, with every size of taps', () => {
  for (let width = 8; width <= 1024; width += 8)
    for (let height = 1; height <= 1024; height += height % 32 === 30 ? 2 : 1)
      for (const size of [1, 3, 5]) {
        const { pitch, rows } = paddedSize(width, height, size);
        if ((pitch * rows) % 64 === 0 || pitch < width + size - 1 || rows < height + size - 1 || pitch > width + size + 64 || rows > height + size)
          throw new Error(`${width}x${height}, taps of ${size}: pitch ${pitch}, ${rows} rows`);
      }
});

test('a picture whose rows with their border are a multiple of 64 is convolved', () => {
  const [from, by] = [maps(2, 24, 62), taps(4, 2, 3)];
  expect(worst(convolve(from, by, 'none').data, convolveTwin(from, by, 'none').data)).toBeLessThan(1e-4);
});
