import { expect, test } from '@jest/globals';
import { boxMean, extreme, gaussian, gradient, quantile } from './filters';
import { constantPlane, newPlane } from '../picture';

const impulse = (width: number, height: number, x: number, y: number) => {
  const plane = newPlane(width, height);
  plane.data[y * width + x] = 1;
  return plane;
};

test('a constant stays what it is', () => {
  const plane = constantPlane(9, 7, 0.3);
  for (const out of [boxMean(plane, 2), gaussian(plane, 1.5)]) for (const v of out.data) expect(v).toBeCloseTo(0.3, 6);
  for (const v of gradient(plane).data) expect(v).toBe(0);
});

test('a box mean spreads an impulse evenly over its window', () => {
  const out = boxMean(impulse(11, 11, 5, 5), 2);
  for (let y = 0; y < 11; y++)
    for (let x = 0; x < 11; x++) expect(out.data[y * 11 + x]).toBeCloseTo(Math.abs(x - 5) <= 2 && Math.abs(y - 5) <= 2 ? 1 / 25 : 0, 6);
});

test('windows are clamped at the border: the mean is of what there is', () => {
  const out = boxMean({ width: 3, height: 1, data: Float32Array.from([3, 0, 0]) }, 1);
  expect([...out.data]).toEqual([1.5, 1, 0]);
});

test('the smoothing has the variance asked for and keeps the sum', () => {
  const sigma = 3;
  const out = gaussian(impulse(61, 61, 30, 30), sigma);
  let sum = 0;
  let variance = 0;
  for (let i = 0; i < out.data.length; i++) {
    sum += out.data[i]!;
    variance += out.data[i]! * ((i % 61) - 30) ** 2;
  }
  expect(sum).toBeCloseTo(1, 5);
  expect(Math.sqrt(variance)).toBeGreaterThan(sigma * 0.9);
  expect(Math.sqrt(variance)).toBeLessThan(sigma * 1.15);
});

test('extremes of a window', () => {
  const plane = { width: 5, height: 1, data: Float32Array.from([4, 1, 3, 2, 5]) };
  expect([...extreme(plane, 1, 'smallest').data]).toEqual([1, 1, 1, 2, 2]);
  expect([...extreme(plane, 1, 'largest').data]).toEqual([4, 4, 3, 5, 5]);
});

test('the gradient of a slope is the slope', () => {
  const plane = newPlane(8, 8);
  for (let i = 0; i < 64; i++) plane.data[i] = 0.1 * (i % 8) + 0.2 * Math.floor(i / 8);
  expect(gradient(plane).data[3 * 8 + 3]).toBeCloseTo(Math.hypot(0.1, 0.2), 6);
});

test('quantiles', () => {
  const plane = { width: 101, height: 1, data: Float32Array.from({ length: 101 }, (_, i) => (i * 37) % 101) };
  expect(quantile(plane, 0)).toBe(0);
  expect(quantile(plane, 0.5)).toBe(50);
  expect(quantile(plane, 1)).toBe(100);
});
