import { describe, expect, test } from '@jest/globals';
import { seededRandom } from '../../random';
import { newPicture, newPlane, type Picture, type Plane } from '../../picture';
import { samplePlaneLinear, stretch } from '../../raster/resample';
import { pushPull } from '../../raster/pushPull';
import { defaultsOf } from '../../values/params';
import { edgeDistance } from '../edges';
import { bandShare, enlargedStep, greyStep } from './bands';
import { deBand } from './deBand';
import { edgeCare } from './edgeCare';
import { fillHoles } from './fillHoles';
import { smooth } from './smooth';

const planeOf = (width: number, height: number, f: (x: number, y: number) => number): Plane => {
  const plane = newPlane(width, height);
  for (let i = 0; i < plane.data.length; i++) plane.data[i] = f((i % width) + 0.5, Math.floor(i / width) + 0.5);
  return plane;
};
const blank = (p: Plane): Picture => newPicture(p.width, p.height);
const rms = (a: Plane, b: Plane, keep: (x: number) => boolean = () => true): number => {
  let s = 0;
  let n = 0;
  for (let i = 0; i < a.data.length; i++)
    if (keep(i % a.width)) {
      s += (a.data[i]! - b.data[i]!) ** 2;
      n++;
    }
  return Math.sqrt(s / n);
};
const quantised = (p: Plane, levels: number): Plane => ({ ...p, data: p.data.map((v) => Math.round(v * (levels - 1)) / (levels - 1)) });
const usual = (step: typeof deBand) => defaultsOf(step.params);

describe('de-band', () => {
  const ramps: [string, Plane][] = [
    ['across', planeOf(640, 40, (x) => x / 640)],
    ['slanting', planeOf(320, 240, (x, y) => 0.1 + (0.6 * x) / 320 + (0.25 * y) / 240)],
    ['curved', planeOf(320, 240, (x, y) => 0.9 - Math.hypot(x - 40, y + 30) / 420)],
  ];
  test.each(ramps)('a ramp %s, cut to 64 greys, comes back at least four times closer', (_, truth) => {
    const cut = quantised(truth, 64);
    const out = deBand.apply({ map: cut, picture: blank(cut), params: usual(deBand), pxScale: 1 });
    // what lies beyond the ends of a ramp cannot be told; leave the borders out
    const inside = (x: number): boolean => x > 12 && x < truth.width - 12;
    expect(rms(cut, truth, inside) / rms(out, truth, inside)).toBeGreaterThan(4);
    expect(bandShare(out)).toBeLessThan(0.2 * bandShare(cut));
  });
  test.each([24, 64])('bands of %d greys are found in a map that was enlarged since, and mended', (levels) => {
    const truth = planeOf(640, 480, (x, y) => 0.15 + (0.4 * x) / 640 + (0.3 * y) / 480);
    const small = quantised(
      planeOf(200, 150, (x, y) => 0.15 + (0.4 * x) / 200 + (0.3 * y) / 150),
      levels,
    );
    const cut = samplePlaneLinear(small, stretch(small, 640, 480), 640, 480);
    expect(enlargedStep(cut)).toBeCloseTo(1 / (levels - 1), 6);
    const out = deBand.apply({ map: cut, picture: blank(cut), params: usual(deBand), pxScale: 1 });
    const inside = (x: number): boolean => x > 25 && x < 615;
    expect(rms(cut, truth, inside) / rms(out, truth, inside)).toBeGreaterThan(2);
    expect(rms(out, truth, inside)).toBeLessThan(0.5 / levels);
  });
  test('a slope, grain and a few even surfaces are no bands', () => {
    const random = seededRandom(5);
    expect(enlargedStep(planeOf(300, 200, (x, y) => 0.1 + (0.7 * x) / 300 + (0.1 * y) / 200))).toBe(0);
    expect(enlargedStep(planeOf(300, 200, () => random()))).toBe(0);
    const surfaces = [0.12, 0.31, 0.4, 0.62, 0.9];
    expect(enlargedStep(planeOf(300, 200, (x) => surfaces[Math.floor(x / 60)]! + (x % 60 < 2 ? 0.03 * random() : 0)))).toBe(0);
  });
  test('a ground that ends in a level far end comes back at least three times closer', () => {
    const truth = planeOf(300, 300, (_, y) => (y < 100 ? 0 : (y - 100) / 200));
    const cut = quantised(truth, 64);
    const out = deBand.apply({ map: cut, picture: blank(cut), params: usual(deBand), pxScale: 1 });
    expect(rms(cut, truth) / rms(out, truth)).toBeGreaterThan(3);
  });
  test('an even wall stays even where a floor runs up to it, and thin things lift nothing around them', () => {
    // the wall's value lies between two greys; the floor in front of it is a slope
    const truth = planeOf(300, 300, (x, y) => (y < 150 ? 0.3 + (x > 100 && x < 103 ? 1 / 63 : 0) : 0.3 + (y - 150) / 300));
    const cut = quantised(truth, 64);
    const out = deBand.apply({ map: cut, picture: blank(cut), params: usual(deBand), pxScale: 1 });
    const wall = [...out.data.subarray(0, 130 * 300)].filter((_, i) => i % 300 > 110 || i % 300 < 95);
    expect(Math.max(...wall)).toBeCloseTo(Math.round(0.3 * 63) / 63, 6);
    expect(Math.min(...wall)).toBeCloseTo(Math.round(0.3 * 63) / 63, 6);
    const floor = (p: Plane): Plane => ({ width: 300, height: 120, data: p.data.subarray(170 * 300, 290 * 300) });
    expect(rms(floor(cut), floor(truth)) / rms(floor(out), floor(truth))).toBeGreaterThan(4);
  });
  test('bands are told by the slopes that flat steps stand for: even surfaces have none', () => {
    const ramp = quantised(
      planeOf(320, 60, (x) => x / 320),
      32,
    );
    expect(bandShare(ramp)).toBeGreaterThan(0.8);
    const walls = planeOf(320, 60, (x) => [5, 6, 20, 21][Math.floor(x / 80)]! / 31);
    expect(bandShare(walls)).toBe(0);
  });
  test('edges of more than eight greys stay within half a pixel', () => {
    const truth = planeOf(200, 60, (x) => 0.2 + x / 800 + (x > 100 ? 0.2 : 0));
    const cut = quantised(truth, 64);
    const out = deBand.apply({ map: cut, picture: blank(cut), params: usual(deBand), pxScale: 1 });
    const row = out.data.subarray(30 * 200, 31 * 200);
    const half = (row[90]! + row[110]!) / 2;
    let at = 90;
    while (row[at + 1]! < half) at++;
    const crossing = at + 0.5 + (half - row[at]!) / (row[at + 1]! - row[at]!);
    expect(Math.abs(crossing - 100)).toBeLessThan(0.5);
    expect(row[101]! - row[98]!).toBeGreaterThan(0.17);
  });
  test('near and far part have strengths of their own', () => {
    const cut = quantised(
      planeOf(640, 20, (x) => x / 640),
      64,
    );
    const out = deBand.apply({ map: cut, picture: blank(cut), params: { ...usual(deBand), near: 0 }, pxScale: 1 });
    const changed = (from: number, to: number): number => rms(out, cut, (x) => x >= from && x < to);
    expect(changed(40, 250)).toBeGreaterThan(0.002);
    expect(changed(400, 600)).toBe(0);
  });
  test('a map that was never cut is left as it is', () => {
    const random = seededRandom(4);
    const fine = planeOf(100, 60, (x) => x / 130 + 0.05 * random());
    expect(greyStep(fine)).toBe(0);
    expect(deBand.apply({ map: fine, picture: blank(fine), params: usual(deBand), pxScale: 1 }).data).toEqual(fine.data);
  });
});

describe('fill holes', () => {
  test('push-pull keeps what is known, and fills a hole in a slope close to the slope', () => {
    const truth = planeOf(64, 64, (x, y) => 0.2 + x / 128 + y / 256);
    const holed = { ...truth, data: truth.data.map((v, i) => (Math.hypot((i % 64) - 32, Math.floor(i / 64) - 32) < 9 ? NaN : v)) };
    const out = pushPull(holed);
    for (let i = 0; i < out.data.length; i++) {
      if (holed.data[i] === holed.data[i]) expect(out.data[i]).toBe(holed.data[i]);
      else expect(Math.abs(out.data[i]! - truth.data[i]!)).toBeLessThan(0.06);
    }
  });
  test('black counts as a hole only where asked', () => {
    const map = planeOf(16, 16, (x, y) => (x < 4 && y < 4 ? 0 : 0.6));
    const run = (black: boolean) => fillHoles.apply({ map, picture: blank(map), params: { black, below: 0.4 }, pxScale: 1 });
    expect(run(false).data[0]).toBe(0);
    expect(run(true).data[0]).toBeCloseTo(0.6, 5);
    expect(fillHoles.figure(map, run(true), blank(map))).toBe('6.3 % filled');
  });
  test('nothing known gives black, and says nothing of holes that are not there', () => {
    expect([...pushPull(planeOf(3, 2, () => NaN)).data]).toEqual([0, 0, 0, 0, 0, 0]);
  });
});

describe('edge care', () => {
  const [w, h] = [160, 90];
  const picture = newPicture(w, h);
  for (let i = 0; i < w * h; i++) picture.data.set((i % w) + 0.5 < 80 ? [0.6, 0.5, 0.4, 1] : [0.08, 0.1, 0.14, 1], i * 4);
  const run = (map: Plane, change = {}) => edgeCare.apply({ map, picture, params: { ...defaultsOf(edgeCare.params), ...change }, pxScale: 1 });
  test('an edge that lies 4 px off, and a soft one, move to the picture’s', () => {
    for (const map of [planeOf(w, h, (x) => (x < 84 ? 0.8 : 0.3)), planeOf(w, h, (x) => 0.55 - 0.25 * Math.tanh((x - 78) / 3))]) {
      const out = run(map);
      const row = out.data.subarray(45 * w, 46 * w);
      expect(row[77]).toBeGreaterThan(0.75);
      expect(row[82]).toBeLessThan(0.35);
      expect(edgeDistance(out, picture)!).toBeLessThan(edgeDistance(map, picture)! / 2 + 0.2);
    }
  });
  test('a bar of 3 px stays whole in a map that was enlarged from half its size, where the picture shows it', () => {
    const bar = (x: number): boolean => x >= 40 && x < 43;
    const shown = newPicture(w, h);
    for (let i = 0; i < w * h; i++) shown.data.set(bar(i % w) ? [0.7, 0.7, 0.6, 1] : [0.1, 0.12, 0.2, 1], i * 4);
    // means of two px, and between them as on a line
    const half = Array.from({ length: w / 2 }, (_, k) => [2 * k, 2 * k + 1].reduce((s, x) => s + (bar(x) ? 0.4 : 0.1), 0));
    const soft = planeOf(w, h, (x) => {
      const u = Math.min(w / 2 - 1, Math.max(0, (x + 0.5) / 2 - 0.5));
      const k = Math.min(w / 2 - 2, Math.floor(u));
      return half[k]! + (half[k + 1]! - half[k]!) * (u - k);
    });
    const out = edgeCare.apply({ map: soft, picture: shown, params: defaultsOf(edgeCare.params), pxScale: 1 });
    const row = out.data.subarray(45 * w, 46 * w);
    for (const x of [40, 41, 42]) expect(row[x]).toBeGreaterThan(0.6);
    for (const x of [37, 38, 44, 45]) expect(row[x]).toBeLessThan(0.3);
  });
  test('a slope without an edge keeps its values whatever the picture shows', () => {
    const slope = planeOf(w, h, (x) => 0.3 + x / 1600);
    expect(rms(run(slope), slope)).toBeLessThan(0.002);
  });
  test('growing and shrinking move the near side by so many pixels', () => {
    const map = planeOf(w, h, (x) => (x < 80 ? 0.8 : 0.3));
    const nearPixels = (p: Plane): number => p.data.subarray(0, w).filter((v) => v > 0.55).length;
    expect(nearPixels(run(map, { strength: 0, grow: 5 }))).toBe(85);
    expect(nearPixels(run(map, { strength: 0, grow: -5 }))).toBe(75);
  });
});

test('smoothing halves grain at least and keeps an edge', () => {
  const random = seededRandom(8);
  const clean = planeOf(120, 80, (x) => (x < 60 ? 0.3 : 0.7));
  const noisy = { ...clean, data: clean.data.map((v) => v + 0.01 * (random() - 0.5)) };
  const out = smooth.apply({ map: noisy, picture: blank(noisy), params: defaultsOf(smooth.params), pxScale: 1 });
  expect(rms(out, clean)).toBeLessThan(0.5 * rms(noisy, clean));
  expect(out.data[40 * 120 + 58]).toBeLessThan(0.32);
  expect(out.data[40 * 120 + 61]).toBeGreaterThan(0.68);
});
