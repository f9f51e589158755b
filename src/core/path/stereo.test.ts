import { describe, expect, test } from '@jest/globals';
import { srgbToLinear } from '../raster/colour';
import { newPicture, type Picture } from '../picture';
import { plateLens } from '../camera/pose';
import { combineEyes, parallaxOf, stereoSize } from './stereo';
import { stereoForms } from '../camera/stereoForms';

const plain = (r: number, g: number, b: number, width = 4, height = 2): Picture => {
  const picture = newPicture(width, height);
  for (let i = 0; i < width * height; i++) picture.data.set([srgbToLinear(r), srgbToLinear(g), srgbToLinear(b), 1], i * 4);
  return picture;
};
const first = ({ data }: Picture): number[] => [...data.subarray(0, 3)];

describe('two eyes in one picture', () => {
  test('white in both stays white but for the glass, black stays black, in every form', () => {
    for (const form of stereoForms) {
      for (const v of first(combineEyes(form, plain(1, 1, 1), plain(1, 1, 1)))) expect(v).toBeGreaterThan(0.93);
      for (const v of first(combineEyes(form, plain(0, 0, 0), plain(0, 0, 0)))) expect(v).toBe(0);
    }
  });

  test('grey gives the left eye red alone and the right one green and blue', () => {
    const [r, g, b] = first(combineEyes('grey', plain(0.6, 0.6, 0.6), plain(0.2, 0.2, 0.2)));
    expect(r).toBeCloseTo(srgbToLinear(0.6), 5);
    expect(g).toBeCloseTo(srgbToLinear(0.2), 5);
    expect(b).toBeCloseTo(g!, 6);
  });

  test('least squares: what the left eye alone sees goes to red, what the right one sees to green and blue', () => {
    const left = first(combineEyes('red-cyan', plain(0.7, 0.7, 0.7), plain(0, 0, 0)));
    const right = first(combineEyes('red-cyan', plain(0, 0, 0), plain(0.7, 0.7, 0.7)));
    expect(left[0]).toBeGreaterThan(20 * Math.max(left[1]!, left[2]!, 1e-3));
    expect(Math.min(right[1]!, right[2]!)).toBeGreaterThan(20 * Math.max(right[0]!, 1e-3));
  });

  test('side by side and over-under keep both whole; half as wide they keep their mean', () => {
    const [left, right] = [plain(1, 0, 0), plain(0, 0, 1)];
    left.data[4] = srgbToLinear(0.5);
    const beside = combineEyes('side-by-side', left, right);
    expect([beside.width, beside.height]).toEqual([8, 2]);
    expect([...beside.data.subarray(0, 16)]).toEqual([...left.data.subarray(0, 16)]);
    expect([...beside.data.subarray(16, 32)]).toEqual([...right.data.subarray(0, 16)]);
    const over = combineEyes('over-under', left, right);
    expect(stereoSize('over-under', left)).toEqual({ width: over.width, height: over.height });
    expect([...over.data.subarray(0, 32)]).toEqual([...left.data]);
    const half = combineEyes('side-by-side-half', left, right);
    expect([half.width, half.height]).toEqual([4, 2]);
    expect(half.data[0]).toBeCloseTo((1 + srgbToLinear(0.5)) / 2, 6);
    expect(half.data[2 * 4 + 2]).toBeCloseTo(1, 6);
  });
});

test('parallax is told in per cent of the width: nothing in the screen, above 0 before it', () => {
  const lens = plateLens(1000, 500, 50);
  const stereo = { eyes: 65, screen: 3 };
  expect(parallaxOf(stereo, lens, 1 / 3)).toBe(0);
  expect(parallaxOf(stereo, lens, 1)).toBeCloseTo((100 * lens.focalPx * 0.065 * (2 / 3)) / 1000, 9);
  expect(parallaxOf(stereo, lens, 0)).toBeLessThan(0);
  expect(parallaxOf({ eyes: 65, screen: 'infinite' }, lens, 0)).toBe(0);
});
