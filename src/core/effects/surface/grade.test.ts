import { describe, expect, test } from '@jest/globals';
import { luminance } from '../../raster/colour';
import { constantPlane, newPicture, type Picture } from '../../picture';
import { seededRandom } from '../../random';
import { defaultsOf } from '../../values/params';
import { applyAlone } from '../applyAlone';
import { grade, gradePlan, gradeTwin, toneFactor, whiteBalance, type GradeValues } from './grade';

const [W, H] = [16, 12];
const lens = { focalPx: 20, focalLength: 30 };
const random = seededRandom(8);
const picture = newPicture(W, H);
for (let i = 0; i < W * H; i++) {
  const alpha = i % 5 === 0 ? 0.5 : 1;
  picture.data.set([random() * alpha * 1.6, random() * alpha, random() * alpha, alpha], i * 4);
}
const graded = (params: Partial<GradeValues>, from = picture): Promise<Picture> =>
  applyAlone(grade, { picture: from, distance: constantPlane(W, H, 2), lens, params });
const each = (a: Picture, of: (r: number, g: number, b: number, alpha: number) => void): void => {
  for (let i = 0; i < a.data.length; i += 4) of(a.data[i]!, a.data[i + 1]!, a.data[i + 2]!, a.data[i + 3]!);
};
const plain = (r: number, g: number, b: number): Picture => {
  const p = newPicture(W, H);
  for (let i = 0; i < W * H; i++) p.data.set([r, g, b, 1], i * 4);
  return p;
};

test('as it comes it is the identity', async () => {
  const out = await graded({});
  for (let i = 0; i < picture.data.length; i++) expect(out.data[i]).toBeCloseTo(picture.data[i]!, 6);
});

test('one stop doubles the light and leaves coverage', async () => {
  const out = await graded({ exposure: 1 });
  for (let i = 0; i < picture.data.length; i++) expect(out.data[i]).toBeCloseTo(picture.data[i]! * (i % 4 === 3 ? 1 : 2), 5);
});

describe('tone', () => {
  const neutral = { exposure: 0, contrast: 100, shadows: 0, highlights: 0 };
  test('contrast leaves grey alone and spreads stops about it', () => {
    const hard = { ...neutral, contrast: 150 };
    expect(toneFactor(hard, 0.18)).toBeCloseTo(1, 6);
    // two stops over grey become three
    expect(Math.log2((0.72 * toneFactor(hard, 0.72)) / 0.18)).toBeCloseTo(3, 2);
    expect(toneFactor(hard, 0.045)).toBeLessThan(0.55);
    const none = { ...neutral, contrast: 0 };
    for (const v of [0.01, 0.18, 3]) expect(v * toneFactor(none, v)).toBeCloseTo(0.18, 3);
  });
  test('shadows lift what is dark, highlights what is bright, neither the other', () => {
    expect(toneFactor({ ...neutral, shadows: 1 }, 0.005)).toBeGreaterThan(1.9);
    expect(toneFactor({ ...neutral, shadows: 1 }, 0.8)).toBeCloseTo(1, 6);
    expect(toneFactor({ ...neutral, highlights: -1 }, 9)).toBeLessThan(0.55);
    expect(toneFactor({ ...neutral, highlights: -1 }, 0.05)).toBeCloseTo(1, 6);
  });
  test('never turns brighter and darker round', () => {
    for (const p of [
      { ...neutral, shadows: 2, highlights: -2, contrast: 60 },
      { ...neutral, shadows: -2, highlights: 2, contrast: 180, exposure: 2 },
    ]) {
      let before = -1;
      for (let v = 1e-5; v < 30; v *= 1.05) {
        const now = v * toneFactor(p, v);
        expect(now).toBeGreaterThanOrEqual(before - 1e-9);
        before = now;
      }
    }
  });
  test('does not even where the settings contradict each other', async () => {
    const ramp = newPicture(W, H);
    for (let i = 0; i < W * H; i++) ramp.data.set([...Array<number>(3).fill(2 ** (i / 16 - 9)), 1], i * 4);
    const out = await graded({ shadows: 6, highlights: -6, contrast: 20 }, ramp);
    for (let i = 1; i < W * H; i++) expect(out.data[i * 4]).toBeGreaterThanOrEqual(out.data[i * 4 - 4]! * 0.9999);
  });
});

describe('colour', () => {
  test('white balance is the identity in the middle, turns white amber or blue, and keeps its brightness', () => {
    expect(whiteBalance(0, 0)).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
    const white = (t: number, tint: number): number[] => {
      const m = whiteBalance(t, tint);
      return [0, 1, 2].map((r) => m[3 * r]! + m[3 * r + 1]! + m[3 * r + 2]!);
    };
    const [warm, cold] = [white(60, 0), white(-60, 0)];
    expect(warm[0]! > warm[1]! && warm[1]! > warm[2]!).toBe(true);
    expect(cold[0]! < cold[2]!).toBe(true);
    expect(white(0, 60)[1]!).toBeLessThan(1);
    expect(white(0, -60)[1]!).toBeGreaterThan(1);
    for (const [t, k] of [
      [60, 0],
      [-100, 30],
      [100, -80],
    ] as const) {
      const [r, g, b] = white(t, k);
      expect(luminance(r!, g!, b!)).toBeCloseTo(1, 4);
      for (const v of [r, g, b]) expect(v).toBeGreaterThan(0);
    }
    // a small step is a small change
    expect(Math.max(...white(1, 0).map((v) => Math.abs(v - 1)))).toBeLessThan(0.02);
  });
  test('without saturation everything is grey of much the same brightness; grey stays as it is at any hue', async () => {
    each(await graded({ saturation: 0 }), (r, g, b) => {
      expect(r).toBeCloseTo(g, 4);
      expect(g).toBeCloseTo(b, 4);
    });
    const grey = plain(0.3, 0.3, 0.3);
    each(await graded({ hue: 130, saturation: 180 }, grey), (r, g, b) => {
      for (const v of [r, g, b]) expect(v).toBeCloseTo(0.3, 4);
    });
  });
  test('a hue turned all the way round comes back', async () => {
    const [half, back] = [
      await graded({ hue: 120 }, plain(0.5, 0.45, 0.4)),
      await graded({ hue: -120 }, await graded({ hue: 120 }, plain(0.5, 0.45, 0.4))),
    ];
    expect(half.data[0]).not.toBeCloseTo(0.5, 2);
    for (const [k, v] of [0.5, 0.45, 0.4].entries()) expect(back.data[k]).toBeCloseTo(v, 4);
  });
  test('black and white weighs the colours as it is told', async () => {
    each(await graded({ mono: true, red: 100, green: 0, blue: 0 }, plain(0.7, 0.2, 0.1)), (r, g, b) => {
      for (const v of [r, g, b]) expect(v).toBeCloseTo(0.7, 5);
    });
    each(await graded({ mono: true, red: -100, green: 0, blue: 0 }, plain(0.7, 0.2, 0.1)), (r) => expect(r).toBe(0));
  });
});

describe('the kernel does what its twin does', () => {
  const wild = newPicture(37, 5);
  for (let i = 0; i < wild.data.length; i += 4) {
    const alpha = [1, 1, 0.3, 0][(i / 4) % 4]!;
    // up to eight times white, and now and then a colour that the display has not
    wild.data.set([(0.1 + 8 * random() ** 4) * alpha, (random() - (i % 5 === 0 ? 0.02 : 0)) * alpha, random() ** 2 * alpha, alpha], i);
  }
  test.each<Partial<GradeValues>>([
    { exposure: -1.3 },
    { contrast: 140, shadows: 1, highlights: -1.5 },
    { contrast: 40 },
    { temperature: 70, tint: -40 },
    { saturation: 170, hue: 75 },
    { saturation: 0 },
    { mono: true, red: 60, green: -20, blue: 90 },
    { exposure: 0.7, contrast: 80, shadows: -2, temperature: -30, saturation: 40, hue: -160, mono: true },
  ])('%j', async (params) => {
    const out = await applyAlone(grade, { picture: wild, distance: constantPlane(37, 5, 2), lens, params });
    const plan = gradePlan({ ...defaultsOf(grade.params), ...params });
    for (let i = 0; i < wild.data.length; i += 4) {
      const alpha = wild.data[i + 3]!;
      expect(out.data[i + 3]).toBe(alpha);
      const [r, g, b] = wild.data.subarray(i, i + 3).map((v) => v / (alpha || 1)) as unknown as [number, number, number];
      const expected = gradeTwin(plan, [r, g, b]).map((v) => v * alpha);
      // a colour's channels are mixed with each other: the largest says how exact single precision is
      const most = Math.max(0.1, ...expected);
      expected.forEach((v, k) => expect(Math.abs(out.data[i + k]! - v)).toBeLessThan(2e-5 * most));
    }
  });
});
