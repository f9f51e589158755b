import { describe, expect, test } from '@jest/globals';
import { reachWeight } from './reach';
import { newPicture, newPlane, type Picture, type Plane } from '../picture';
import { gaussian } from '../raster/filters';
import { seededRandom } from '../random';
import { findBand, MatteEdge } from './band';
import { gathered } from './statistics';
import { gatheredTwin } from './statisticsTwin';
import { matteColours, quickMatte, refinedMatte } from './matte';
import { mapBlur } from './softMap';

const [W, H] = [96, 64];
const NEAR = { from: 0, to: 3, near: 0, far: 0 };
type Colour = readonly [number, number, number];
const FRONT: Colour = [0.7, 0.25, 0.1];
const BACK: Colour = [0.08, 0.2, 0.45];

/** A scene of two distances whose front covers each pixel by a known share: the picture mixes the colours, the map has one sample a pixel. */
function scene(inside: (x: number, y: number) => boolean, front = FRONT, back = BACK): { picture: Picture; distance: Plane; exact: Plane } {
  const [picture, distance, exact] = [newPicture(W, H), newPlane(W, H), newPlane(W, H)];
  const side = 16;
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      let hits = 0;
      for (let v = 0; v < side; v++) for (let u = 0; u < side; u++) hits += inside(x + (u + 0.5) / side, y + (v + 0.5) / side) ? 1 : 0;
      const a = hits / side ** 2;
      const i = y * W + x;
      exact.data[i] = a;
      distance.data[i] = inside(x + 0.5, y + 0.5) ? 2 : 8;
      for (let k = 0; k < 3; k++) picture.data[i * 4 + k] = a * front[k as 0] + (1 - a) * back[k as 0];
      picture.data[i * 4 + 3] = 1;
    }
  return { picture, distance, exact };
}
const disc = (x: number, y: number): boolean => Math.hypot(x - 47.3, y - 31.6) < 20.4;
/** A rope less than two pixels wide, on a slant. */
const rope = (x: number, y: number): boolean => Math.abs((x - 10) * 0.35 - (y - 12)) < 0.8;

const worst = (a: Plane, b: Plane): number => a.data.reduce((m, v, i) => Math.max(m, Math.abs(v - b.data[i]!)), 0);
const error = (a: Plane, b: Plane, where: (i: number) => boolean): number => {
  let [sum, n] = [0, 0];
  for (let i = 0; i < a.data.length; i++)
    if (where(i)) {
      sum += Math.abs(a.data[i]! - b.data[i]!);
      n++;
    }
  return sum / n;
};

describe('a refined matte', () => {
  test('of two plain colours finds the exact coverage', () => {
    const { picture, distance, exact } = scene(disc);
    const shared = (i: number): boolean => exact.data[i]! > 0.02 && exact.data[i]! < 0.98;
    const hard = quickMatte(distance, NEAR);
    const refined = refinedMatte(picture, distance, NEAR);
    expect(error(refined, exact, shared)).toBeLessThan(0.012);
    expect(error(refined, exact, shared)).toBeLessThan(0.2 * error(hard, exact, shared));
  });

  test('keeps a thin rope whole', () => {
    const { picture, distance, exact } = scene(rope);
    const sum = (p: Plane): number => p.data.reduce((a, b) => a + b, 0);
    const refined = refinedMatte(picture, distance, NEAR);
    expect(sum(refined) / sum(exact)).toBeGreaterThan(0.95);
    expect(sum(refined) / sum(exact)).toBeLessThan(1.05);
    // no dots: every pixel the rope mostly covers is mostly there
    for (let i = 0; i < exact.data.length; i++) if (exact.data[i]! > 0.9) expect(refined.data[i]).toBeGreaterThan(0.7);
  });

  test('leaves everything apart from the edges as the depth has it', () => {
    const { picture, distance } = scene(disc);
    const refined = refinedMatte(picture, distance, NEAR);
    const touched = new Set(findBand(quickMatte(distance, { ...NEAR }), distance, 3).pixels);
    for (let i = 0; i < W * H; i++) if (!touched.has(i)) expect(refined.data[i]).toBe(distance.data[i]! < 3 ? 1 : 0);
  });

  test('of front and back of one colour falls back on what the depth says', () => {
    const { picture, distance, exact } = scene(disc, FRONT, FRONT);
    const refined = refinedMatte(picture, distance, NEAR);
    expect(error(refined, exact, (i) => exact.data[i]! > 0.02 && exact.data[i]! < 0.98)).toBeLessThan(0.25);
    for (const v of refined.data) expect(v >= 0 && v <= 1).toBe(true);
  });

  test('works at the near end of a reach and between two ends', () => {
    const { picture, distance, exact } = scene(disc);
    const beyond = refinedMatte(picture, distance, { from: 3, to: Infinity, near: 0, far: 0 });
    const inverse = { ...exact, data: exact.data.map((v) => 1 - v) };
    expect(error(beyond, inverse, (i) => exact.data[i]! > 0.02 && exact.data[i]! < 0.98)).toBeLessThan(0.012);
    const all = refinedMatte(picture, distance, { from: 1, to: 10, near: 0, far: 0 });
    expect(all.data.every((v) => v === 1)).toBe(true);
    const none = refinedMatte(picture, distance, { from: 20, to: 30, near: 0, far: 0 });
    expect(none.data.every((v) => v === 0)).toBe(true);
  });

  test('follows the depth alone where a surface goes on through the end of the reach', () => {
    // ground seen at a grazing angle, with stripes that colour would follow
    const [picture, distance] = [newPicture(W, H), newPlane(W, H)];
    for (let i = 0; i < W * H; i++) {
      const row = Math.floor(i / W);
      distance.data[i] = 60 / (row + 2);
      picture.data.set([i % W < 48 ? 0.8 : 0.1, 0.3, 0.2, 1], i * 4);
    }
    const matte = refinedMatte(picture, distance, { from: 0, to: 2.5, near: 0, far: 0 });
    for (let row = 0; row < H; row++) for (let x = 1; x < W; x++) expect(matte.data[row * W + x]).toBeCloseTo(matte.data[row * W]!, 5);
    // the row at 2.5 m is shared
    expect(matte.data[22 * W]).toBeCloseTo(0.5, 1);
    expect(matte.data[18 * W]).toBe(0);
    expect(matte.data[26 * W]).toBe(1);
  });

  test('has soft shoulders in metres where they are set', () => {
    const range = { from: 2, to: 4, near: 1, far: 2 };
    const at = (z: number): number => reachWeight(range, z);
    expect([1.9, 2, 2.5, 3, 4, 5, 6, 7].map((z) => Number(at(z).toFixed(4)))).toEqual([0, 0, 0.5, 1, 1, 0.5, 0, 0]);
    const distance = newPlane(W, H);
    for (let i = 0; i < W * H; i++) distance.data[i] = 1 + ((i % W) / W) * 6;
    const matte = refinedMatte(newPicture(W, H), distance, range);
    for (let i = 0; i < W * H; i += 7) expect(matte.data[i]).toBeCloseTo(at(distance.data[i]!), 2);
  });

  test('takes infinity for a distance', () => {
    const { picture, distance, exact } = scene(disc);
    const sky = { ...distance, data: distance.data.map((z) => (z > 3 ? Infinity : z)) };
    const refined = refinedMatte(picture, sky, NEAR);
    expect(error(refined, exact, (i) => exact.data[i]! > 0.02 && exact.data[i]! < 0.98)).toBeLessThan(0.012);
  });
});

describe('a map with soft edges', () => {
  const blurred = (distance: Plane, sigma: number): Plane => {
    const soft = gaussian({ ...distance, data: distance.data.map((z) => 1 / z) }, sigma);
    return { ...soft, data: soft.data.map((v) => 1 / v) };
  };
  test('is told from an exact one, and by how much', () => {
    const { distance } = scene(disc);
    expect(mapBlur(new MatteEdge(quickMatte(distance, NEAR), distance), distance)).toBeLessThan(0.5);
    for (const sigma of [1.5, 2.5]) {
      const soft = blurred(distance, sigma);
      const found = mapBlur(new MatteEdge(quickMatte(soft, NEAR), soft), soft);
      expect(Math.abs(found / sigma - 1)).toBeLessThan(0.25);
    }
  });
  test('still gives a matte nearer the truth than its hard edge', () => {
    const { picture, distance, exact } = scene(disc);
    const soft = blurred(distance, 2);
    const wide = (i: number): boolean => exact.data[i]! > 0.001 && exact.data[i]! < 0.999;
    const hard = { ...soft, data: soft.data.map((z) => (z <= 3 ? 1 : 0)) };
    expect(error(refinedMatte(picture, soft, NEAR), exact, wide)).toBeLessThan(0.75 * error(hard, exact, wide));
  });
});

describe('colours of the front', () => {
  test('are those of the front alone, and give the picture back with those of the back', () => {
    const { picture, distance, exact } = scene(disc);
    const colours = matteColours(picture, exact);
    for (let i = 0; i < W * H; i++) {
      const a = exact.data[i]!;
      expect(colours.data[i * 4 + 3]).toBeCloseTo(a, 5);
      for (let k = 0; k < 3; k++) expect(Math.abs(colours.data[i * 4 + k]! - a * FRONT[k as 0])).toBeLessThan(0.015);
    }
    expect(distance.data.length).toBe(W * H);
  });
  test('a lamp keeps its light where it is wholly covered', () => {
    const { picture, exact } = scene(disc);
    const middle = (32 * W + 47) * 4;
    picture.data.set([40, 30, 20, 1], middle);
    expect([...matteColours(picture, exact).data.subarray(middle, middle + 4)]).toEqual([40, 30, 20, 1]);
  });
  test('without an edge the picture stays as it is', () => {
    const { picture } = scene(disc);
    const all = newPlane(W, H);
    all.data.fill(1);
    expect(worst({ width: W * 4, height: H, data: matteColours(picture, all).data }, { width: W * 4, height: H, data: picture.data })).toBe(0);
  });
});

test.each([
  [64, 36],
  [37, 23],
  [5, 3],
  [1, 1],
])('the kernels gather the moments of their twin, %i x %i', (width, height) => {
  const random = seededRandom(9);
  const picture = newPicture(width, height);
  // lamps and what is below black are limited
  picture.data.forEach((_, i) => (picture.data[i] = 3 * random() ** 3 - 0.1));
  const codes = Uint8Array.from({ length: width * height }, () => Math.floor(random() * 6));
  const speakers = { codes, front: Float32Array.of(0, 1, 0, 0.3, 0, 0.02), back: Float32Array.of(1, 0, 0.3, 0, 0.02, 0) };
  const [found, twin] = [gathered(picture, speakers), gatheredTwin(picture, speakers)];
  expect([found.width, found.height]).toEqual([twin.width, twin.height]);
  found.data.forEach((v, i) => expect(v).toBeCloseTo(twin.data[i]!, 5));
});
