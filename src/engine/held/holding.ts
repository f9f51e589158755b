import * as Comlink from 'comlink';
import { releaseViews } from '../../core/camera/viewKernel';
import type { Settings } from '../../core/document/schema';
import { OmbrageError } from '../../core/error';
import { releaseKernels } from '../../core/kernels/loader';
import { rowKernel } from '../../core/shot/rowKernels';
import { needKey, ofClip, type Need, type RasterNeed } from '../../core/need/need';
import type { Plane, Raster } from '../../core/picture';
import { thinRaster } from '../../core/raster/resample';
import { Aborted, type Run } from '../../core/run';
import { neededFor } from '../../core/shot/needs';
import { plateStep, type ChainInputs, type Kept, type ShotRequest, type StageCache } from '../../core/shot/stage';
import { shareParts } from '../../core/values/share';
import { StageStore } from '../memory/stageStore';
import { clipsAre, framePlane, frameRaster, proxiesChanged, restClips, viewClipsFromHere, withFrames } from './clipFrames';
import type { HeldKind, HeldKinds } from '../messages/holdings';
import { Idle } from '../memory/idle';
import { Newest } from '../messages/newest';
import type { Given } from '../messages/protocol';
import { sweep } from '../memory/sweep';

/** Finished stages that a worker keeps between calls, bytes; a picture too large for it is kept while one thing is being done. Frames of a clip have little in common. */
const KEPT_BYTES = { viewer: { still: 160e6, clip: 96e6 }, other: { still: 96e6, clip: 48e6 } };
/** For one export, whatever its size: a stage that is not kept would be made again by every later one. */
const EXPORT_BYTES = 4e9;

/** Pages without TLS get no memory that workers share. */
const canShare = typeof SharedArrayBuffer !== 'undefined';

/** What this worker was given. The page bounds it: what it believes to be here is here. */
const held: { readonly [K in HeldKind]: Map<string, HeldKinds[K]> } = { raster: new Map(), map: new Map(), clip: new Map() };
clipsAre(held.clip);
const cache = new StageStore(KEPT_BYTES.other.still);

/** Kernels of a worker that rests keep so much memory, bytes. */
const RESTING_KERNELS = 16e6;
let viewing = false;

/** What this worker keeps suits a plate; `view`: it makes the picture that is looked at, from now on. */
export function workOn({ clip }: ShotRequest['plate'], view = false): void {
  if (view && !viewing) viewClipsFromHere();
  viewing ||= view;
  cache.bound(KEPT_BYTES[viewing ? 'viewer' : 'other'][clip ? 'clip' : 'still']);
}

/** Lets go of what can be made again: all of it where this worker's work is asked for once, its kernels' memory in any. */
export function rest(): void {
  releaseKernels(RESTING_KERNELS);
  if (!viewing) {
    cache.clear();
    releaseViews();
    restClips();
  }
  sweep();
}

export const hold = <K extends HeldKind>(kind: K, name: string, value: HeldKinds[K]): void => void held[kind].set(name, value);
export const letGo = (kind: HeldKind, name: string): void => void held[kind].delete(name);

export const mapOf = (key: string): Plane | undefined => held.map.get(key);

/** The middle of a held map's values at some places, shares of it; null where nothing is known there. */
export function middleNearness(key: string, points: readonly { readonly x: number; readonly y: number }[]): number | null {
  const map = mapOf(key);
  const found = points
    .map(({ x, y }) => map?.data[Math.floor(y * map.height) * map.width + Math.floor(x * map.width)] ?? NaN)
    .filter((v) => v === v)
    .sort((a, b) => a - b);
  return found[found.length >> 1] ?? null;
}

export const plateOf = (hash: string): Raster => {
  const raster = held.raster.get(hash);
  if (!raster) throw new OmbrageError('plate-missing', 'The plate of this shot is not loaded.', 'Reload the page.');
  return raster;
};

/** A plate, or a frame of one that is a clip. Throws FrameMissing. */
export const plateAt = (need: RasterNeed): Raster => held.raster.get(needKey(need)) ?? (ofClip(need) ? frameRaster(need) : plateOf(needKey(need)));

let settingsBefore: Settings | null = null;

/** Settings come as a copy: the parts that did not change take their old identity, so that what was read of them once stays read. */
export function intern(request: ShotRequest): ShotRequest {
  settingsBefore = shareParts(settingsBefore, request.settings);
  return { ...request, settings: settingsBefore };
}

/** So long a worker has nothing to do before it lets go of what it keeps, ms. */
const IDLE_MS = 4000;
export const idle = new Idle(IDLE_MS, rest);

/** A worker that lends a hand with rows. False where the work became needless. */
export interface Helper {
  band(kernel: string, input: unknown, y0: number, y1: number, out: Float32Array, id: number, newest: Int32Array): boolean;
}

/** What a worker does for another. */
export const helper: Helper = {
  band(kernel, input, y0, y1, out, id, words) {
    const newest = new Newest(words);
    idle.wake();
    try {
      rowKernel(kernel).make(input, y0, y1, out, () => {
        if (!newest.is(id)) throw new Aborted();
      });
      return true;
    } catch (error) {
      if (error instanceof Aborted) return false;
      throw error;
    } finally {
      idle.sleep();
    }
  },
};

let helpers: { call: Comlink.Remote<Helper>; busy: () => boolean }[] = [];
let replaced: () => void = () => undefined;
/** answers null once the helpers are others: one of them was lost, and with it what it was doing */
let others: Promise<null> = new Promise((done) => (replaced = () => done(null)));

export function meetHelpers(ports: (MessagePort | null)[], busy: Int32Array): void {
  helpers = ports.flatMap((port, i) => (port ? [{ call: Comlink.wrap<Helper>(port), busy: () => Atomics.load(busy, i) > 0 }] : []));
  replaced();
  others = new Promise((done) => (replaced = () => done(null)));
}

/** Rows from which it is worth sharing work. */
const ROWS_TO_SHARE = 128;

/** A helper may take so many times as long as this worker takes for its own rows, and this long at the least, ms. */
const PATIENCE = 6;
const LEAST_PATIENCE_MS = 1200;

const after = (milliseconds: number): Promise<null> => new Promise((done) => setTimeout(() => done(null), milliseconds));

/** There may be more workers than processors: more bands at once would only wait for each other. */
const mostHelpers = Math.max(1, (globalThis.navigator?.hardwareConcurrency ?? 2) - 1);

export interface How {
  /** where stages are kept; where not given, in what lasts */
  readonly cache?: StageCache;
  readonly quick: boolean;
  readonly alone: boolean;
  /** it goes out: no proxy will do */
  readonly whole?: boolean;
  /** hears the share done; false stops the work */
  progress(share: number): boolean;
  readonly id: number;
  readonly newest: Newest;
}

/** A run that gives rows to this worker and the idle helpers. */
export function runFor({ alone, progress, id, newest }: Pick<How, 'alone' | 'progress' | 'id' | 'newest'>): Run {
  const checkpoint = (share: number): void => {
    if (!progress(share)) throw new Aborted();
  };
  return {
    // helpers write into memory that this worker reads; without helpers it works in memory of its own
    shared: canShare && helpers.length > 0,
    checkpoint,
    rows: async (kernel, height, input, out, onProgress = checkpoint) => {
      const few = alone || !canShare || height < ROWS_TO_SHARE;
      const free = few ? [] : helpers.filter((h) => !h.busy()).slice(0, mostHelpers);
      const parts = free.length + 1;
      const row = (k: number): number => (k === parts ? height : Math.floor((height * k) / parts / kernel.step) * kernel.step);
      const lost = others;
      const bands = free.map((h, k) => h.call.band(kernel.name, input, row(k + 1), row(k + 2), out, id, newest.words));
      for (const band of bands) band.catch(() => undefined);
      const started = performance.now();
      kernel.make(input, 0, row(1), out, onProgress);
      const late = after(Math.max(LEAST_PATIENCE_MS, PATIENCE * (performance.now() - started)));
      const all = await Promise.all(bands.map((band) => Promise.race([band, lost, late])));
      // what was given to a helper that is lost, or still begins, is done here; where it answers after all it wrote the same
      for (const [k, done] of all.entries())
        if (done === null) kernel.make(input, row(k + 1), row(k + 2), out, onProgress);
        else if (!done) throw new Aborted();
    },
  };
}

/** A cache for one piece of work, in front of the one that lasts; alone where that may hold what was made with proxies. */
export function cacheForOnce({ plate }: Pick<ShotRequest, 'plate'>): StageCache {
  const own = new StageStore(EXPORT_BYTES);
  if (plate.clip) return own;
  return { get: <T extends Kept>(key: string) => own.get<T>(key) ?? cache.get<T>(key), set: (key, value) => own.set(key, value) };
}

/** So many pictures of a clip are kept between its frames: what they have in common is made once. */
const CLIP_PICTURES = 14;
let clipCache: { readonly key: string; readonly cache: StageCache } | null = null;
let clipTimer: ReturnType<typeof setTimeout> | undefined;
/** pieces that are being made */
let pieces = 0;
/** So long after its last piece a clip's cache is let go, ms. */
const CLIP_REST_MS = 20_000;

/** Makes a piece of a clip with a cache for all its pieces, bounded by the size of its frames, which is let go some time after the last one is finished. */
export async function withClipCache<T>(
  clip: { readonly width: number; readonly height: number },
  work: (cache: StageCache) => Promise<T>,
): Promise<T> {
  clearTimeout(clipTimer);
  pieces++;
  try {
    return await work(cacheForClip(clip));
  } finally {
    if (--pieces === 0)
      clipTimer = setTimeout(() => {
        clipCache = null;
        releaseViews();
      }, CLIP_REST_MS);
  }
}

function cacheForClip(clip: { readonly width: number; readonly height: number }): StageCache {
  const key = JSON.stringify(clip);
  if (clipCache?.key !== key)
    clipCache = { key, cache: new StageStore(Math.max(KEPT_BYTES.viewer.still, CLIP_PICTURES * 16 * clip.width * clip.height)) };
  return clipCache.cache;
}

/** A proxy will do where its pixels are hardly larger than those of the rendering. */
const PROXY_STEP = 1.6;

/** What is kept of clips was made with proxies, or without, where that is otherwise now. */
export function proxiesAreOthers(): void {
  proxiesChanged();
  cache.clear();
}

const takesProxy = (step: number | undefined, whole = false): boolean => !whole && step !== undefined && step >= PROXY_STEP;

/** Frames of clips that a rendering will ask for; what the page gave of them besides is there. `whole`: no proxy will do. */
export function framesFor(request: ShotRequest, given: Given, whole = false): readonly Need[] {
  if (!request.plate.clip && !neededFor(request, request.at).some(ofClip)) return [];
  const light = takesProxy(plateStep(request), whole);
  return neededFor({ plate: request.plate, settings: request.set ?? request.settings }, request.at)
    .filter((need) => ofClip(need) && given[needKey(need)] === undefined)
    .map((need) => (need.is === 'raster' && light && need.ref === request.plate ? { ...need, light } : need));
}

/** Does work that needs these frames of clips, and any others that turn out to be missing; frames and stages that it uses stay until it is over. */
export async function rendering<T>(work: () => T | Promise<T>, needs: readonly Need[] = []): Promise<T> {
  const end = cache.begin();
  try {
    return await withFrames(work, needs);
  } finally {
    end();
  }
}

/** What the chain works with in this worker. */
export const inputsFor = (given: Given, how: How): ChainInputs => ({
  held: {
    raster: (need, step) => {
      const light = takesProxy(step, how.whole);
      const raster = held.raster.get(needKey(need)) ?? (ofClip(need) ? frameRaster(light ? { ...need, light } : need) : null);
      return raster && how.quick && step !== undefined ? thinRaster(raster, Math.floor(step / 2)) : raster;
    },
    plane: (need) => {
      const key = given[needKey(need)];
      const plane = key === undefined ? undefined : held.map.get(key);
      if (key !== undefined && plane) return { key, plane };
      return ofClip(need) ? framePlane(need) : null;
    },
  },
  cache: how.cache ?? cache,
  run: runFor(how),
  quick: how.quick,
});
