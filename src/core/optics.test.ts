import { expect, test } from '@jest/globals';
import { blurRadius, focalLengthOfHfov, focalPx, hfovOfFocalLength, inFocusRange } from './optics';

const lens = { focalPx: 1000, apertureDiameter: 0.025, focus: 2 };

test('field of view and focal length turn back into each other', () => {
  for (const mm of [14, 35, 50, 200]) expect(focalLengthOfHfov(hfovOfFocalLength(mm))).toBeCloseTo(mm, 9);
  expect(hfovOfFocalLength(18)).toBeCloseTo(90, 9);
  expect(focalPx(800, 90)).toBeCloseTo(400, 9);
});

test('blur is none at the focus, negative before it, and bounded at infinity', () => {
  expect(blurRadius(lens, 2)).toBe(0);
  expect(blurRadius(lens, 1)).toBeCloseTo(-6.25, 9);
  expect(blurRadius(lens, 4)).toBeCloseTo(3.125, 9);
  expect(blurRadius(lens, Infinity)).toBeCloseTo(6.25, 9);
});

test('blur is linear in 1/distance', () => {
  const at = (inverse: number): number => blurRadius(lens, 1 / inverse);
  expect(at(0.3) - at(0.1)).toBeCloseTo(at(0.7) - at(0.5), 9);
});

test('the range in focus ends where the blur reaches the limit', () => {
  const { near, far } = inFocusRange(lens, 1);
  expect(blurRadius(lens, near)).toBeCloseTo(-1, 9);
  expect(blurRadius(lens, far)).toBeCloseTo(1, 9);
  expect(inFocusRange({ ...lens, apertureDiameter: 0.001 }, 1).far).toBe(Infinity);
});
