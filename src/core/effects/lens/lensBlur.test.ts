import { describe, expect, test } from '@jest/globals';
import { focalLengthOfHfov, focalPx } from '../../optics';
import { constantPlane, newPicture, type Picture } from '../../picture';
import { defaultsOf } from '../../values/params';
import { applyAlone } from '../applyAlone';
import { lensBlur, lensBlurRadius, thinLensOf, type LensBlurValues, apertureFor } from './lensBlur';
import { boostHighlights, relabelHighlights } from './radii';

const [W, H] = [96, 64];
const lens = { focalPx: focalPx(W, 40), focalLength: focalLengthOfHfov(40) };
const values = (change: Partial<LensBlurValues>): LensBlurValues => ({ ...defaultsOf(lensBlur.params), ...change });
const picture = (light: (x: number, y: number) => number, alpha = 1): Picture => {
  const p = newPicture(W, H);
  for (let i = 0; i < W * H; i++) {
    const l = light(i % W, Math.floor(i / W)) * alpha;
    p.data.set([l, l, l, alpha], i * 4);
  }
  return p;
};
const apply = (p: Picture, metres: number, change: Partial<LensBlurValues>): Promise<Picture> =>
  applyAlone(lensBlur, { picture: p, distance: constantPlane(W, H, metres), params: values(change), lens });

test('the opening is the focal length over the f-number, scaled by strength', () => {
  const thin = thinLensOf(values({ aperture: 2, strength: 50 }), lens);
  expect(thin.apertureDiameter).toBeCloseTo(lens.focalLength / 1000 / 2 / 2, 9);
});

test('radius follows the thin lens and its limits, which are px of the output', () => {
  const p = values({ focus: 2, aperture: 0.01, mostBefore: 20, mostBeyond: 10 });
  expect(lensBlurRadius(p, lens, 1, 2)).toBe(0);
  expect(lensBlurRadius(p, lens, 1, 0.5)).toBe(-20);
  expect(lensBlurRadius(p, lens, 0.5, 9)).toBe(5);
});

test('what lies at the focus is left as it is', async () => {
  const p = picture((x, y) => ((x * 5 + y * 3) % 17) / 17);
  const out = await apply(p, 2, { focus: 2, aperture: 0.05 });
  for (let i = 0; i < p.data.length; i++) expect(Math.abs(out.data[i]! - p.data[i]!)).toBeLessThan(1e-5);
});

test('detail out of focus vanishes instead of showing through', async () => {
  const out = await apply(
    picture((x) => (x % 2 ? 1 : 0)),
    8,
    { focus: 2, aperture: 0.12 },
  );
  for (let x = 30; x < 60; x++) expect(Math.abs(out.data[(32 * W + x) * 4]! - 0.5)).toBeLessThan(0.05);
});

test('the input is not written', async () => {
  const p = picture((x) => x / W);
  const before = p.data.slice();
  await apply(p, 8, { aperture: 0.02, boost: 2 });
  expect(p.data).toEqual(before);
});

test('coverage is blurred like light', async () => {
  const p = picture(() => 1);
  for (let i = 0; i < W * H; i++) if (i % W >= 48) p.data.fill(0, i * 4, i * 4 + 4);
  const out = await apply(p, 8, { focus: 2, aperture: 0.12 });
  const at = (x: number): number => out.data[(32 * W + x) * 4 + 3]!;
  expect(at(10)).toBeCloseTo(1, 3);
  expect(at(48)).toBeGreaterThan(0.3);
  expect(at(48)).toBeLessThan(0.7);
  expect(at(90)).toBeCloseTo(0, 3);
  for (let i = 0; i < out.data.length; i += 4) expect(out.data[i]!).toBeCloseTo(out.data[i + 3]!, 3);
});

test('the lane leaves the range in focus open', () => {
  const p = values({ focus: 2, aperture: 0.5 });
  const lane = lensBlur.lane!(p, lens)!;
  expect(lane.handles).toEqual([{ param: 'focus', distance: 2 }]);
  expect(lane.solid!.from).toBeLessThan(2);
  expect(lane.solid!.to).toBeGreaterThan(2);
  expect(lane.points.map((q) => q.strength)).toEqual([1, 0, 0, 1]);
});

describe('highlights', () => {
  const row = (light: number[], radius: number[]) => ({
    width: light.length,
    height: 1,
    data: Float32Array.from(light.flatMap((l, i) => [l, l, l, radius[i]!])),
  });
  test('boost leaves what is below the threshold, and raises white by its stops', () => {
    const r = row([0.5, 0.8, 1, 4], [0, 0, 0, 0]);
    boostHighlights(r, 0.8, 2);
    expect(r.data[0]).toBeCloseTo(0.5, 6);
    expect(r.data[4]).toBeCloseTo(0.8, 6);
    expect(r.data[8]).toBeCloseTo(4, 5);
    expect(r.data[12]).toBeCloseTo(16, 5);
  });
  test('a bright pixel on a depth jump takes the radius of its brighter neighbour', () => {
    const r = row([0.2, 3, 50, 0.2], [0, -5, 8, 8]);
    relabelHighlights(r);
    expect([r.data[3], r.data[7], r.data[11], r.data[15]]).toEqual([0, 8, 8, 8]);
  });
});

test('the aperture that blurs a distance by a radius does', () => {
  const lens = { focalPx: 1500, focalLength: 35 };
  for (const [focus, far] of [
    [1.5, 30],
    [4, 30],
    [12, 30],
  ] as const) {
    const aperture = apertureFor(lens, focus, far, 19);
    expect(Math.abs(lensBlurRadius({ ...defaultsOf(lensBlur.params), focus, aperture }, lens, 1, far) / 19 - 1)).toBeLessThan(0.06);
  }
  // nothing lies beyond the focus: the lens stays as it is
  expect(apertureFor(lens, 5, 5, 19)).toBe(2.8);
});
