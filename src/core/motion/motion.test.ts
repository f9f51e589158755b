import { describe, expect, test } from '@jest/globals';
import '../../../headless/kernels';
import { seededRandom } from '../random';
import { gaussian } from '../raster/filters';
import type { Plane } from '../picture';
import { fitPair, jointLevels } from './align';
import { bilinear } from './bilinear';
import { cutsWith, estimatesOf, seriesOf } from './clipSpec';
import { findCuts, frameSign } from './cuts';
import { flickersOf, meanFlicker } from './flicker';
import { enlargedField, flowLevel } from '../kernels/flowHost';
import { closes, denseFlow, pyramid } from './flow';
import { carryRegion, colourOdds } from './follow';
import { fromKeys } from './keyMaps';
import { chained, linkFrames, linksOf } from './links';
import { searchLevel } from './patchSearch';
import { keyFrames, piecesOfScene, scenesOf } from './plan';
import { steadyAlongFlow, steadyMaps } from './steady';
import { thinReadings, trackPoint } from './track';
import { refineFlow } from './variational';
import { motionView, viewOfRgb, type MotionView } from './view';

const W = 160;
const H = 120;

/** Cloudy texture that has no end, so that it can be moved by any way. */
function texture(seed: number): (x: number, y: number) => number {
  const random = seededRandom(seed);
  const side = 400;
  const noise = { width: side, height: side, data: Float32Array.from({ length: side * side }, () => random()) };
  const soft = gaussian(noise, 2).data;
  const rough = gaussian(noise, 7).data;
  return (x, y) => 128 + 500 * (bilinear(soft, side, side, x + 120, y + 120) - 0.5) + 900 * (bilinear(rough, side, side, x + 120, y + 120) - 0.5);
}

const planeOf = (value: (x: number, y: number) => number): Plane => {
  const data = new Float32Array(W * H);
  for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) data[y * W + x] = value(x, y);
  return { width: W, height: H, data };
};

/** Largest miss of a flow against a vector, over pixels that are away from the border in both pictures. */
function missOf(flow: { u: Float32Array; v: Float32Array }, u: number, v: number, border = 14): number {
  const within = (x: number, y: number): boolean => x >= border && y >= border && x < W - border && y < H - border;
  let worst = 0;
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++)
      if (within(x, y) && within(x + u, y + v)) worst = Math.max(worst, Math.hypot(flow.u[y * W + x]! - u, flow.v[y * W + x]! - v));
  return worst;
}

describe('flow', () => {
  const ground = texture(5);

  test('of a picture to itself is nothing', () => {
    const levels = pyramid(planeOf(ground));
    expect(missOf(denseFlow(levels, levels), 0, 0, 0)).toBeLessThan(1e-6);
  });

  test.each([
    [1.5, -0.75],
    [-7.25, 3],
    [3, 8.5],
  ])('finds a shift of %f, %f px', (u, v) => {
    const flow = denseFlow(pyramid(planeOf(ground)), pyramid(planeOf((x, y) => ground(x - u, y - v))));
    expect(missOf(flow, u, v, 20)).toBeLessThan(0.2);
  });

  test.each([
    [13, 9, 26, 18],
    [24, 31, 49, 62],
    [5, 5, 7, 11],
  ])('a field of %i x %i at %i x %i: between its values as on a slope, longer as it is wider', (w, h, width, height) => {
    const slope = Float32Array.from({ length: w * h }, (_, i) => 0.3 * (i % w) - 0.8 * Math.floor(i / w) + 2);
    const found = enlargedField(slope, w, h, width, height);
    const within = (v: number, n: number): number => Math.min(n - 1, Math.max(0, v));
    found.forEach((value, i) => {
      const x = within((((i % width) + 0.5) * w) / width - 0.5, w);
      const y = within(((Math.floor(i / width) + 0.5) * h) / height - 0.5, h);
      expect(value).toBeCloseTo(((0.3 * x - 0.8 * y + 2) * width) / w, 4);
    });
  });
  test.each([
    [0, 61, 47],
    [2, 64, 48],
    [4, 90, 33],
  ])('the kernel does what its readable twins do, in %d rounds at %dx%d', (rounds, width, height) => {
    const mover = texture(9);
    const at = (shift: number): Plane => ({
      width,
      height,
      data: Float32Array.from({ length: width * height }, (_, i) => {
        const [x, y] = [i % width, Math.floor(i / width)];
        return x - shift > 15 && x - shift < 40 && y > 10 && y < 30 ? mover(x - shift, y) : ground(x - 0.4 * shift, y + 0.2 * shift);
      }),
    });
    const random = seededRandom(8);
    const begin = Float32Array.from({ length: width * height }, () => random() - 0.5);
    const run = (level: typeof flowLevel): Float32Array[] => {
      const [u, v] = [begin.slice(), begin.slice().reverse()];
      level(at(0), at(2.5), u, v, rounds);
      return [u, v];
    };
    const [u, v] = run(flowLevel) as [Float32Array, Float32Array];
    const [tu, tv] = run((a, b, p, q, n) => {
      searchLevel(a, b, p, q);
      if (n > 0) refineFlow(a, b, p, q, n);
    }) as [Float32Array, Float32Array];
    const misses = [...u].map((value, i) => Math.hypot(value - tu[i]!, v[i]! - tv[i]!)).sort((a, b) => a - b);
    // a patch that stops a step sooner in single precision may end elsewhere
    expect(misses[Math.floor(0.98 * misses.length)]!).toBeLessThan(0.01);
    expect(misses.reduce((a, b) => a + b, 0) / misses.length).toBeLessThan(0.003);
  });

  test('closes but where something is hidden', () => {
    const mover = texture(9);
    const scene = (shift: number) => planeOf((x, y) => (x - shift >= 50 && x - shift < 90 && y >= 30 && y < 90 ? mover(x - shift, y) : ground(x, y)));
    const [a, b] = [pyramid(scene(0)), pyramid(scene(8))];
    const there = denseFlow(a, b);
    const seen = closes(there, denseFlow(b, a));
    // a strip of ground is covered by the mover's right side
    let hidden = 0;
    let open = 0;
    for (let y = 40; y < 80; y++) {
      for (let x = 91; x < 97; x++) hidden += 1 - seen[y * W + x]!;
      for (let x = 110; x < 140; x++) open += seen[y * W + x]!;
    }
    expect(hidden / (40 * 6)).toBeGreaterThan(0.6);
    expect(open / (40 * 30)).toBeGreaterThan(0.98);
    expect(there.u[60 * W + 70]!).toBeCloseTo(8, 0);
    expect(Math.abs(there.u[60 * W + 25]!)).toBeLessThan(0.2);
  });

  test('of two steps is the sum of both', () => {
    const at = (k: number) => planeOf((x, y) => ground(x - 2 * k, y + k));
    const way = chained(linkFrames(at(0), at(1)).there, linkFrames(at(1), at(2)).there, at(0));
    expect(missOf(way.flow, 4, -2, 20)).toBeLessThan(0.3);
  });
});

describe('levels', () => {
  const random = seededRandom(3);
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(6.2831853 * random());

  test('a fit does not shrink what is noisy on both sides', () => {
    const truth = Float32Array.from({ length: 4000 }, () => 0.5 + 0.2 * normal());
    const noisy = (): Float32Array => truth.map((v) => v + 0.08 * normal());
    expect(fitPair(noisy(), noisy()).scale).toBeCloseTo(1, 1);
    const x = noisy();
    const fit = fitPair(
      x,
      x.map((v) => 1.3 * v - 0.1),
    );
    expect(fit.scale).toBeCloseTo(1.3, 4);
    expect(fit.meanY).toBeCloseTo(1.3 * fit.meanX - 0.1, 4);
  });

  test('jitter goes, slow change stays', () => {
    const frames = 60;
    const jitter = Array.from({ length: frames }, () => ({ scale: Math.exp(0.06 * normal()), shift: 0.03 * normal() }));
    // the scene itself comes nearer, slowly
    const slow = (t: number): number => 0.7 + 0.3 * (t / (frames - 1));
    const base = Float32Array.from({ length: 900 }, () => 0.1 + 0.6 * random());
    const seen = jitter.map((j, t) => base.map((v) => j.scale * slow(t) * v + j.shift));
    const fits = seen.map((map, t) => (t > 0 ? fitPair(map, seen[t - 1]!) : null));
    const levels = jointLevels(fits);
    const mean = (t: number): number => seen[t]!.reduce((s, v) => s + levels[t]!.scale * v + levels[t]!.shift, 0) / base.length;
    const steps = (value: (t: number) => number): number => {
      let sum = 0;
      for (let t = 2; t < frames; t++) sum += Math.abs(value(t) - 2 * value(t - 1) + value(t - 2));
      return sum;
    };
    const before = (t: number): number => seen[t]!.reduce((s, v) => s + v, 0) / base.length;
    expect(steps(mean)).toBeLessThan(0.15 * steps(before));
    expect(mean(frames - 4) - mean(4)).toBeGreaterThan(0.04);
  });

  test('levels that were given are kept, and what follows joins them', () => {
    const same = { scale: 1, meanX: 0.4, meanY: 0.4, share: 1 };
    const levels = jointLevels([null, same, same, same], new Map([[0, { scale: 1.2, shift: -0.05 }]]));
    expect(levels[0]!.scale).toBeCloseTo(1.2, 2);
    expect(levels[1]!.scale).toBeGreaterThan(1.15);
  });
});

describe('steady', () => {
  const ground = texture(21);
  const mover = texture(22);
  const random = seededRandom(8);
  const inside = (x: number, y: number, t: number): boolean => x - 3 * t >= 20 && x - 3 * t < 60 && y >= 30 && y < 90;
  const frames = 10;
  const lumas = Array.from({ length: frames }, (_, t) => planeOf((x, y) => (inside(x, y, t) ? mover(x - 3 * t, y) : ground(x - t, y))));
  const truth = Array.from({ length: frames }, (_, t) => planeOf((x, y) => (inside(x, y, t) ? 0.8 : 0.25 + 0.001 * y)));
  // each frame is at other levels, and swims in soft patches of its own
  const maps = truth.map((map) => {
    const [scale, shift] = [1 + 0.1 * (random() - 0.5), 0.06 * (random() - 0.5)];
    const patch = gaussian({ ...map, data: map.data.map(() => random() - 0.5) }, 12).data;
    return { ...map, data: map.data.map((v, i) => scale * v + shift + 5 * patch[i]!) };
  });
  const links = linksOf(lumas);
  const flickerOf = (list: readonly Plane[]): number => meanFlicker(flickersOf(list, links.before));
  /** Mean error once the map is brought to the truth's levels. */
  const errorOf = (found: Plane, t: number, where: (x: number, y: number) => boolean): number => {
    const { scale, meanX, meanY } = fitPair(found.data, truth[t]!.data);
    const map = { data: found.data.map((v) => scale * (v - meanX) + meanY) };
    let sum = 0;
    let n = 0;
    for (let y = 32; y < 88; y++)
      for (let x = 4; x < W - 4; x++)
        if (where(x, y)) {
          sum += Math.abs(map.data[y * W + x]! - truth[t]!.data[y * W + x]!);
          n++;
        }
    return sum / n;
  };

  test('flicker goes, and moving edges do not double', () => {
    const { maps: out } = steadyMaps(maps, lumas, links, { strength: 70 });
    expect(flickerOf(out)).toBeLessThan(0.35 * flickerOf(maps));
    const t = 5;
    // where the mover's outline passed within two frames
    const swept = (x: number, y: number): boolean => [3, 4, 5, 6, 7].some((s) => inside(x, y, s) !== inside(x, y, t));
    const plain = {
      ...maps[t]!,
      data: maps[t]!.data.map((_, i) => (maps[3]!.data[i]! + maps[4]!.data[i]! + maps[5]!.data[i]! + maps[6]!.data[i]! + maps[7]!.data[i]!) / 5),
    };
    expect(errorOf(out[t]!, t, swept)).toBeLessThan(errorOf(maps[t]!, t, swept) * 1.05);
    expect(errorOf(plain, t, swept)).toBeGreaterThan(2 * errorOf(out[t]!, t, swept));
  });

  test('steady maps stay as they are, and without strength only levels change', () => {
    const flat = truth.map((m) => ({ ...m, data: m.data.map(() => 0.4) }));
    for (const map of steadyAlongFlow(flat, lumas, links, 30)) expect(Math.max(...map.data.map((v) => Math.abs(v - 0.4)))).toBeLessThan(1e-6);
    const { maps: out, levels } = steadyMaps(maps, lumas, links, { strength: 0 });
    const { scale, shift } = levels[3]!;
    expect(out[3]!.data[5000]).toBeCloseTo(scale * maps[3]!.data[5000]! + shift, 6);
  });

  test('what levels lift beyond the ends lies at them', () => {
    const [first] = steadyMaps(maps, lumas, links, { strength: 70, pinned: new Map([[0, { scale: 1.5, shift: 0.2 }]]) }).maps;
    expect(first!.data.some((v) => v === 1)).toBe(true);
    expect(first!.data.some((v) => !(v >= 0 && v <= 1))).toBe(false);
  });

  test('maps carried from every fourth frame become as steady as those found on each', () => {
    const carried = fromKeys(
      maps.map((m, t) => (t % 4 === 0 || t === frames - 1 ? m : null)),
      lumas,
      links,
    );
    const loose = flickerOf(steadyMaps(carried, lumas, links, { strength: 70 }).maps);
    expect(flickerOf(steadyMaps(carried, lumas, links, { strength: 70, every: 4 }).maps)).toBeLessThan(loose);
  });

  test('nothing crosses a cut', () => {
    const cut = linksOf(lumas, [5]);
    expect(cut.before[5]).toBeNull();
    expect(cut.next[4]).toBeNull();
    const split = maps.map((m, t) => ({ ...m, data: m.data.map(() => (t < 5 ? 0.2 : 0.9)) }));
    const out = steadyAlongFlow(split, lumas, cut, 30);
    expect(out[4]!.data[6000]).toBeCloseTo(0.2, 6);
    expect(out[5]!.data[6000]).toBeCloseTo(0.9, 6);
  });

  test('maps of every fourth frame are carried to those between, the mover where it is', () => {
    const keys = keyFrames({ from: 0, to: frames - 1 }, 4);
    expect(keys).toEqual([0, 4, 8, 9]);
    const out = fromKeys(
      truth.map((m, t) => (keys.includes(t) ? m : null)),
      lumas,
      links,
    );
    const everywhere = (): boolean => true;
    // what stands in between is far nearer to its own truth than the key it comes from is
    expect(errorOf(out[2]!, 2, everywhere)).toBeLessThan(0.3 * errorOf(truth[0]!, 2, everywhere));
  });
});

test('what flashes between two keys is filled from around, and not led off by its brightness', () => {
  const wave = (y: number): number => Math.sin(y / 4);
  const ground = planeOf((x, y) => 90 + 25 * wave(y) + 3 * Math.sin(x));
  const flash = { ...ground, data: ground.data.map((v, i) => (Math.hypot((i % W) - 80, Math.floor(i / W) - 60) < 3 ? 255 : v)) };
  // what is bright is near, here
  const map = planeOf((_, y) => 0.5 + 0.3 * wave(y));
  const lumas = [ground, flash, ground];
  const [, between] = fromKeys([map, null, map], lumas, linksOf(lumas));
  for (let y = 55; y < 66; y++)
    for (let x = 75; x < 86; x++) {
      expect(between!.data[y * W + x]).toBeGreaterThan(0.05);
      expect(between!.data[y * W + x]).toBeLessThan(0.95);
    }
});

/** A frame in grey tones about a colour. */
const coloured = (luma: (x: number, y: number) => number, tint: readonly [number, number, number]): MotionView => {
  const rgb = new Uint8Array(W * H * 3);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) for (let k = 0; k < 3; k++) rgb[3 * (y * W + x) + k] = Math.max(0, Math.min(255, luma(x, y) * tint[k]!));
  return viewOfRgb(W, H, rgb);
};

test('cuts are found; a flash and a change of light are none', () => {
  const one = texture(31);
  const two = texture(32);
  const scene = (t: number, light = 1): MotionView =>
    t < 6 ? coloured((x, y) => light * one(x - t, y), [1, 0.9, 0.7]) : coloured((x, y) => light * two(x + 2 * t, y), [0.6, 0.8, 1.1]);
  const lights = [1, 1, 1, 2.2, 1, 1, 1, 1, 0.7, 0.7, 0.7, 0.7];
  expect(findCuts(lights.map((light, t) => frameSign(scene(t, light))))).toEqual([6]);
});

test('a region that was drawn once follows its thing and leaves nothing behind', () => {
  const ground = texture(41);
  const mover = texture(42);
  const inside = (x: number, y: number, t: number): boolean => (x - 40 - 4 * t) ** 2 + (y - 60) ** 2 < 22 ** 2;
  const view = (t: number): MotionView => {
    const rgb = new Uint8Array(W * H * 3);
    for (let y = 0; y < H; y++)
      for (let x = 0; x < W; x++) {
        const own = inside(x, y, t);
        const v = own ? mover(x - 4 * t, y) : ground(x + t, y);
        const tint = own ? [1.2, 0.7, 0.4] : [0.6, 0.9, 1];
        for (let k = 0; k < 3; k++) rgb[3 * (y * W + x) + k] = Math.max(0, Math.min(255, v * tint[k]!));
      }
    return viewOfRgb(W, H, rgb);
  };
  let last = view(0);
  let region = planeOf((x, y) => (inside(x, y, 0) ? 1 : 0));
  const odds = colourOdds(last, region);
  for (let t = 1; t <= 12; t++) {
    const here = view(t);
    const { back } = linkFrames(last.luma, here.luma);
    const step = carryRegion(region, here, back, odds);
    expect(step.lost).toBeLessThan(0.3);
    region = step.region;
    last = here;
  }
  let both = 0;
  let either = 0;
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const [a, b] = [region.data[y * W + x]! > 0.5, inside(x, y, 12)];
      if (a && b) both++;
      if (a || b) either++;
    }
  expect(both / either).toBeGreaterThan(0.85);
});

test('a range falls into its scenes, and long scenes into pieces that begin and end on key frames', () => {
  expect(scenesOf({ from: 10, to: 99 }, [3, 40, 41, 120])).toEqual([
    { from: 10, to: 39 },
    { from: 40, to: 40 },
    { from: 41, to: 99 },
  ]);
  for (const [to, every] of [
    [0, 4],
    [63, 4],
    [64, 1],
    [300, 4],
    [1000, 2],
  ] as const) {
    const scene = { from: 5, to: 5 + to };
    const keys = keyFrames(scene, every);
    const pieces = piecesOfScene(scene, every);
    // each frame belongs to one piece
    expect(pieces.map((p) => p.own)).toEqual([scene.from, ...pieces.slice(0, -1).map((p) => p.to + 1)]);
    expect(pieces[pieces.length - 1]!.to).toBe(scene.to);
    for (const piece of pieces) {
      expect(keys).toContain(piece.from);
      expect(keys).toContain(piece.to);
      expect(piece.to - piece.from).toBeLessThan(100);
      if (piece.own > scene.from) expect(piece.own - piece.from).toBeGreaterThanOrEqual(16);
    }
  }
});

test('a frame is made small by the means of what each pixel covers', () => {
  const [w, h] = [24, 16];
  const data = new Uint8Array(w * h * 4);
  for (let y = 0; y < h; y++) for (let x = 0; x < w; x++) data.set([8 * x, 12 * y, 100, 255], (y * w + x) * 4);
  const raster = { width: w, height: h, channels: 4 as const, data };
  const half = motionView(raster, 12);
  expect([half.width, half.height]).toEqual([12, 8]);
  // the middle of what is covered, whose ramp is even
  expect([...half.rgb.subarray(3 * (3 * 12 + 5), 3 * (3 * 12 + 5) + 3)]).toEqual([8 * 10.5, 12 * 6.5, 100]);
  expect(half.luma.data[3 * 12 + 5]).toBeCloseTo(0.299 * 84 + 0.587 * 78 + 11.4, 3);
  // where pixels are shared out nothing is lost
  const odd = motionView(raster, 15).luma.data;
  const whole = motionView(raster, 24).luma.data;
  const mean = (values: Float32Array): number => values.reduce((sum, v) => sum + v, 0) / values.length;
  expect(mean(odd)).toBeCloseTo(mean(whole), 3);
  const grey16 = { width: 2, height: 2, channels: 1 as const, data: Uint16Array.of(0, 65535, 65535, 0) };
  expect(motionView(grey16, 1).luma.data[0]).toBeCloseTo(127.5, 3);
});

test('a point goes with its thing, and is lost where that is hidden', () => {
  const ground = texture(51);
  const mover = texture(52);
  const at = (t: number) =>
    planeOf((x, y) =>
      y >= 40 && y < 80 && x >= 100 ? ground(x + 31, y) : (x - 30 - 5 * t) ** 2 + (y - 60) ** 2 < 18 ** 2 ? mover(x - 5 * t, y) : ground(x, y),
    );
  let point: { x: number; y: number } | null = { x: 30, y: 60 };
  for (let t = 0; t < 10; t++) {
    point = trackPoint(at(t), at(t + 1), point!);
    expect(point!.x).toBeCloseTo(30 + 5 * (t + 1), 0);
    expect(Math.abs(point!.y - 60)).toBeLessThan(0.5);
  }
  // behind the wall that begins at 100 there is nothing of it
  for (let t = 10; t < 18 && point; t++) point = trackPoint(at(t), at(t + 1), point);
  expect(point).toBeNull();
});

test('readings are thinned to what lines between them say', () => {
  const bent = Array.from({ length: 41 }, (_, frame) => ({ frame, value: frame < 20 ? 4 : 4 + 0.2 * (frame - 19) }));
  expect(thinReadings(bent, 0.05).map((r) => r.frame)).toEqual([0, 19, 40]);
  expect(thinReadings(bent.slice(0, 2), 0)).toHaveLength(2);
  const far = thinReadings(bent, 0.02, Math.log);
  for (const r of bent) {
    const next = far.findIndex((k) => k.frame >= r.frame);
    const [a, b] = [far[Math.max(0, next - 1)]!, far[next]!];
    const t = b.frame === a.frame ? 0 : (r.frame - a.frame) / (b.frame - a.frame);
    expect(Math.abs(Math.log(r.value) - Math.log(a.value + t * (b.value - a.value)))).toBeLessThanOrEqual(0.02 + 1e-9);
  }
});

test('what somebody said about cuts goes before what was found, and names other maps', () => {
  const clip = { sha256: 'c', name: 'clip', width: 4, height: 4, clip: { frames: 90, fps: 24, cuts: { added: [12, 40], removed: [30] } } };
  expect(cutsWith([30, 40, 60], clip)).toEqual([12, 40, 60]);
  expect(cutsWith([30], { ...clip, clip: { frames: 90, fps: 24 } })).toEqual([30]);
  const source = { is: 'estimate', quality: 'draft' } as const;
  expect(seriesOf({ of: clip, source, steady: 70 })).not.toBe(seriesOf({ of: { ...clip, clip: { frames: 90, fps: 24 } }, source, steady: 70 }));
  expect(estimatesOf({ of: clip, source })).toBe(estimatesOf({ of: { ...clip, clip: { frames: 90, fps: 24 } }, source }));
});
