import { describe, expect, test } from '@jest/globals';
import { kernels } from '../../kernels/loader';
import { cloudNoise } from '../../noise';
import { focalLengthOfHfov, focalPx } from '../../optics';
import { parseHex, srgbToLinear } from '../../raster/colour';
import { constantPlane, newPicture, newPlane, type Picture, type Plane } from '../../picture';
import { seededRandom } from '../../random';
import { defaultsOf, type Params } from '../../values/params';
import { applyAlone } from '../applyAlone';
import { pickingsOf } from '../definition';
import { farthestColour, fog, fogPlan, fogTwin, meanDensity, upOf, type FogValues } from './fog';

const [W, H] = [40, 30];
const lens = { focalPx: focalPx(W, 60), focalLength: focalLengthOfHfov(60) };
const even = (light: number, alpha = 1): Picture => {
  const p = newPicture(W, H);
  for (let i = 0; i < W * H; i++) p.data.set([light * alpha, light * alpha, light * alpha, alpha], i * 4);
  return p;
};
const fogged = (picture: Picture, distance: Plane, set: Partial<FogValues>): Promise<Picture> =>
  applyAlone(fog, { picture, distance, lens, params: { from: 'set', ...set } });
/** Metres of ray to a pixel for each metre of distance. */
const ray = (x: number, y: number): number => Math.hypot(1, (x + 0.5 - W / 2) / lens.focalPx, (y + 0.5 - H / 2) / lens.focalPx);
const at = (p: Picture, x: number, y: number, k = 0): number => p.data[(y * W + x) * 4 + k]!;
const white = srgbToLinear(parseHex('#ffffff')[0]);

test('contrast falls to 2 % at the distance of visibility', async () => {
  const [dark, light] = await Promise.all([0, 0.5].map((l) => fogged(even(l), constantPlane(W, H, 80), { visibility: 80, colour: '#808080' })));
  // the middle of the picture is seen along the axis
  const contrast = (at(light!, 20, 15) - at(dark!, 20, 15)) / 0.5;
  expect(contrast).toBeCloseTo(Math.exp(Math.log(0.02) * ray(20, 15)), 5);
  expect(contrast).toBeCloseTo(0.02, 3);
});

test('every ray is as long as it is, and begins where the fog does', async () => {
  const out = await fogged(even(0), constantPlane(W, H, 30), { visibility: 60, start: 10, colour: '#ffffff' });
  for (const [x, y] of [
    [0, 0],
    [20, 15],
    [39, 7],
  ] as const)
    expect(at(out, x, y)).toBeCloseTo(white * (1 - Math.exp((Math.log(0.02) * 20 * ray(x, y)) / 60)), 5);
  const clear = await fogged(even(0.3), constantPlane(W, H, 9), { visibility: 60, start: 10 });
  expect(at(clear, 3, 3)).toBeCloseTo(0.3, 6);
});

test('far away there is fog alone, and of the sky as much as is asked for', async () => {
  const far = await fogged(even(0.9), constantPlane(W, H, 5000), { visibility: 60, colour: '#405060' });
  for (let k = 0; k < 3; k++) expect(at(far, 5, 5, k)).toBeCloseTo(srgbToLinear(parseHex('#405060')[k]!), 4);
  const sky = await fogged(even(0.9), constantPlane(W, H, Infinity), { visibility: 60, colour: '#000000', sky: 25 });
  expect(at(sky, 5, 5)).toBeCloseTo(0.9 * 0.75, 5);
});

test('coverage is kept, and fog covers no more than the picture', async () => {
  const out = await fogged(even(0.5, 0.4), constantPlane(W, H, 1e5), { visibility: 10, colour: '#ffffff' });
  expect(at(out, 9, 9, 3)).toBeCloseTo(0.4, 6);
  expect(at(out, 9, 9)).toBeCloseTo(0.4, 4);
});

describe('fog that lies low', () => {
  /** Density along a straight stretch, summed in small steps. */
  const summed = (low: number, high: number, length: number, thins: number): number => {
    const N = 20000;
    let sum = 0;
    for (let k = 0; k < N; k++) sum += Math.exp(-Math.max(0, low + ((high - low) * (k + 0.5)) / N) / thins);
    return (sum * length) / N;
  };
  test.each([
    [1, 9, 3],
    [9, 1, 3],
    [-4, 5, 2],
    [5, -4, 2],
    [-6, -1, 2],
    [2, 2, 4],
    [2, 2 + 1e-9, 4],
    [0, 800, 10],
  ])('is thick in closed form as it is summed up: from %d m to %d m', (low, high, thins) => {
    expect(25 * meanDensity(low, high, thins)).toBeCloseTo(summed(low, high, 25, thins), 4);
  });
  test('rays through the horizon run level, those above it rise', () => {
    for (const horizon of [20, 50, 85]) {
      const up = upOf(horizon, H, lens);
      const rise = (y: number): number => up.y * ((y - H / 2) / lens.focalPx) + up.z;
      expect(rise((horizon / 100) * H)).toBeCloseTo(0, 9);
      expect(rise(0)).toBeGreaterThan(0);
      expect(rise(H)).toBeLessThan(0);
    }
  });
  test('the sky overhead stays clear, the ground goes under, and a high camera looks down on it', async () => {
    const distance = newPlane(W, H);
    for (let i = 0; i < W * H; i++) {
      const below = Math.floor(i / W) + 0.5 - H / 2;
      distance.data[i] = below > 0 ? (1.6 * lens.focalPx) / below : Infinity;
    }
    const low = { visibility: 4, low: true, eye: 1.6, thins: 0.5, colour: '#ffffff', horizon: 50 };
    const out = await fogged(even(0), distance, low);
    expect(at(out, 20, 0)).toBeLessThan(0.2);
    expect(at(out, 20, 16)).toBeGreaterThan(0.9);
    const high = await fogged(even(0), distance, { ...low, eye: 40 });
    expect(at(high, 20, 28)).toBeLessThan(1e-6);
  });
});

test('its colour is that of what lies farthest', async () => {
  const [picture, distance] = [even(0.1), constantPlane(W, H, 4)];
  for (let x = 0; x < W; x++)
    for (let y = 0; y < 4; y++) {
      picture.data.set([0.2, 0.4, 0.8, 1], (y * W + x) * 4);
      distance.data[y * W + x] = 900;
    }
  const [r, g, b] = farthestColour(picture, distance);
  expect([r, g, b].map((v) => Number(v.toFixed(4)))).toEqual([0.2, 0.4, 0.8]);
  const out = await applyAlone(fog, { picture, distance, lens, params: { visibility: 4 } });
  expect(at(out, 20, 20, 2)).toBeGreaterThan(0.7);
});

test('the lane rises from its start to its visibility', () => {
  const lane = fog.lane!({ ...fogDefaults(), start: 5, visibility: 100 }, lens)!;
  expect(lane.handles).toEqual([
    { param: 'start', distance: 5 },
    { param: 'visibility', distance: 105, from: 5 },
  ]);
  expect(lane.points.at(-1)!.strength).toBeCloseTo(0.98, 6);
});

const fogDefaults = (): FogValues => Object.fromEntries(Object.entries(fog.params).map(([name, p]) => [name, p.default])) as unknown as FogValues;

test('its beginning can be picked in the picture, and both ends of its reach where it has one', () => {
  const names = (reach: boolean): string[] => pickingsOf(fog, { ...defaultsOf(fog.params), reach }).map((p) => p.param);
  expect(names(false)).toEqual(['start']);
  expect(names(true)).toEqual(['start', 'reachFrom', 'reachTo']);
  for (const param of names(true)) expect((fog.params as Params)[param]).toMatchObject({ type: 'number', distance: true });
});

describe('the kernels do what their twins do', () => {
  const width = 45;
  const random = seededRandom(2);
  const light = newPicture(width, 20);
  const distance = newPlane(width, 20);
  for (let i = 0; i < distance.data.length; i++) {
    const alpha = i % 6 === 0 ? 0.5 : 1;
    light.data.set([2 * random() ** 2 * alpha, random() * alpha, 0.5 * alpha, alpha], i * 4);
    distance.data[i] = i % 9 === 0 ? Infinity : 0.2 * 1000 ** random();
  }
  test.each<Partial<FogValues>>([
    { visibility: 30 },
    { visibility: 8, start: 2, sky: 40, from: 'picture' },
    { visibility: 20, low: true, eye: 1.6, thins: 3, horizon: 30 },
    { visibility: 20, low: true, eye: -4, thins: 0.5, horizon: 120 },
    { visibility: 20, low: true, eye: 60, thins: 400, horizon: 50 },
    { visibility: 50, act: 'taken', start: 1 },
  ])('%j', async (set) => {
    const params = { ...defaultsOf(fog.params), from: 'set' as const, ...set };
    const input = { picture: light, distance, lens, params };
    const out = await applyAlone(fog, input);
    const plan = fogPlan(input as never);
    for (let i = 0; i < distance.data.length; i++) {
      const pixel = [...light.data.subarray(i * 4, i * 4 + 4)];
      const expected = fogTwin(plan, i % width, Math.floor(i / width), distance.data[i]!, pixel);
      expected.forEach((v, k) => expect(out.data[i * 4 + k]).toBeCloseTo(v, 4));
    }
  });
  test('clouds along a way', () => {
    const k = kernels();
    const bookmark = k.bookmark();
    const [way, along, out] = [k.room(6), k.room(23), k.room(23)];
    const [from, to] = [
      [3.2, -7.7, 0.4],
      [0.31, 0.12, 1.7],
    ] as const;
    k.floats(way, 6).set([...from, ...to]);
    const places = Array.from({ length: 23 }, (_, n) => n * n * 0.13);
    k.floats(along, 23).set(places);
    k.run.cloudAlong(way, along, 23, 5, out);
    const found = k.floats(out, 23).slice();
    k.back(bookmark);
    places.forEach((m, n) => expect(found[n]).toBeCloseTo(cloudNoise(from[0] + m * to[0], from[1] + m * to[1], from[2] + m * to[2], 5), 3));
  });
  test('means of a grid of rays, between rays and along the logarithm of distance', () => {
    const k = kernels();
    const bookmark = k.bookmark();
    const [slices, cell, columns, count] = [8, 5, 6, 22];
    // what is linear over columns, rows and slices comes back as it is
    const value = (column: number, row: number, slice: number): number => 1 + 0.3 * column - 0.7 * row + 0.11 * slice;
    const rays = k.room(2 * columns * (slices + 1));
    const grid = k.floats(rays, 2 * columns * (slices + 1));
    grid.forEach((_, i) => {
      const ray = Math.floor(i / (slices + 1));
      grid[i] = value(ray % columns, Math.floor(ray / columns), i % (slices + 1));
    });
    const [far, out] = [k.room(count), k.room(count)];
    const distances = Array.from({ length: count }, (_, x) => 2 + 0.9 * x);
    k.floats(far, count).set(distances);
    const [ty, start, first, perOctave] = [0.3, 3, 3, 2.5];
    k.run.patchRow(rays, rays + columns * (slices + 1) * 4, slices, cell, ty, start, first, perOctave, far, count, out);
    const found = k.floats(out, count).slice();
    k.back(bookmark);
    distances.forEach((z, x) => {
      const slice = Math.min(slices, perOctave * Math.log2(1 + Math.max(0, z - start) / first));
      expect(found[x]).toBeCloseTo(value((x + 0.5) / cell, ty, slice), 4);
    });
  });
});
