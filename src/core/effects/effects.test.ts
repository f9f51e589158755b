import { describe, expect, test } from '@jest/globals';
import { AT_PLATE } from '../camera/pose';
import { constantPlane, newPicture, newPlane, type Picture, type Plane, type Raster } from '../picture';
import { luminance, parseHex, srgbToLinear } from '../raster/colour';
import { runAlone } from '../run';
import { clampNumber, defaultsOf } from '../values/params';
import { hash3 } from '../noise';
import { seededRandom } from '../random';
import { applyAlone } from './applyAlone';
import { beams, beamsOf, beamsTwin } from './air/beams';
import { dust, specksIn, type DustValues } from './air/dust';
import { fog } from './air/fog';
import { blocks, stepsOf } from './frame/blocks';
import { blocksTwin, roundedBlock } from './frame/blocksTwin';
import { bulge } from './frame/bulge';
import { echoes } from './frame/echoes';
import { flicker, gains } from './frame/flicker';
import { kaleidoscope } from './frame/kaleidoscope';
import { ripple } from './frame/ripple';
import { scan } from './frame/scan';
import { shake, shaken } from './frame/shake';
import { endsSwapped, type EffectDefinition, type EffectInput } from './definition';
import { distorted, distortion, enlargement, undistorted } from './lens/distortion';
import { fringe } from './lens/fringe';
import { glow, glowPlan } from './lens/glow';
import { addTo, glowTwin, halved } from './lens/glowTwin';
import { alsoSharp } from './lens/lensBlur';
import { strayLight } from './lens/strayLight';
import { vignette } from './lens/vignette';
import { fetched, fetchTwin, mirrored, overlaid } from './pixels';
import { backdrop, backdropTwin } from './surface/backdrop';
import { isolate, isolatePlan, isolateTwin } from './surface/isolate';
import { evenLevel, lightsOf, relight } from './surface/relight';
import { effects } from './registry';

const [W, H] = [64, 48];
const lens = { focalPx: 80, focalLength: 45 };
const wall = constantPlane(W, H, 5);

const pictureOf = (light: (x: number, y: number) => readonly [number, number, number], alpha = 1): Picture => {
  const p = newPicture(W, H);
  for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) p.data.set([...light(x, y).map((v) => v * alpha), alpha], (y * W + x) * 4);
  return p;
};
const waves = pictureOf((x, y) => [0.3 + 0.2 * Math.sin(x / 3), 0.3 + 0.2 * Math.sin(y / 4), 0.3 + 0.1 * Math.sin((x + y) / 5)]);
const even = pictureOf(() => [0.4, 0.3, 0.2]);
const at = (p: Picture, x: number, y: number): readonly number[] => [...p.data.subarray((y * W + x) * 4, (y * W + x) * 4 + 4)];
const sum = (p: Picture, k: number): number => p.data.reduce((s, v, i) => (i % 4 === k ? s + v : s), 0);

/** Light of any brightness up to twice white, seen through here and there. */
const noisy = (width: number, height: number): Picture => {
  const random = seededRandom(4);
  const picture = newPicture(width, height);
  for (let i = 0; i < width * height; i++) {
    const alpha = i % 7 === 0 ? 0.4 : 1;
    picture.data.set([2 * random() ** 3 * alpha, random() * alpha, random() ** 2 * alpha, alpha], i * 4);
  }
  return picture;
};

type Values = Record<string, number | boolean | string>;
const made = (
  effect: EffectDefinition,
  picture: Picture,
  params: Values = {},
  given: Partial<EffectInput<Values>> = {},
  distance: Plane = wall,
): Promise<Picture> => applyAlone(effect, { picture, distance, lens, params, ...given });
/** Largest difference of two pictures over the pixels that are asked for. */
const apart = (a: Picture, b: Picture, where: (x: number, y: number) => boolean = () => true): number => {
  let most = 0;
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++)
      if (where(x, y)) for (let k = 0; k < 4; k++) most = Math.max(most, Math.abs(a.data[(y * W + x) * 4 + k]! - b.data[(y * W + x) * 4 + k]!));
  return most;
};

test('with nothing to do an effect is the identity', async () => {
  const idle: readonly (readonly [EffectDefinition, Values])[] = [
    [isolate, { dim: 0, drain: 0 }],
    [glow, { amount: 0 }],
    [vignette, { amount: 0 }],
    [distortion, { k1: 0, k2: 0 }],
    [strayLight, { amount: 0 }],
    [shake, { place: 0, turn: 0, scale: 0 }],
    [flicker, { amount: 0 }],
    [blocks, { quality: 100 }],
    [scan, { dark: 0, offset: 0, colour: 0, noise: 0 }],
    [ripple, { amount: 0 }],
    [echoes, { fade: 0 }],
    [bulge, { amount: 0 }],
    [fringe, { radial: 0 }],
    [dust, { number: 0 }],
    [beams, { amount: 0 }],
  ];
  for (const [effect, values] of idle) expect([effect.kind, apart(await made(effect, waves, values), waves) < 2e-4]).toEqual([effect.kind, true]);
});

describe('places that light is fetched from', () => {
  test('are mirrored at the border', () => {
    expect([-0.25, 0, 3, 10, 10.5, 20.5].map((v) => mirrored(v, 10))).toEqual([0.25, 0, 3, 10, 9.5, 0.5]);
  });
  test('by the kernel as by its readable twin, and only the channels that are asked for', () => {
    const shift = (x: number, y: number): readonly [number, number] => [1.3 * x - 11.37, y + 0.39 * x - 7.611];
    const places = (y: number, to: Float32Array): void => {
      for (let x = 0; x < W; x++) to.set(shift(x + 0.5, y + 0.5), 2 * x);
    };
    const whole = fetched(waves, runAlone(), places);
    const out = new Float32Array(4);
    for (const [x, y] of [
      [0, 0],
      [20, 13],
      [63, 47],
      [5, 40],
    ] as const) {
      fetchTwin(waves, ...shift(x + 0.5, y + 0.5), out);
      for (let k = 0; k < 4; k++) expect(at(whole, x, y)[k]).toBeCloseTo(out[k]!, 4);
    }
    const green = newPicture(W, H);
    fetched(waves, runAlone(), places, green, [1]);
    expect(sum(green, 0)).toBe(0);
    expect(sum(green, 1)).toBeCloseTo(sum(whole, 1), 3);
  });
});

describe('copies laid over each other', () => {
  test('are turned and scaled about the middle, then moved, as their readable twin', () => {
    const copies = [
      { x: 0, y: 0, turn: 0, scale: 1, strength: 0.6 },
      { x: 7.3, y: -4.6, turn: 0.4, scale: 1.3, strength: 0.3 },
      { x: -20, y: 2, turn: -1.1, scale: 0.7, strength: 0.1 },
    ];
    const [added, lighter] = (['added', 'lighter'] as const).map((how) => overlaid(waves, runAlone(), copies, how));
    const light = new Float32Array(4);
    for (const [x, y] of [
      [0, 0],
      [20, 13],
      [63, 47],
    ] as const) {
      const all = copies.map(({ x: dx, y: dy, turn, scale, strength }) => {
        const [u, v] = [x + 0.5 - W / 2 - dx, y + 0.5 - H / 2 - dy];
        const [cos, sin] = [Math.cos(turn) / scale, Math.sin(turn) / scale];
        fetchTwin(waves, W / 2 + cos * u + sin * v, H / 2 - sin * u + cos * v, light);
        return [...light].map((l) => strength * l);
      });
      for (let k = 0; k < 4; k++) {
        const each = all.map((c) => c[k]!);
        expect(at(added!, x, y)[k]).toBeCloseTo(
          each.reduce((a, b) => a + b),
          4,
        );
        expect(at(lighter!, x, y)[k]).toBeCloseTo(Math.max(...each), 4);
      }
    }
    // one copy that stays where it is, is the picture
    expect(overlaid(waves, runAlone(), [{ x: 0, y: 0, turn: 0, scale: 1, strength: 1 }], 'added').data).toEqual(waves.data);
  });
});

describe('isolate', () => {
  const split = newPlane(W, H);
  for (let i = 0; i < W * H; i++) split.data[i] = i % W < 32 ? 2 : 8;
  const two = pictureOf((x) => (x < 32 ? [0.6, 0.3, 0.1] : [0.1, 0.2, 0.6]));
  test('keeps what lies within, and dims, drains or clears the rest', async () => {
    const out = await made(isolate, two, { from: 0, to: 4, dim: 1, drain: 100 }, {}, split);
    expect(at(out, 10, 10)).toEqual(at(two, 10, 10));
    const grey = luminance(0.1, 0.2, 0.6) / 2;
    for (let k = 0; k < 3; k++) expect(at(out, 50, 10)[k]).toBeCloseTo(grey, 5);
    const clear = await made(isolate, two, { from: 0, to: 4, dim: 0, drain: 0, clear: 100 }, {}, split);
    expect(at(clear, 50, 10)).toEqual([0, 0, 0, 0]);
    expect(at(clear, 10, 10)[3]).toBe(1);
  });
  test('outside it, and with its ends the wrong way round', async () => {
    const out = await made(isolate, two, { from: 4, to: 0, outside: true, clear: 100 }, {}, split);
    expect(at(out, 10, 10)[3]).toBe(0);
    expect(at(out, 50, 10)[3]).toBe(1);
  });
  test('a pixel that both share keeps its own front’s colour over nothing', async () => {
    // the column beside the edge is half of each
    const mixed = pictureOf((x) => (x < 32 ? [0.6, 0.3, 0.1] : x === 32 ? [0.35, 0.25, 0.35] : [0.1, 0.2, 0.6]));
    const out = await made(isolate, mixed, { from: 0, to: 4, clear: 100, dim: 0, drain: 0 }, {}, split);
    const [r, , b, a] = at(out, 32, 20);
    expect(a).toBeGreaterThan(0.1);
    expect(a).toBeLessThan(0.9);
    // straight colour: no blue of the old backdrop
    expect(b! / a!).toBeLessThan(0.25);
    expect(r! / a!).toBeGreaterThan(0.45);
  });
});

describe('backdrop', () => {
  const split = newPlane(W, H);
  for (let i = 0; i < W * H; i++) split.data[i] = i % W < 32 ? 2 : 8;
  const run = async (params: Values, still: Raster | null = null) => {
    const input = { ...defaultsOf(backdrop.params), beyond: 4, stands: 20, ...params };
    let distance: Plane | null = null;
    const spy: EffectDefinition = {
      ...(backdrop as EffectDefinition),
      apply: async (given) => {
        const result = await (backdrop as EffectDefinition).apply(given);
        if ('data' in result) return result;
        distance = result.distance;
        return result.picture;
      },
    };
    const picture = await made(spy, even, input, { still }, split);
    return { picture, distance: distance as Plane | null };
  };
  test('a colour stands where it is told to, and what is near stays', async () => {
    const { picture, distance } = await run({ what: 'colour', colour: '#336699' });
    for (let k = 0; k < 3; k++) expect(at(picture, 50, 20)[k]).toBeCloseTo(srgbToLinear(parseHex('#336699')[k]!), 5);
    expect(at(picture, 5, 20)).toEqual(at(even, 5, 20));
    expect(distance!.data[20 * W + 50]).toBe(20);
    expect(distance!.data[20 * W + 5]).toBe(2);
  });
  test('a ramp runs down, a picture covers the frame, nothing is see-through', async () => {
    const ramp = await run({ what: 'ramp', colour: '#000000', second: '#ffffff' });
    expect(at(ramp.picture, 50, 1)[0]).toBeLessThan(0.1);
    expect(at(ramp.picture, 50, 46)[0]).toBeGreaterThan(0.9);
    const red: Raster = { width: 2, height: 2, channels: 3, data: Uint8Array.from({ length: 12 }, (_, i) => (i % 3 === 0 ? 255 : 0)) };
    const still = await run({ what: 'picture' }, red);
    expect(at(still.picture, 60, 44)).toEqual([1, 0, 0, 1]);
    const nothing = await run({ what: 'nothing' });
    expect(at(nothing.picture, 50, 20)).toEqual([0, 0, 0, 0]);
  });
  test('a picture that has not come yet leaves everything as it is', async () => {
    expect((await run({ what: 'picture' })).picture).toBe(even);
  });
});

describe('kernels of cuts do what their twins do', () => {
  const [width, height] = [23, 4];
  const picture = noisy(width, height);
  // a front that is now less than the pixel, now more in a channel: it is never taken for more than there is
  const front = { ...picture, data: picture.data.map((v, i) => v * (0.2 + ((i * 7) % 11) / 9)) };
  const matte = newPlane(width, height);
  matte.data.forEach((_, i) => (matte.data[i] = (i % 10) / 9));
  const cut = () => ({ matte, front });
  const distance = newPlane(width, height);
  distance.data.forEach((_, i) => (distance.data[i] = 1 + i));
  const pixel = (p: Picture, i: number): number[] => [...p.data.subarray(i * 4, i * 4 + 4)];

  test.each([false, true])('isolate, outside: %s', async (outside) => {
    const values = { ...defaultsOf(isolate.params), dim: 1.3, drain: 60, tint: 30, clear: 40, outside };
    const out = await made(isolate, picture, values, { cut }, distance);
    for (let i = 0; i < width * height; i++)
      isolateTwin(isolatePlan(values), pixel(picture, i), pixel(front, i)).forEach((v, k) => expect(out.data[i * 4 + k]).toBeCloseTo(v, 5));
  });
  test.each(['across', 'away'])('backdrop, a ramp %s', async (along) => {
    const values = { ...defaultsOf(backdrop.params), what: 'ramp', along, colour: '#000000', second: '#ffffff', beyond: 5, spill: 70 };
    const out = await made(backdrop, picture, values, { cut }, distance);
    for (let i = 0; i < width * height; i++) {
      const share = along === 'away' ? Math.min(1, Math.log(Math.max(1, (1 + i) / 5)) / Math.log(12)) : (Math.floor(i / width) + 0.5) / height;
      const expected = backdropTwin(pixel(picture, i), matte.data[i]!, pixel(front, i), [share, share, share, 1], 0.7);
      expected.forEach((v, k) => expect(out.data[i * 4 + k]).toBeCloseTo(v, 5));
    }
  });
});

describe('relight', () => {
  test('its settings become a light: metres right and up, light for each channel', () => {
    const p = { ...defaultsOf(relight.params), right: 1, up: 2, distance: 3, intensity: 5, colour: '#ff0000', size: 0.1 };
    expect(lightsOf(p, { lights: null, surroundings: null })).toEqual([{ is: 'lamp', place: [1, -2, 3], intensity: [5 * Math.PI, 0, 0], size: 0.1 }]);
    const [sun] = lightsOf({ ...p, light: 'sun', azimuth: 90, elevation: 0 }, { lights: null, surroundings: null });
    expect(sun).toMatchObject({ is: 'sun', size: Math.PI / 720 });
    expect(sun && 'direction' in sun ? sun.direction[0] : 0).toBeCloseTo(1, 9);
    const told = [{ is: 'surround' as const, above: [1, 1, 1] as [number, number, number], below: [0, 0, 0] as [number, number, number] }];
    expect(lightsOf(p, { lights: told, surroundings: null })).toBe(told);
  });
  test('a white sheet one metre away gets the brightness that is told', async () => {
    const near = constantPlane(W, H, 2);
    const white = pictureOf(() => [0.5, 0.5, 0.5]);
    const out = await made(
      relight,
      white,
      { right: 0, up: 0, distance: 1, intensity: 0.7, size: 0, colour: '#ffffff', keep: 0, even: 1, shading: 0, balance: 0, shadows: false },
      {},
      near,
    );
    // straight behind the lamp
    const dx = 0.5 / 80;
    expect(at(out, 32, 24)[0]! / (0.5 * 0.7)).toBeCloseTo((1 + 2 * (2 * dx) ** 2) ** -1.5, 2);
  });
  test('the level of the plate’s light follows its bright parts, and is never nothing', () => {
    expect(evenLevel(pictureOf(() => [0.4, 0.4, 0.4]))).toBeCloseTo(0.5, 5);
    expect(evenLevel(pictureOf(() => [0, 0, 0]))).toBeCloseTo(0.04, 5);
  });
});

describe('fog', () => {
  const depths = newPlane(W, H);
  for (let i = 0; i < W * H; i++) depths.data[i] = 1 + (i % W) / 8;
  const set = { from: 'set', colour: '#c0c8d0', visibility: 20 };
  test('taken away is what was there before it was added', async () => {
    const there = await made(fog, waves, set, {}, depths);
    const back = await made(fog, there, { ...set, act: 'taken' }, {}, depths);
    expect(apart(there, waves)).toBeGreaterThan(0.1);
    expect(apart(back, waves)).toBeLessThan(1e-4);
  });
  test('patches keep its mean, differ from place to place, and drift with the wind', async () => {
    const dark = pictureOf(() => [0, 0, 0]);
    const far = constantPlane(W, H, 60);
    const air = { ...set, visibility: 400, size: 6, patches: 100, wind: 2 };
    const [still, patchy, later] = await Promise.all([
      made(fog, dark, { ...air, patches: 0 }, {}, far),
      made(fog, dark, air, {}, far),
      made(fog, dark, air, { at: { frame: 48, fps: 24 } }, far),
    ]);
    expect(sum(patchy, 0) / sum(still, 0)).toBeGreaterThan(0.75);
    expect(sum(patchy, 0) / sum(still, 0)).toBeLessThan(1.25);
    expect(apart(patchy, still)).toBeGreaterThan(0.02);
    expect(apart(patchy, later)).toBeGreaterThan(0.01);
  });
  test('patches stand still in the world: seen from a step aside they move as things do', async () => {
    const dark = pictureOf(() => [0, 0, 0]);
    const far = constantPlane(W, H, 8);
    const air = { ...set, visibility: 30, size: 2, patches: 100, wind: 0, start: 7.5 };
    // fog between 7.5 and 8 m: a step to the right moves it by f·x/z
    const step = (8 * 10) / 80;
    const here = await made(fog, dark, air, {}, far);
    const aside = await made(fog, dark, air, { camera: { pose: { ...AT_PLATE, x: step }, enlarged: 1 } }, far);
    let [same, off] = [0, 0];
    for (let y = 8; y < 40; y++)
      for (let x = 15; x < 50; x++) {
        same += Math.abs(at(aside, x, y)[0]! - at(here, x + 10, y)[0]!);
        off += Math.abs(at(aside, x, y)[0]! - at(here, x, y)[0]!);
      }
    expect(same).toBeLessThan(0.5 * off);
  });
});

describe('dust', () => {
  const values: DustValues = { ...defaultsOf(dust.params), number: 30, size: 20, from: 1, to: 4, right: 0, up: 0 };
  const input = (pose = AT_PLATE, params = values): EffectInput<DustValues> =>
    ({
      picture: even,
      lens,
      params,
      camera: { pose, enlarged: 1 },
      at: { frame: 0, fps: 24 },
      distance: wall,
      run: runAlone(),
    }) as unknown as EffectInput<DustValues>;
  test('there are as many specks as a cubic metre is said to hold', () => {
    const volume = ((W / 80) * (H / 80) * (4 ** 3 - 1)) / 3;
    const count = specksIn(input()).length;
    expect(count / (30 * volume)).toBeGreaterThan(0.85);
    expect(count / (30 * volume)).toBeLessThan(1.2);
  });
  test('each keeps its place in space when the camera moves', () => {
    const before = specksIn(input());
    const after = specksIn(input({ ...AT_PLATE, x: 0.1 }));
    let met = 0;
    for (const s of before) {
      const x = s.x - (80 * 0.1) / s.z;
      if (after.some((t) => Math.abs(t.x - x) < 1e-6 && Math.abs(t.y - s.y) < 1e-6 && Math.abs(t.z - s.z) < 1e-9)) met++;
    }
    expect(met / before.length).toBeGreaterThan(0.85);
  });
  test('what is nearer hides it, and the lens meets it at its own distance', async () => {
    const near = constantPlane(W, H, 0.9);
    expect(apart(await made(dust, even, values as Values, {}, near), even)).toBe(0);
    let seen: Plane | null = null;
    const spy: EffectDefinition = {
      ...(dust as EffectDefinition),
      apply: async (given) => {
        const result = await (dust as EffectDefinition).apply(given);
        if (!('data' in result)) seen = result.distance;
        return 'data' in result ? result : result.picture;
      },
    };
    const out = await made(spy, even, values);
    expect(apart(out, even)).toBeGreaterThan(0.05);
    const [least, most] = [Math.min(...(seen!['data' as never] as unknown as number[])), 5];
    expect(least).toBeGreaterThanOrEqual(1);
    expect(least).toBeLessThan(most);
  });
  test('drift carries all of it along', () => {
    const moving = { ...values, right: 0.24 };
    const later = { ...input(AT_PLATE, moving), at: { frame: 24, fps: 24 } } as EffectInput<DustValues>;
    const [s] = specksIn(input(AT_PLATE, moving)).filter((k) => k.x > 20 && k.x < 40 && k.y > 10 && k.y < 38);
    expect(specksIn(later).some((t) => Math.abs(t.x - (s!.x + (80 * 0.24) / s!.z)) < 1e-6 && Math.abs(t.y - s!.y) < 1e-6)).toBe(true);
  });
});

test.each(['all', 'air'])('the kernel of beams does what its twin does, over %s', async (over) => {
  const [width, height] = [130, 90];
  const picture = noisy(width, height);
  const depth = newPlane(width, height);
  depth.data.forEach((_, i) => (depth.data[i] = i % 13 === 0 ? Infinity : 1 + (i % 40)));
  const params = { ...defaultsOf(beams.params), over, behind: 6, x: 30, y: 120, colour: '#ffffff', amount: 150 };
  const input = { picture, distance: depth, lens, params, run: runAlone() };
  const plane = beamsOf(input as never);
  const out = await applyAlone(beams, input);
  for (let i = 0; i < width * height; i += 7) {
    const [x, y] = [i % width, Math.floor(i / width)];
    const light = beamsTwin(plane, ((x + 0.5) * plane.width) / width - 0.5, ((y + 0.5) * plane.height) / height - 0.5);
    const seen = over === 'air' ? 1 - Math.exp((-1.5 * depth.data[i]!) / 6) : 1;
    for (const k of [0, 1, 2]) expect(out.data[i * 4 + k]).toBeCloseTo(picture.data[i * 4 + k]! + 1.35 * light * seen * picture.data[i * 4 + 3]!, 4);
    expect(out.data[i * 4 + 3]).toBe(picture.data[i * 4 + 3]);
  }
});

test('beams come from far light and are cut by what stands before it', async () => {
  const sun = pictureOf((x, y) => (x > 40 && y < 10 ? [1, 1, 1] : [0.05, 0.05, 0.05]));
  const depth = newPlane(W, H);
  for (let i = 0; i < W * H; i++) depth.data[i] = i % W > 40 && Math.floor(i / W) < 10 ? 50 : 2;
  const values = { x: 80, y: 10, behind: 20, level: 50, amount: 100, length: 100 };
  const lit = await made(beams, sun, values, {}, depth);
  // below the light towards the lower left there is a beam; the other way there is none
  expect(at(lit, 35, 20)[0]).toBeGreaterThan(0.06);
  const cut = await made(beams, sun, values, {}, constantPlane(W, H, 2));
  expect(apart(cut, sun)).toBe(0);
});

describe('lens', () => {
  test('glow that is not made brighter keeps all light, and spreads it', async () => {
    const lamp = pictureOf((x, y) => (Math.abs(x - 32) < 3 && Math.abs(y - 24) < 3 ? [4, 2, 1] : [0, 0, 0]));
    const out = await made(glow, lamp, { level: 50, amount: 60, lift: 0, size: 8, tint: 0 });
    for (const k of [0, 1, 2]) expect(sum(out, k) / sum(lamp, k)).toBeCloseTo(1, 1);
    expect(at(out, 32, 24)[0]).toBeLessThan(4);
    expect(at(out, 38, 24)[0]).toBeGreaterThan(0.02);
    expect(at(out, 38, 24)[0]! / at(out, 38, 24)[1]!).toBeCloseTo(2, 3);
    expect(sum(halved(lamp), 0) * 4).toBeCloseTo(sum(lamp, 0), 3);
  });
  test.each([
    [64, 48],
    [61, 37],
    [5, 3],
  ])('the kernels of glow do what their twin does, %i x %i', async (width, height) => {
    const picture = noisy(width, height);
    const values = { ...defaultsOf(glow.params), level: 30, lift: 60, tint: 40, size: 30 };
    const out = await made(glow, picture, values, {}, constantPlane(width, height, 2));
    const twin = glowTwin(picture, glowPlan(values, 1, picture));
    out.data.forEach((v, i) => expect(v).toBeCloseTo(twin.data[i]!, 5));
  });
  test('a level is added to a finer one as the slope that it is, an odd size too', () => {
    const slope = (x: number, y: number): number => 0.1 + 0.02 * x + 0.03 * y;
    for (const [w, h] of [
      [40, 30],
      [41, 31],
    ] as const) {
      const coarse = newPicture((w + 1) >> 1, (h + 1) >> 1);
      for (let i = 0; i < coarse.data.length; i += 4)
        coarse.data[i] = slope(2 * ((i / 4) % coarse.width) + 1, 2 * Math.floor(i / 4 / coarse.width) + 1);
      const fine = newPicture(w, h);
      for (let i = 0; i < fine.data.length; i += 4) fine.data[i] = 1;
      addTo(fine, coarse);
      for (let y = 1; y < h - 1; y++) for (let x = 1; x < w - 1; x++) expect(fine.data[(y * w + x) * 4]).toBeCloseTo(1 + slope(x + 0.5, y + 0.5), 5);
    }
  });
  test('distortion: there and back is where it was, straight lines bend outwards or inwards, the frame stays filled', async () => {
    for (const [k1, k2] of [
      [-0.2, 0.05],
      [0.15, 0],
    ] as const)
      for (const r of [0.1, 0.5, 1]) expect(distorted(undistorted(r, k1, k2), k1, k2)).toBeCloseTo(r, 6);
    expect(enlargement({ k1: 0, k2: 0, way: 'added' }, W, H)).toBe(1);
    for (const k1 of [-0.2, 0.2]) {
      const scale = enlargement({ k1, k2: 0, way: 'added' }, W, H);
      const half = Math.hypot(W, H) / 2;
      for (const [x, y] of [
        [W / 2, 0],
        [0, H / 2],
        [W / 2, H / 2],
      ] as const) {
        const r = Math.hypot(x, y) / half / scale;
        const k = undistorted(r, k1, 0) / r / scale;
        expect(k * x).toBeLessThanOrEqual(W / 2 + 1e-3);
        expect(k * y).toBeLessThanOrEqual(H / 2 + 1e-3);
      }
    }
    const there = await made(distortion, waves, { k1: -0.1, k2: 0, fills: false });
    const back = await made(distortion, there, { k1: -0.1, k2: 0, fills: false, way: 'removed' });
    expect(apart(back, waves, (x, y) => x > 12 && x < 52 && y > 10 && y < 38)).toBeLessThan(0.03);
  });
  test('fringe moves red out and blue in, and nothing in the middle', async () => {
    const line = pictureOf((x) => (x === 52 ? [1, 1, 1] : [0, 0, 0]));
    const out = await made(fringe, line, { radial: 4, along: false });
    const centre = (k: number): number => {
      let [s, m] = [0, 0];
      for (let x = 40; x < W; x++) {
        s += at(out, x, 24)[k]!;
        m += x * at(out, x, 24)[k]!;
      }
      return m / s;
    };
    expect(centre(0)).toBeGreaterThan(52.5);
    expect(centre(1)).toBeCloseTo(52, 6);
    expect(centre(2)).toBeLessThan(51.5);
    const soft = await made(fringe, line, { radial: 0, along: true, focus: 2, most: 6 }, {}, constantPlane(W, H, 20));
    expect(at(soft, 52, 24)[2]).toBeLessThan(0.5);
    expect(at(soft, 52, 24)[1]).toBe(1);
  });
  test('vignette darkens the corners by so many stops, and not the middle', async () => {
    const out = await made(vignette, even, { amount: -2, begins: 0, round: 100 });
    expect(at(out, 0, 0)[0]! / 0.4).toBeCloseTo(0.25, 1);
    expect(at(out, 32, 24)[0]! / 0.4).toBeCloseTo(1, 2);
  });
  test('stray light only adds, is the same at the same moment, and wanders', async () => {
    const now = await made(strayLight, even);
    expect(now.data.every((l, i) => l >= even.data[i]! - 1e-6)).toBe(true);
    expect((await made(strayLight, even)).data).toEqual(now.data);
    expect(apart(await made(strayLight, even, {}, { at: { frame: 60, fps: 24 } }), now)).toBeGreaterThan(0.005);
  });
  test('what is to be sharp too stands at the focus, and gives way over the shoulders without a step', () => {
    const z = newPlane(400, 1);
    for (let i = 0; i < 400; i++) z.data[i] = 0.05 + i / 50;
    const out = alsoSharp({ focus: 3, alsoFrom: 1, alsoTo: 1.5, alsoEase: 50 }, z);
    for (let i = 0; i < 400; i++) {
      if (z.data[i]! >= 2 && z.data[i]! <= 4.5) expect(out.data[i]).toBe(3);
      if (z.data[i]! < 1.5 || z.data[i]! > 5.25) expect(out.data[i]).toBeCloseTo(z.data[i]!, 5);
      if (i > 0) expect(Math.abs(out.data[i]! - out.data[i - 1]!)).toBeLessThan(0.12);
    }
    expect(alsoSharp({ focus: 3, alsoFrom: 0, alsoTo: 0, alsoEase: 50 }, z).data).toBe(z.data);
  });
});

describe('frame', () => {
  test('shake moves the picture by what it says, and blurs along its way', async () => {
    const values = { ...defaultsOf(shake.params), place: 5, turn: 0, scale: 0, shutter: 0, speed: 3 };
    const moved = shaken(values, 10 / 24);
    const out = await made(shake, waves, values, { at: { frame: 10, fps: 24 } });
    const expected = fetched(waves, runAlone(), (y, to) => {
      for (let x = 0; x < W; x++) to.set([x + 0.5 - moved.x, y + 0.5 - moved.y], 2 * x);
    });
    expect(apart(out, expected)).toBeLessThan(1e-5);
    const line = pictureOf((x) => (x === 32 ? [1, 1, 1] : [0, 0, 0]));
    const open = await made(shake, line, { ...values, place: 40, shutter: 360, samples: 16 }, { at: { frame: 10, fps: 24 } });
    expect(Math.max(...open.data.filter((_, i) => i % 4 === 0))).toBeLessThan(0.9);
  });
  test('flicker stays within its stops, all light alike or each colour by its own', () => {
    const values = { ...defaultsOf(flicker.params), amount: 0.5 };
    for (let f = 0; f < 200; f++) {
      const [r, g, b] = gains(values, f / 24);
      for (const k of [r, g, b]) expect(Math.abs(Math.log2(k))).toBeLessThanOrEqual(0.5 + 1e-9);
      expect(r).toBe(g);
    }
    const [r, g] = gains({ ...values, channels: 'each' }, 1.7);
    expect(r).not.toBe(g);
  });
  test('blocks: a block comes back whole at full quality, an even one at any, and coarse ones repeat their px', async () => {
    const block = Float64Array.from({ length: 64 }, (_, i) => Math.sin(i * 1.7));
    const copy = block.slice();
    roundedBlock(copy, stepsOf(100, false));
    for (let i = 0; i < 64; i++) expect(copy[i]).toBeCloseTo(block[i]!, 9);
    expect(apart(await made(blocks, even, { quality: 5 }), even)).toBeLessThan(0.06);
    const coarse = await made(blocks, waves, { quality: 30, size: 4 });
    expect(at(coarse, 8, 8)).toEqual(at(coarse, 11, 11));
    const [poor, fine] = await Promise.all([5, 80].map((quality) => made(blocks, waves, { quality })));
    expect(apart(poor!, waves)).toBeGreaterThan(apart(fine!, waves));
  });
  test.each([
    [64, 48, 1],
    [61, 37, 1],
    [45, 29, 3],
    [3, 2, 1],
  ])('the kernels of blocks do what their twin does, %i x %i in cells of %i px', async (width, height, size) => {
    const picture = noisy(width, height);
    const out = await made(blocks, picture, { quality: 60, size }, {}, constantPlane(width, height, 2));
    const twin = blocksTwin(picture, size, 60);
    out.data.forEach((v, i) => expect(v).toBeCloseTo(twin.data[i]!, 4));
  });
  test('scan shifts red to one side and blue to the other, mirrored at the border, and takes a picture of one px', async () => {
    const out = await made(scan, waves, { dark: 0, offset: 0, colour: 2.3, noise: 0, roll: 0 });
    const light = new Float32Array(4);
    for (const x of [0, 1, 2, 30, W - 3, W - 2, W - 1])
      for (const [k, by] of [2.3, 0, -2.3].entries()) {
        fetchTwin(waves, x + 0.5 + by, 20.5, light);
        expect(at(out, x, 20)[k]).toBeCloseTo(light[k]!, 5);
      }
    const one = newPicture(1, 1);
    one.data.set([0.2, 0.3, 0.4, 1]);
    const seen = await made(scan, one, { dark: 0, offset: 0, colour: 2.3, noise: 0, roll: 0 }, {}, constantPlane(1, 1, 5));
    expect(seen.data).toEqual(one.data);
  });
  test('scan: lines slip, and every pixel has its own noise, by the hashes of line, place and frame', async () => {
    const values = { dark: 0, offset: 9, colour: 1.6, noise: 40, roll: 0, pitch: 3, seed: 4 };
    const out = await made(scan, waves, values, { at: { frame: 7, fps: 24 } });
    const light = new Float32Array(4);
    for (const y of [0, 5, 20, 47]) {
      const slip = (2 * hash3(Math.floor(y / 3), 7, 0, 4) - 1) ** 3 * 9;
      for (const x of [0, 1, 8, 31, 62, 63])
        for (const [k, by] of [1.6, 0, -1.6].entries()) {
          fetchTwin(waves, x + 0.5 + slip + by, y + 0.5, light);
          expect(at(out, x, y)[k]).toBeCloseTo(light[k]! * (1 + 0.8 * (hash3(x, y, 7, 11) - 0.5)), 4);
        }
    }
  });
  test.each([
    [1, 10, 0],
    [3, -40, 25],
    [6, 0, 0],
    [11, 170, -70],
  ])('kaleidoscope of %i pieces: the angle folded at every half wedge', async (pieces, turn, inner) => {
    // light that tells its own place
    const places = pictureOf((x, y) => [(x + 0.5) / W, (y + 0.5) / H, 0]);
    const out = await made(kaleidoscope, places, { pieces, turn, inner, zoom: 100 });
    const [wedge, rad] = [(2 * Math.PI) / pieces, Math.PI / 180];
    for (let y = 0; y < H; y += 3)
      for (let x = 0; x < W; x += 5) {
        const [dx, dy] = [x + 0.5 - W / 2, y + 0.5 - H / 2];
        const angle = Math.atan2(dy, dx) - turn * rad;
        const within = ((angle % wedge) + wedge) % wedge;
        const folded = Math.min(within, wedge - within) + inner * rad;
        const [u, v] = [W / 2 + Math.hypot(dx, dy) * Math.cos(folded), H / 2 + Math.hypot(dx, dy) * Math.sin(folded)];
        if (u < 1 || v < 1 || u > W - 1 || v > H - 1) continue;
        expect(at(out, x, y)[0]).toBeCloseTo(u / W, 4);
        expect(at(out, x, y)[1]).toBeCloseTo(v / H, 4);
      }
  });
  test('scan rolls by whole heights, and its gaps are as dark as they say', async () => {
    const values = { dark: 0, offset: 0, colour: 0, noise: 0, roll: 1 };
    const rolled = await made(scan, waves, values, { at: { frame: 12, fps: 24 } });
    expect(at(rolled, 7, 0)).toEqual(at(waves, 7, H / 2));
    expect(apart(await made(scan, waves, values, { at: { frame: 24, fps: 24 } }), waves)).toBeLessThan(1e-6);
    const lines = await made(scan, even, { ...values, roll: 0, dark: 60, pitch: 4 });
    const rows = [0, 1, 2, 3].map((y) => at(lines, 9, y)[0]! / 0.4);
    expect(Math.min(...rows)).toBeLessThan(0.55);
    expect(Math.max(...rows)).toBeGreaterThan(0.9);
  });
  test('ripple moves nothing farther than it says, all colours together or each alone', async () => {
    const ramp = pictureOf((x) => [x / W, x / W, x / W]);
    const out = await made(ripple, ramp, { amount: 4, size: 20, speed: 0 });
    const inside = (x: number): boolean => x > 8 && x < 56;
    expect(apart(out, ramp, inside)).toBeLessThan((1.25 * 4) / W);
    expect(apart(out, ramp, inside)).toBeGreaterThan(0.01);
    const each = await made(ripple, ramp, { amount: 4, size: 20, speed: 0, channels: 'each' });
    expect(at(out, 30, 20)[0]).toBeCloseTo(at(out, 30, 20)[1]!, 6);
    expect(Math.abs(at(each, 30, 20)[0]! - at(each, 30, 20)[1]!)).toBeGreaterThan(1e-4);
  });
  test('echoes stand where they are told, each fainter', async () => {
    const dot = pictureOf((x, y) => (x === 20 && y === 24 ? [1, 1, 1] : [0, 0, 0]));
    const out = await made(echoes, dot, { count: 2, x: 12.5, y: 0, scale: 100, turn: 0, fade: 50, mix: 'light' });
    expect(at(out, 20, 24)[0]).toBe(1);
    expect(at(out, 28, 24)[0]).toBeCloseTo(0.5, 5);
    expect(at(out, 36, 24)[0]).toBeCloseTo(0.25, 5);
    const mean = await made(echoes, even, { count: 3, mix: 'mean' });
    expect(apart(mean, even)).toBeLessThan(1e-5);
  });
  test('bulge leaves its middle and all beyond its rim where they are', async () => {
    const out = await made(bulge, waves, { amount: 80, radius: 30 });
    expect(apart(out, waves, (x, y) => Math.hypot(x + 0.5 - 32, y + 0.5 - 24) > 15)).toBeLessThan(1e-6);
    expect(apart(out, waves)).toBeGreaterThan(0.02);
  });
  test('kaleidoscope: every wedge is the mirror of the next', async () => {
    const out = await made(kaleidoscope, waves, { pieces: 4, turn: 0 });
    for (const [x, y] of [
      [40, 30],
      [35, 40],
      [50, 26],
    ] as const) {
      expect(at(out, 63 - x, y)[0]).toBeCloseTo(at(out, x, y)[0]!, 4);
      expect(at(out, x, 47 - y)[0]).toBeCloseTo(at(out, x, y)[0]!, 4);
    }
  });
});

test('ends that are the wrong way round are found, where they have a say', () => {
  const values = (v: Values): Values => ({ ...defaultsOf(isolate.params), ...v });
  expect(endsSwapped(isolate as EffectDefinition, values({ from: 3, to: 2 }))).toBe(true);
  expect(endsSwapped(isolate as EffectDefinition, values({ from: 2, to: Infinity }))).toBe(false);
  const reach = { ...defaultsOf(vignette.params), reachFrom: 5, reachTo: 1 };
  expect(endsSwapped(vignette as EffectDefinition, { ...reach, reach: true })).toBe(true);
  expect(endsSwapped(vignette as EffectDefinition, { ...reach, reach: false })).toBe(false);
});

test('a new effect begins so that it is seen: about the subject of the shot', () => {
  const ground = { subject: 2, behind: 2.5, near: 1.5, middle: 5, far: 20, tangentX: 0.6, tangentY: 0.34 };
  for (const effect of effects) {
    const started = effect.startOn?.(ground) ?? {};
    for (const [name, value] of Object.entries(started)) {
      const param = effect.params[name]!;
      if (param.type === 'number' && typeof value === 'number')
        expect([effect.kind, name, clampNumber(param, value)]).toEqual([effect.kind, name, value]);
    }
  }
  // what is kept ends where it is best cut from what is behind it
  expect(isolate.startOn!(ground).to).toBe(2.5);
  expect(backdrop.startOn!(ground).beyond).toBe(2.5);
  expect(backdrop.startOn!(ground).stands).toBeGreaterThan(2.5);
});
