import { beforeEach, expect, jest, test } from '@jest/globals';
import { until } from '../../testing/until';
import { clipFrameOf, depthSeries, needKey, waysOf, type EstimateNeed } from '../../core/need/need';
import type { Plane } from '../../core/picture';

const kept = new Map<string, Plane>();
let whileRead: (() => void) | null = null;
jest.unstable_mockModule('../../media/clipStore', () => ({
  keptFrame: (series: string, frame: number) => {
    const found = kept.get(`${series}@${frame}`) ?? null;
    const then = whileRead;
    whileRead = null;
    then?.();
    return Promise.resolve(found);
  },
  keptProxy: () => Promise.resolve({ blob: new Blob(['proxy']), width: 4, height: 4 }),
}));
const decoding: (() => void)[] = [];
let closed = 0;
jest.unstable_mockModule('./openClip', () => ({
  openClip: () =>
    Promise.resolve({
      frame: async () => {
        await new Promise<void>((go) => decoding.push(go));
        if (closed > 0) throw new Error('proxy is damaged');
        return { width: 4, height: 4, channels: 3, data: new Uint8Array(48) };
      },
      close: () => void closed++,
    }),
}));
jest.unstable_mockModule('./decode', () => {
  const nothing = () => Promise.reject(new Error('nothing is decoded here'));
  return { decodeFile: nothing, decodeRaster: nothing };
});
const { framePlane, frameRaster, framesChanged, proxiesChanged, withFrames } = await import('./clipFrames');

const of = { sha256: 'c', name: 'clip.mp4', width: 8, height: 8, clip: { frames: 9, fps: 24 } };
const need: EstimateNeed = { is: 'estimate', of, frame: clipFrameOf(4), quality: 'fine', steady: 70 };
const [steady, fine, draft] = waysOf(need) as [EstimateNeed, EstimateNeed, EstimateNeed];
const plane = (value: number): Plane => ({ width: 1, height: 1, data: Float32Array.of(value) });
const put = (way: EstimateNeed, value: number): void => void kept.set(`${depthSeries(way)}@${way.frame}`, plane(value));
const seen = () => withFrames(() => framePlane(need));

beforeEach(() => {
  kept.clear();
  framesChanged();
});

test('the best map of a frame is taken: steady, as estimated, as a draft; none where there is none', async () => {
  expect([steady.steady, fine.steady, fine.quality, draft.quality]).toEqual([70, undefined, 'fine', 'draft']);
  expect(waysOf({ ...need, quality: 'draft', steady: 0 })).toHaveLength(1);
  expect(await seen()).toBeNull();
  // what was not there is looked for again each time
  put(draft, 1);
  expect(await seen()).toEqual({ key: needKey(draft), plane: plane(1) });
});

test('a worker that has read a map reads a better one once it is told that there are others', async () => {
  put(draft, 1);
  await seen();
  put(fine, 2);
  put(steady, 3);
  framesChanged();
  expect(await seen()).toEqual({ key: needKey(steady), plane: plane(3) });
  kept.delete(`${depthSeries(steady)}@4`);
  framesChanged();
  expect((await seen())!.key).toBe(needKey(fine));
});

test('a map that became better while an older one was being read is not forgotten for it', async () => {
  put(draft, 1);
  whileRead = () => {
    put(steady, 3);
    framesChanged();
  };
  expect((await seen())!.key).toBe(needKey(steady));
  expect((await seen())!.plane).toEqual(plane(3));
});

test('a proxy that is forgotten while frames are read from it is closed when they are there', async () => {
  const light = { is: 'raster', ref: of, frame: clipFrameOf(2), light: true } as const;
  const read = withFrames(() => frameRaster(light));
  await until(() => decoding.length > 0);
  // maps that are found leave it open
  framesChanged();
  proxiesChanged();
  expect(closed).toBe(0);
  for (const go of decoding.splice(0)) go();
  // what was read from it is read again, from what there is now
  await until(() => decoding.length > 0);
  for (const go of decoding.splice(0)) {
    closed = 0;
    go();
  }
  expect((await read).width).toBe(4);
});
