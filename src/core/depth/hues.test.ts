import { seededRandom } from '../random';
import { describe, expect, test } from '@jest/globals';
import { newPlane, type Plane } from '../picture';
import type { Calibration } from './calibrate';
import { greyPlaces, HUE_STEPS, hueOf, slopeShade, spreadAt, spreadHues } from './hues';

const c: Calibration = { low: 0, high: 1, turnOver: false, bend: 1, near: 1, far: 30, spacing: 'perspective' };
const planeOf = (f: (i: number) => number, n = 4000): Plane => {
  const plane = newPlane(n, 1);
  for (let i = 0; i < n; i++) plane.data[i] = f(i);
  return plane;
};

describe('the spread of hues', () => {
  test('rises from 0 at the far end to 1 at the near end, whatever the depths are', () => {
    for (const f of [(i: number) => (i % 100) / 99, () => 0.5, (i: number) => (i < 3990 ? 0.97 : 0)]) {
      const spread = spreadHues(planeOf(f), greyPlaces(c));
      expect(spread[0]).toBeCloseTo(0, 6);
      expect(spread[HUE_STEPS]).toBeCloseTo(1, 6);
      for (let k = 1; k <= HUE_STEPS; k++) expect(spread[k]!).toBeGreaterThanOrEqual(spread[k - 1]!);
    }
  });

  test('gives depths that lie close together more of the hues than the logarithm of distance does', () => {
    // nine tenths of the picture between 1.0 and 1.5 m, the rest far
    const raw = (z: number): number => (1 / z - 1 / c.far) / (1 / c.near - 1 / c.far);
    const plane = planeOf((i) => raw(i % 10 === 0 ? 20 : 1 + (0.5 * ((i * 7919) % 1000)) / 1000));
    const spread = spreadHues(plane, greyPlaces(c));
    const apart = (by: Float32Array | null): number => hueOf(1, c, by) - hueOf(1.5, c, by);
    expect(apart(spread)).toBeGreaterThan(4 * apart(null));
    expect(hueOf(1, c, spread)).toBeGreaterThan(hueOf(1.2, c, spread));
  });

  test('is even where the depths are even in the logarithm of distance', () => {
    const raw = (z: number): number => (1 / z - 1 / c.far) / (1 / c.near - 1 / c.far);
    const spread = spreadHues(
      planeOf((i) => raw(30 ** ((i + 0.5) / 4000))),
      greyPlaces(c),
    );
    for (const place of [0.1, 0.37, 0.5, 0.93]) expect(Math.abs(spreadAt(spread, place) - place)).toBeLessThan(0.03);
  });

  test('holes are not counted', () => {
    const with1 = spreadHues(
      planeOf((i) => (i % 2 ? NaN : 0.8)),
      greyPlaces(c),
    );
    expect(with1).toEqual(
      spreadHues(
        planeOf(() => 0.8),
        greyPlaces(c),
      ),
    );
  });
});

describe('light on the relief', () => {
  const [w, h] = [60, 40];
  const at = (shade: Float32Array, x: number, y: number): number => shade[y * w + x]!;
  const shadeOf = (f: (x: number, y: number) => number): Float32Array =>
    slopeShade(
      Float32Array.from({ length: w * h }, (_, i) => f(i % w, Math.floor(i / w))),
      w,
      h,
    );

  test('an even surface is left as it is', () => {
    expect(shadeOf(() => 0.4).every((v) => v === 1)).toBe(true);
  });
  test('a bump is brighter on the side that faces the light and darker on the other', () => {
    const shade = shadeOf((x, y) => 0.5 + 0.1 * Math.exp(-((x - 30) ** 2 + (y - 20) ** 2) / 160));
    expect(at(shade, 25, 15)).toBeGreaterThan(1.1);
    expect(at(shade, 35, 25)).toBeLessThan(0.9);
    expect(at(shade, 30, 20)).toBeCloseTo(1, 2);
  });
  test('the grain of a picture that a map was snapped to is hardly seen beside its slopes', () => {
    const random = seededRandom(3);
    const [plain, grained] = [0, 1e-3].map((grain) => shadeOf((x, y) => 0.3 + 0.004 * x - 0.003 * y + grain * random()));
    const apart = Math.sqrt(plain!.reduce((sum, v, i) => sum + (v - grained![i]!) ** 2, 0) / plain!.length);
    // each slope by itself would differ by 0.028
    expect(apart).toBeLessThan(0.014);
  });
  test('an edge between two things is no slope', () => {
    const shade = shadeOf((x) => (x < 30 ? 0.2 : 0.8) + 0.0005 * x);
    for (const x of [29, 30]) expect(at(shade, x, 20)).toBe(1);
  });
});
