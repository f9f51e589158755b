import '../../../headless/kernels';
import { expect, test } from '@jest/globals';
import { estimatesOf, seriesOf, type ClipDepthSpec } from '../../core/motion/clipSpec';
import { seededRandom } from '../../core/random';
import type { Plane, Raster } from '../../core/picture';
import { Aborted } from '../../core/run';
import { regionOf } from '../../core/depth/layers/shape/follow';
import { shapesSchema } from '../../core/depth/layers/shape/content';
import { cutsOf, steadyClip, type FrameStore, type SteadyProgress } from './clipDepth';
import { followRegion } from './followRegion';

const W = 120;
const H = 80;
const random = seededRandom(12);
const grain = Float32Array.from({ length: 400 * H }, () => random());
/** Soft spots, told apart by scene. */
const spot = (x: number, y: number, scene: number): number =>
  128 + 60 * Math.sin((x + 40 * scene) / (5 + scene)) * Math.cos(y / (6 - scene)) + 30 * (grain[y * 400 + ((x + 100) % 400)]! - 0.5);

/** A ground that moves by 1 px a frame, from frame 20 on another one; a disc that moves by 3. */
const inDisc = (x: number, y: number, t: number): boolean => (x - 20 - 3 * t) ** 2 + (y - 40) ** 2 < 15 ** 2;
const frame = (t: number): Promise<Raster> => {
  const scene = t < 20 ? 0 : 1;
  const data = new Uint8Array(W * H * 3);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const v = spot(x - t + 60, y, scene);
      const c = scene === 0 && inDisc(x, y, t) ? [230, 0.5 * spot(x - 3 * t + 200, y, 1), 30] : scene === 0 ? [v, v, 200] : [90, v, 0.4 * v];
      data.set(c, (y * W + x) * 3);
    }
  return Promise.resolve({ width: W, height: H, channels: 3, data });
};
const of = { sha256: 'f'.repeat(64), name: 'clip', width: W, height: H, clip: { frames: 30, fps: 24 } };

function store(): FrameStore & { readonly kept: Map<string, Plane> } {
  const kept = new Map<string, Plane>();
  const begun = new Map<string, SteadyProgress>();
  return {
    kept,
    keptProgress: (series) => Promise.resolve(begun.get(series) ?? null),
    keepProgress: (series, progress) => {
      begun.set(series, structuredClone(progress));
      return Promise.resolve();
    },
    keptFrame: (series, f) => Promise.resolve(kept.get(`${series}@${f}`) ?? null),
    keepFrame: (series, f, plane) => {
      kept.set(`${series}@${f}`, plane);
      return Promise.resolve();
    },
  };
}
const none = (): Promise<Plane> => Promise.reject(new Error('no maps'));

test('a clip is cut into its scenes, carried from its keys, and comes out steady, each frame once', async () => {
  const clip = { frame };
  const cuts = await cutsOf(clip, { from: 0, to: 29 }, () => undefined);
  expect(cuts).toEqual([20]);
  const spec: ClipDepthSpec = { of, from: 0, to: 29, source: { is: 'estimate', quality: 'draft' }, every: 4, steady: 70, cuts };
  const frames = store();
  const level = seededRandom(3);
  for (let t = 0; t < 30; t++) {
    // only keys are read: the others are wrong on purpose
    const isKey = t < 20 ? t % 4 === 0 || t === 19 : (t - 20) % 4 === 0 || t === 29;
    const shift = 0.1 * (level() - 0.5);
    const data = Float32Array.from({ length: W * H }, (_, i) => (isKey ? (t < 20 && inDisc(i % W, Math.floor(i / W), t) ? 0.8 : 0.3) + shift : 9));
    frames.kept.set(`${estimatesOf(spec)!}@${t}`, { width: W, height: H, data });
  }
  const shares: number[] = [];
  const flickers = await steadyClip(spec, { clip, mapAt: none }, frames, (s) => void shares.push(s));
  expect(shares).toEqual([...shares].sort((a, b) => a - b));
  expect(flickers.before).toHaveLength(30);
  expect(flickers.before[20]).toBeNull();
  for (let t = 0; t < 30; t++) {
    const map = frames.kept.get(`${seriesOf(spec)}@${t}`)!;
    const [x, y] = [20 + 3 * t, 40];
    if (t < 20 && x < W - 20) expect(map.data[y * W + x]! - map.data[5 * W + 5]!).toBeGreaterThan(0.35);
    expect(Math.abs(map.data[5 * W + 5]! - 0.3)).toBeLessThan(0.08);
  }
  await expect(
    steadyClip({ ...spec, steady: 40 }, { clip, mapAt: none }, frames, () => {
      throw new Aborted();
    }),
  ).rejects.toThrow(Aborted);
  await expect(steadyClip({ ...spec, every: 4 }, { clip, mapAt: none }, store(), () => undefined)).rejects.toThrow(
    'The depth of frame 0 is missing.',
  );
});

test('what was broken off goes on after the last whole piece, and comes out as if it had not been', async () => {
  const spec: ClipDepthSpec = { of, from: 0, to: 29, source: { is: 'estimate', quality: 'draft' }, every: 4, steady: 70, cuts: [20] };
  const level = seededRandom(5);
  const estimates = Array.from({ length: 30 }, (): Plane => {
    const near = 0.3 + 0.1 * level();
    return { width: W, height: H, data: Float32Array.from({ length: W * H }, (_, i) => near + (i % W) / 500) };
  });
  const filled = (): ReturnType<typeof store> => {
    const frames = store();
    estimates.forEach((map, t) => frames.kept.set(`${estimatesOf(spec)!}@${t}`, map));
    return frames;
  };
  const whole = filled();
  const flickers = await steadyClip(spec, { clip: { frame }, mapAt: none }, whole, () => undefined);
  const broken = filled();
  const untilSecond = (share: number): void => {
    if (share > 0.75) throw new Aborted();
  };
  await expect(steadyClip(spec, { clip: { frame }, mapAt: none }, broken, untilSecond)).rejects.toThrow(Aborted);
  const asked: number[] = [];
  const watched = {
    frame: (t: number): Promise<Raster> => {
      asked.push(t);
      return frame(t);
    },
  };
  expect(await steadyClip(spec, { clip: watched, mapAt: none }, broken, () => undefined)).toEqual(flickers);
  expect(asked).toEqual([20, 21, 22, 23, 24, 25, 26, 27, 28, 29]);
  expect(broken.kept).toEqual(whole.kept);
  // found on other frames it is not the same
  asked.length = 0;
  await steadyClip({ ...spec, every: 1 }, { clip: watched, mapAt: none }, broken, () => undefined);
  expect(asked).toHaveLength(30);
});

test('a region drawn on one frame is carried to the others', async () => {
  const ring = Array.from({ length: 24 }, (_, k) => {
    const a = (2 * Math.PI * k) / 24;
    return { x: (20 + 30 + 15 * Math.cos(a)) / W, y: (40 + 15 * Math.sin(a)) / H };
  });
  const { shapes } = shapesSchema.parse({ shapes: [{ id: 'r', name: 'Disc', points: ring }] });
  const frames = store();
  const drawing = { frame: 10, shapes };
  const read: number[] = [];
  const clip = {
    frame,
    glance: async <T>(t: number, use: (raster: Raster) => T): Promise<T> => {
      read.push(t);
      const raster = await frame(t);
      const seen = use(raster);
      // its pixels are those of the next one from now on
      raster.data.fill(0);
      return seen;
    },
  };
  const lost = await followRegion({ of, series: 'region', drawings: [drawing], from: 2, to: 18 }, clip, frames, () => undefined);
  expect(lost).toHaveLength(17);
  // the decoder goes forwards only: backwards from the drawing it is not begun anew for each frame
  expect(read).toEqual([10, 11, 12, 13, 14, 15, 16, 17, 18, 2, 3, 4, 5, 6, 7, 8, 9]);
  expect(frames.kept.get('region@10')).toEqual(regionOf(drawing, { width: W, height: H }, of));
  for (const t of [3, 6, 14, 17]) {
    const region = frames.kept.get(`region@${t}`)!;
    let [both, either] = [0, 0];
    for (let i = 0; i < W * H; i++) {
      const [a, b] = [region.data[i]! > 0.5, inDisc(i % W, Math.floor(i / W), t)];
      if (a && b) both++;
      if (a || b) either++;
    }
    expect(both / either).toBeGreaterThan(0.8);
  }
});
