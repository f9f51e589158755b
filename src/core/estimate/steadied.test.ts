import { expect, test } from '@jest/globals';
import { seededRandom } from '../random';
import type { Plane } from '../picture';
import { steadiedTo } from './steadied';

const random = seededRandom(6);
const SIZE = { width: 80, height: 60 };
const scene = (of: (x: number, y: number) => number): Plane => ({
  ...SIZE,
  data: Float32Array.from({ length: 4800 }, (_, i) => of((i % 80) / 80, Math.floor(i / 80) / 60)),
});
const still = scene((x, y) => 0.2 + 0.5 * y + 0.1 * Math.sin(7 * x));
const difference = (a: Plane, b: Plane): number => a.data.reduce((sum, v, i) => sum + Math.abs(v - b.data[i]!), 0) / a.data.length;

test('levels that change from estimate to estimate are brought to those before', () => {
  const other = { ...SIZE, data: still.data.map((v) => 0.7 * v + 0.12) };
  expect(difference(steadiedTo(still, other), still)).toBeLessThan(1e-4);
  expect(difference(other, still)).toBeGreaterThan(0.02);
});

test('what moved is where it is now, and noise of what stands still halves', () => {
  const moved = scene((x, y) =>
    x > 0.6 && x < 0.8 && y > 0.3 && y < 0.7 ? 0.95 : still.data[Math.floor(y * 60 + 1e-6) * 80 + Math.floor(x * 80 + 1e-6)]!,
  );
  const noisy = { ...SIZE, data: moved.data.map((v) => v + 0.03 * (random() - 0.5)) };
  const out = steadiedTo(still, noisy);
  expect(Math.abs(out.data[30 * 80 + 56]! - 0.95)).toBeLessThan(0.03);
  const errorAt = (plane: Plane): number =>
    Math.abs(plane.data[10 * 80 + 10]! - still.data[10 * 80 + 10]!) + Math.abs(plane.data[50 * 80 + 20]! - still.data[50 * 80 + 20]!);
  expect(errorAt(out)).toBeLessThan(0.75 * errorAt(noisy) + 1e-3);
});

test('another scene, another size and the first map are left as they are', () => {
  const other = scene(() => random());
  expect(steadiedTo(null, still)).toBe(still);
  expect(steadiedTo({ width: 40, height: 30, data: new Float32Array(1200) }, still)).toBe(still);
  const out = steadiedTo(still, other);
  expect(out.data.every((v) => v >= 0 && v <= 1)).toBe(true);
  const flat = { ...SIZE, data: new Float32Array(4800).fill(0.5) };
  expect(steadiedTo(still, flat)).toBe(flat);
});
