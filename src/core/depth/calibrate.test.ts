import { expect, test } from '@jest/globals';
import { calibrateMap, distanceOf, fitStakes, hueNearness, nearnessAtDistance, nearnessOf, rawOf, type Calibration, type Spacing } from './calibrate';

const base: Calibration = { low: 0.1, high: 0.9, turnOver: false, bend: 1, near: 0.4, far: 50, spacing: 'perspective' };
const spacings: Spacing[] = ['perspective', 'even', 'log'];

test.each(spacings)('nearness and distance turn back into each other: %s', (spacing) => {
  for (const far of [50, Infinity]) {
    const c = { ...base, spacing, far };
    for (let n = 0.001; n <= 1; n += 0.01) expect(nearnessAtDistance(distanceOf(n, c), c)).toBeCloseTo(n, 6);
  }
});

test('the ends are the ends', () => {
  for (const spacing of spacings) {
    expect(distanceOf(1, { ...base, spacing })).toBeCloseTo(0.4, 9);
    expect(distanceOf(0, { ...base, spacing })).toBeCloseTo(50, 9);
  }
  expect(distanceOf(0, { ...base, far: Infinity })).toBe(Infinity);
});

test('the middle grey lies where its spacing says', () => {
  expect(distanceOf(0.5, { ...base, spacing: 'perspective' })).toBeCloseTo(2 / (1 / 0.4 + 1 / 50), 9);
  expect(distanceOf(0.5, { ...base, spacing: 'even' })).toBeCloseTo(25.2, 9);
  expect(distanceOf(0.5, { ...base, spacing: 'log' })).toBeCloseTo(Math.sqrt(0.4 * 50), 9);
});

test('limits stretch and clip, turning over swaps, bend is a power', () => {
  expect(nearnessOf(0.5, base)).toBeCloseTo(0.5, 9);
  expect(nearnessOf(0.05, base)).toBe(0);
  expect(nearnessOf(0.95, base)).toBe(1);
  expect(nearnessOf(0.3, { ...base, turnOver: true })).toBeCloseTo(0.75, 9);
  expect(nearnessOf(0.5, { ...base, bend: 2 })).toBeCloseTo(0.25, 9);
});

test('raw grey and nearness turn back into each other', () => {
  for (const turnOver of [false, true])
    for (const bend of [0.5, 1, 2.2])
      for (let n = 0; n <= 1; n += 0.05) expect(nearnessOf(rawOf(n, { ...base, turnOver, bend }), { ...base, turnOver, bend })).toBeCloseTo(n, 6);
});

test('a map becomes distances without being written', () => {
  const map = { width: 2, height: 1, data: Float32Array.from([0.1, 0.9]) };
  const out = calibrateMap(map, base);
  expect(out.data[0]).toBeCloseTo(50, 4);
  expect(out.data[1]).toBeCloseTo(0.4, 6);
  expect(map.data[1]).toBeCloseTo(0.9, 6);
});

test('one stake scales both ends', () => {
  const raw = 0.5;
  const z = distanceOf(nearnessOf(raw, base), base);
  const fit = fitStakes([raw], [3 * z], base)!;
  expect(fit.near).toBeCloseTo(1.2, 9);
  expect(fit.far).toBeCloseTo(150, 9);
  expect(fit.residuals[0]).toBeCloseTo(0, 9);
});

test.each(spacings)('two stakes on an exact map recover the ends: %s', (spacing) => {
  const truth = { ...base, spacing };
  const raws = [0.25, 0.7];
  const fit = fitStakes(
    raws,
    raws.map((r) => distanceOf(nearnessOf(r, truth), truth)),
    { ...truth, near: 1, far: 10 },
  )!;
  expect(fit.near / 0.4).toBeCloseTo(1, 6);
  expect(fit.far / 50).toBeCloseTo(1, 6);
});

test.each(spacings)('three stakes also recover the bend: %s', (spacing) => {
  const truth = { ...base, spacing, bend: 1.7 };
  const raws = [0.2, 0.45, 0.6, 0.85];
  const fit = fitStakes(
    raws,
    raws.map((r) => distanceOf(nearnessOf(r, truth), truth)),
    { ...truth, near: 1, far: 10, bend: 1 },
  )!;
  expect(fit.bend).toBeCloseTo(1.7, 3);
  expect(fit.near / 0.4).toBeCloseTo(1, 3);
  expect(fit.far / 50).toBeCloseTo(1, 3);
  for (const r of fit.residuals) expect(Math.abs(r)).toBeLessThan(0.01);
});

test('stakes that contradict each other leave a residual at each; the same grey twice tells nothing', () => {
  const fit = fitStakes([0.2, 0.2001, 0.8], [20, 30, 1], base)!;
  expect(fit.residuals.some((r) => Math.abs(r) > 1)).toBe(true);
  expect(fitStakes([0.5, 0.5], [2, 3], base)).toBeNull();
  expect(fitStakes([0.2, 0.8], [1, 20], base)).toBeNull();
  expect(fitStakes([], [], base)).toBeNull();
});

test('hues are even in the logarithm of distance and clip outside the ends', () => {
  expect(hueNearness(0.4, base)).toBe(1);
  expect(hueNearness(50, base)).toBeCloseTo(0, 9);
  expect(hueNearness(Math.sqrt(20), base)).toBeCloseTo(0.5, 9);
  expect(hueNearness(Infinity, { near: 1, far: Infinity })).toBe(0);
  expect(hueNearness(0.01, base)).toBe(1);
});
