import { describe, expect, test } from '@jest/globals';
import { newEffect, newLayer, newMove, newShot } from '../document/defaults';
import type { EffectItem, Settings } from '../document/schema';
import { defineEffect } from '../effects/definition';
import { effectRegistry, effects } from '../effects/registry';
import { constantPlane, newPicture, newPlane, type Picture, type Plane, type Raster } from '../picture';
import { runAlone } from '../run';
import { finishedFrame, seenDistance } from './chain';
import { plainCache, type ChainInputs, type ShotRequest } from './stage';
import { stepsWith } from './steps';
import { actsOn, mixed, mixedDistance, parted, rejoined } from './within';

const [W, H] = [60, 40];
/** A red thing before a blue wall. */
const near = (x: number, y: number): boolean => x >= 20 && x < 40 && y >= 10 && y < 30;
const picture = newPicture(W, H);
const distance = newPlane(W, H);
const matte = newPlane(W, H);
for (let y = 0; y < H; y++)
  for (let x = 0; x < W; x++) {
    const i = y * W + x;
    picture.data.set(near(x, y) ? [0.8, 0.1, 0.1, 1] : [0.1, 0.1, 0.8, 1], i * 4);
    distance.data[i] = near(x, y) ? 2 : 8;
    matte.data[i] = near(x, y) ? 1 : 0;
  }
const at = (p: Picture, x: number, y: number): readonly number[] => [...p.data.subarray((y * W + x) * 4, (y * W + x) * 4 + 4)];

describe('what an effect acts on within a reach', () => {
  test('in front keeps its own alpha, and the rest goes on behind it', () => {
    const apart = parted(picture, distance, actsOn(matte, false));
    expect(apart.before).toBe(true);
    expect(at(apart.given, 5, 5)).toEqual([0, 0, 0, 0]);
    const behind = at(apart.rest, 30, 20);
    expect(behind[2]).toBeGreaterThan(0.7);
    expect(behind[0]).toBeLessThan(0.2);
    const again = rejoined(apart, apart.given);
    for (const [x, y] of [
      [5, 5],
      [30, 20],
      [50, 35],
    ] as const)
      for (let k = 0; k < 4; k++) expect(at(again, x, y)[k]).toBeCloseTo(at(picture, x, y)[k]!, 4);
  });
  test('behind is continued, so that nothing of the front is carried into it', () => {
    const apart = parted(picture, distance, actsOn(matte, true));
    expect(apart.before).toBe(false);
    expect(at(apart.given, 30, 20)[2]).toBeGreaterThan(0.7);
    expect(at(apart.given, 30, 20)[0]).toBeLessThan(0.2);
    expect(at(apart.rest, 30, 20)[0]).toBeCloseTo(0.8, 4);
    expect(at(apart.rest, 5, 5)[3]).toBe(0);
  });
  test('is mixed by weight; a distance is that of one or the other', () => {
    const made = newPicture(W, H);
    const half = constantPlane(W, H, 1);
    expect(at(mixed(picture, made, half, 0.25), 5, 5)[2]).toBeCloseTo(0.6, 6);
    const far = constantPlane(W, H, 50);
    const out = mixedDistance(distance, far, matte, 1);
    expect(out.data[20 * W + 30]).toBe(50);
    expect(out.data[0]).toBe(8);
  });
});

const plate = { sha256: 'b'.repeat(64), name: 'p.png', width: W, height: H, bits: 8, hfovFromFile: null };
const raster: Raster = {
  width: W,
  height: H,
  channels: 3,
  data: Uint8Array.from(
    { length: W * H * 3 },
    (_, i) => (near(Math.floor(i / 3) % W, Math.floor(i / 3 / W)) ? [230, 90, 90] : [90, 90, 230])[i % 3]!,
  ),
};
const map: Plane = newPlane(W, H);
for (let i = 0; i < W * H; i++) map.data[i] = matte.data[i]! > 0 ? 1 : 0;
const requestOf = (items: EffectItem[], change: (s: Settings) => void = () => undefined): ShotRequest => {
  const { settings } = newShot(plate);
  settings.layers = [{ ...newLayer('imported', { sha256: 'c'.repeat(64), name: 'm.png', width: W, height: H }), id: 'map' }];
  settings.calibration = { ...settings.calibration, near: 2, far: 8 };
  settings.effects = items;
  change(settings);
  return { plate, settings, at: { frame: 5, fps: 24 }, size: { width: W, height: H } };
};
const inputs = (): ChainInputs => ({
  held: { raster: () => raster, plane: () => ({ key: 'map', plane: map }) },
  cache: plainCache(),
  run: runAlone(),
});
const item = (kind: string, values: EffectItem['values'] = {}): EffectItem => {
  const made = newEffect(kind);
  return { ...made, id: kind, values: { ...made.values, ...values } };
};

test('only the backdrop is shaken: the thing before it stands still, and leaves no double beside it', async () => {
  const still = (await finishedFrame(requestOf([]), inputs())).picture.value;
  const shaken = item('shake', { place: 9, turn: 0, scale: 0, shutter: 0, reach: true, reachFrom: 4, reachTo: 100 });
  const out = (await finishedFrame(requestOf([shaken]), inputs())).picture.value;
  for (const [x, y] of [
    [24, 14],
    [30, 20],
    [36, 26],
  ] as const)
    for (let k = 0; k < 3; k++) expect(at(out, x, y)[k]).toBeCloseTo(at(still, x, y)[k]!, 3);
  // the wall is one blue, moved or not: red beside the thing would be its double
  for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) if (x < 17 || x > 43 || y < 7 || y > 33) expect(at(out, x, y)[0]).toBeLessThan(0.2);
});

test('one effect changed: it and what follows are made again, nothing before it', async () => {
  const counts: Record<string, number> = {};
  const counted = effectRegistry(
    effects.map((e) =>
      defineEffect({
        ...e,
        apply: (input) => {
          counts[e.kind] = (counts[e.kind] ?? 0) + 1;
          return e.apply(input);
        },
      }),
    ),
  );
  const chain = stepsWith(counted);
  const shared = inputs();
  const list = (fog: number): EffectItem[] => [
    item('grade', { exposure: 1 }),
    item('isolate'),
    item('fog', { visibility: fog }),
    item('vignette'),
    item('grain'),
  ];
  await finishedFrame(requestOf(list(50)), shared, chain);
  expect(counts).toEqual({ grade: 1, isolate: 1, fog: 1, vignette: 1, grain: 1 });
  await finishedFrame(requestOf(list(20)), shared, chain);
  expect(counts).toEqual({ grade: 1, isolate: 1, fog: 2, vignette: 2, grain: 2 });
  await finishedFrame(requestOf(list(50)), shared, chain);
  expect(counts).toEqual({ grade: 1, isolate: 1, fog: 2, vignette: 2, grain: 2 });
});

test('echoes in time show what was there some frames ago, the first frame at the earliest', async () => {
  const fading = {
    ...item('grade'),
    drives: { exposure: { kind: 'ease' as const, from: 0, to: -4, start: 0, end: 4, easing: 'straight' as const } },
  };
  const echo = item('echoes', { where: 'time', every: 2, count: 1, fade: 100, mix: 'light' });
  const at = async (frame: number, effects: EffectItem[]): Promise<number> =>
    (await finishedFrame({ ...requestOf(effects), at: { frame, fps: 24 } }, inputs())).picture.value.data[0]!;
  // it darkens by a stop a frame: two frames ago it was four times as bright
  expect(await at(3, [fading, echo])).toBeCloseTo(await at(1, [fading]), 6);
  expect(await at(1, [fading, echo])).toBeCloseTo(await at(0, [fading]), 6);
});

test('echoes in time within a reach leave what lies outside it as it is', async () => {
  const fading = {
    ...item('grade'),
    drives: { exposure: { kind: 'ease' as const, from: 0, to: -4, start: 0, end: 4, easing: 'straight' as const } },
  };
  const values = { where: 'time', every: 2, count: 1, fade: 100, mix: 'light', reach: true, reachFrom: 0, reachTo: 4 };
  const at = async (effects: EffectItem[]): Promise<Picture> =>
    (await finishedFrame({ ...requestOf(effects), at: { frame: 3, fps: 24 } }, inputs())).picture.value;
  const [plain, echoed] = [await at([fading]), await at([fading, item('echoes', values)])];
  const red = (p: Picture, x: number, y: number): number => p.data[(y * W + x) * 4]!;
  expect(red(echoed, 5, 5)).toBeCloseTo(red(plain, 5, 5), 6);
  expect(red(echoed, 30, 20) / red(plain, 30, 20)).toBeCloseTo(4, 1);
});

test('depth as it is seen is that of the scene: a backdrop does not move it, with a move or without', async () => {
  const move = newMove('push-in');
  for (const moves of [[], [move]]) {
    const depth = (effects: EffectItem[]): Promise<Plane> =>
      seenDistance(
        requestOf(effects, (s) => void (s.camera.moves = moves)),
        inputs(),
      );
    const [plain, behind] = [await depth([]), await depth([item('backdrop', { beyond: 4, what: 'colour', stands: 100 })])];
    expect(behind.data).toEqual(plain.data);
  }
});

test('a reach whose ends are the wrong way round is the same reach', async () => {
  const values = { exposure: 2, reach: true, reachRefine: false };
  const [right, wrong] = await Promise.all([
    finishedFrame(requestOf([item('grade', { ...values, reachFrom: 4, reachTo: 100 })]), inputs()),
    finishedFrame(requestOf([item('grade', { ...values, reachFrom: 100, reachTo: 4 })]), inputs()),
  ]);
  expect(wrong.picture.value.data).toEqual(right.picture.value.data);
});

test('a lamp hangs in the plate’s space: its brightness alone changes nothing of its shadow', async () => {
  const made: string[] = [];
  const shared = inputs();
  const { cache } = shared;
  const watched: ChainInputs = { ...shared, cache: { get: (k) => cache.get(k), set: (k, v) => (made.push(k), cache.set(k, v)) } };
  await finishedFrame(requestOf([item('relight', { distance: 1.5, intensity: 2 })]), watched);
  const first = made.length;
  await finishedFrame(requestOf([item('relight', { distance: 1.5, intensity: 4 })]), watched);
  // one new picture: normals, thickness and who sees the lamp were kept
  expect(made.length - first).toBe(1);
});

describe('limited to what a layer covers', () => {
  const corners = [
    [0.25, 0.25],
    [0.75, 0.25],
    [0.75, 0.75],
    [0.25, 0.75],
  ];
  /** A box drawn on the middle of the plate, in a layer that is off. */
  const marked = (s: Settings): void => {
    const drawn = { id: 's', name: 'Box', points: corners.map(([x, y]) => ({ x: x!, y: y! })) };
    s.layers.push({ ...newLayer('shape'), id: 'box', visible: false, content: { shapes: [drawn] } });
  };
  const inBox = (x: number, y: number): boolean => x >= 15 && x < 45 && y >= 10 && y < 30;
  const finished = async (items: EffectItem[], change: (s: Settings) => void = marked): Promise<Picture> =>
    (await finishedFrame(requestOf(items, change), inputs())).picture.value;
  const brighter = (region: EffectItem['region'], values: EffectItem['values'] = {}): EffectItem => ({
    ...item('grade', { exposure: 1, ...values }),
    ...(region && { region }),
  });

  test('an effect acts there alone, or on all but that, though the layer is off', async () => {
    const plain = await finished([]);
    const inside = await finished([brighter({ layer: 'box', outside: false })]);
    const outside = await finished([brighter({ layer: 'box', outside: true })]);
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const times = (p: Picture): number => at(p, x, y)[0]! / at(plain, x, y)[0]!;
        expect(times(inside)).toBeCloseTo(inBox(x, y) ? 2 : 1, 3);
        expect(times(outside)).toBeCloseTo(inBox(x, y) ? 1 : 2, 3);
      }
  });

  test('and a reach besides: what lies within both', async () => {
    const plain = await finished([]);
    const both = await finished([brighter({ layer: 'box', outside: false }, { reach: true, reachFrom: 0, reachTo: 4, reachRefine: false })]);
    for (const [x, y] of [
      [30, 20],
      [17, 20],
      [5, 5],
    ] as const)
      expect(at(both, x, y)[0]! / at(plain, x, y)[0]!).toBeCloseTo(inBox(x, y) && near(x, y) ? 2 : 1, 3);
  });

  test('what is kept of a cut goes out as alpha: the region is a matte', async () => {
    const cut = { ...item('isolate', { from: 0, to: Infinity, refine: false, clear: 100 }), region: { layer: 'box', outside: false } };
    const out = await finished([cut]);
    for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) expect(at(out, x, y)[3]).toBeCloseTo(inBox(x, y) ? 1 : 0, 4);
  });

  test('a layer that is gone limits nothing', async () => {
    const plain = await finished([]);
    expect(at(await finished([brighter({ layer: 'gone', outside: false })]), 5, 5)[0]! / at(plain, 5, 5)[0]!).toBeCloseTo(2, 3);
  });

  test('it goes with the picture when the camera moves', async () => {
    const truck = newMove('truck');
    const moved = (s: Settings): void => {
      marked(s);
      s.time.length = 6;
      // all at one distance: the whole picture goes aside as one
      s.calibration = { ...s.calibration, near: 4, far: 4.001 };
      s.camera = {
        ...s.camera,
        border: 'mirrored',
        moves: [{ ...truck, values: { ...truck.values, distance: 40, plate: 'start', easing: 'straight', stands: 1e6 } }],
      };
    };
    const frame = await finishedFrame(requestOf([], moved), inputs());
    const cover = frame.region('box').value;
    const focal = frame.lens.value.focalPx;
    const way = (0.4 * focal) / 4;
    let [sum, left] = [0, 0];
    for (let i = 0; i < cover.data.length; i++) {
      sum += cover.data[i]!;
      left += cover.data[i]! * ((i % W) + 0.5);
    }
    // a box of 30x20 about the middle, shifted against the camera
    expect(sum).toBeCloseTo(600, -1);
    expect(left / sum).toBeCloseTo(30 - way, 0);
  });
});

test('what is parted by distance is made anew when distances change, whatever limits it', async () => {
  // what a layer covers is the same, what stands before what is not
  const shake = { ...item('shake', { x: 30, y: 10 }), region: { layer: 'box', outside: false } };
  const settings =
    (near: number) =>
    (s: Settings): void => {
      const box = (id: string, from: number, to: number, nearness: number) => ({
        id,
        name: id,
        points: [
          { x: from, y: from },
          { x: to, y: from },
          { x: to, y: to },
          { x: from, y: to },
        ],
        nearness,
      });
      const shapes = [box('all', -0.1, 1.1, near), box('middle', 0.3, 0.7, 0.5)];
      s.layers = [
        { ...newLayer('shape'), id: 'depth', content: { shapes } },
        { ...newLayer('shape'), id: 'box', visible: false, content: { shapes: [box('marked', 0.3, 0.7, 0.5)] } },
      ];
    };
  const cache = plainCache();
  for (const near of [0.1, 0.9]) {
    const request = requestOf([shake], settings(near));
    const kept = (await finishedFrame(request, { ...inputs(), cache })).picture.value;
    const fresh = (await finishedFrame(request, inputs())).picture.value;
    expect(kept.data).toEqual(fresh.data);
  }
});
