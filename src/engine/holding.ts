import * as Comlink from 'comlink';
import type { Layer, Settings } from '../core/document/schema';
import type { EffectInput } from '../core/effects/definition';
import { OmbrageError } from '../core/error';
import type { BlurShape } from '../core/kernels/blurShape';
import { blurRows, type RadiusPicture } from '../core/kernels/lensBlurHost';
import type { Picture, Plane, Raster } from '../core/raster/picture';
import { thinRaster } from '../core/raster/resample';
import type { ChainInputs, ShotRequest } from '../core/shot/stage';
import { shareParts } from '../core/values/share';
import { ByteCache } from './byteCache';
import type { HeldKind, HeldKinds } from './holdings';
import type { Newest } from './newest';
import type { MapKeys } from './protocol';

/** Finished stages that a worker keeps between calls, bytes; a picture too large for it is kept while one thing is being done. */
const CACHE_BYTES = 224e6;
/** For one export, whatever its size: a stage that is not kept would be made again by every later one. */
const EXPORT_BYTES = 4e9;

/** Pages without TLS get no memory that workers share. */
const canShare = typeof SharedArrayBuffer !== 'undefined';

/** What this worker was given. The page bounds it: what it believes to be here is here. */
const held: { readonly [K in HeldKind]: Map<string, HeldKinds[K]> } = { plate: new Map(), still: new Map(), map: new Map() };
const cache = new ByteCache<Picture | Plane>(CACHE_BYTES);

export const hold = <K extends HeldKind>(kind: K, name: string, value: HeldKinds[K]): void => void held[kind].set(name, value);
export const letGo = (kind: HeldKind, name: string): void => void held[kind].delete(name);

export const mapOf = (key: string): Plane | undefined => held.map.get(key);

export const plateOf = (hash: string): Raster => {
  const raster = held.plate.get(hash);
  if (!raster) throw new OmbrageError('plate-missing', 'The plate of this shot is not loaded.', 'Reload the page.');
  return raster;
};

let settingsBefore: Settings | null = null;

/** Settings come as a copy: the parts that did not change take their old identity, so that what was read of them once stays read. */
export function known(request: ShotRequest): ShotRequest {
  settingsBefore = shareParts(settingsBefore, request.settings);
  return { ...request, settings: settingsBefore };
}

/** A worker that lends a hand with a blur. */
export interface Helper {
  band(picture: RadiusPicture, shape: BlurShape, y0: number, y1: number, out: Float32Array, id: number, newest: Int32Array): boolean;
}

let helpers: { call: Comlink.Remote<Helper>; busy: () => boolean }[] = [];
let replaced: () => void = () => undefined;
/** answers null once the helpers are others: one of them was lost, and with it what it was doing */
let others: Promise<null> = new Promise((done) => (replaced = () => done(null)));

export function meetHelpers(ports: MessagePort[], busy: Int32Array): void {
  helpers = ports.map((port, i) => ({ call: Comlink.wrap<Helper>(port), busy: () => Atomics.load(busy, i) > 0 }));
  replaced();
  others = new Promise((done) => (replaced = () => done(null)));
}

/** Rows from which it is worth sharing a blur. */
const ROWS_TO_SHARE = 128;

/** A helper may take so many times as long as this worker takes for its own rows, and this long at the least, ms. */
const PATIENCE = 6;
const LEAST_PATIENCE_MS = 1200;

const after = (milliseconds: number): Promise<null> => new Promise((done) => setTimeout(() => done(null), milliseconds));

/** There may be more workers than processors: more bands at once would only wait for each other. */
const mostHelpers = Math.max(1, (globalThis.navigator?.hardwareConcurrency ?? 2) - 1);

/** Spreads a blur over this worker and the idle helpers. */
const spreadOver =
  (id: number, newest: Newest): EffectInput<unknown>['spreadBlur'] =>
  async (picture, shape, out) => {
    const free = picture.height < ROWS_TO_SHARE ? [] : helpers.filter((h) => !h.busy()).slice(0, mostHelpers);
    const parts = free.length + 1;
    const row = (k: number): number => (k === parts ? picture.height : Math.floor((picture.height * k) / parts / 2) * 2);
    const going = () => newest.is(id);
    const lost = others;
    const bands = free.map((h, k) => h.call.band(picture, shape, row(k + 1), row(k + 2), out, id, newest.words));
    const started = performance.now();
    const own = blurRows(picture, shape, 0, row(1), out, going);
    const late = after(Math.max(LEAST_PATIENCE_MS, PATIENCE * (performance.now() - started)));
    const all = await Promise.all(bands.map((band) => Promise.race([band, lost, late])));
    // what was given to a helper that is lost, or still begins, is done here; where it answers after all it wrote the same
    return own && all.every((done, k) => done ?? blurRows(picture, shape, row(k + 1), row(k + 2), out, going));
  };

interface How {
  /** where stages are kept; where not given, in what lasts */
  readonly cache?: ChainInputs['cache'];
  readonly quick: boolean;
  readonly alone: boolean;
  progress(share: number): boolean;
  readonly id: number;
  readonly newest: Newest;
}

/** A cache for one piece of work, in front of the one that lasts. */
export function cacheForOnce(): ChainInputs['cache'] {
  const own = new ByteCache<Picture | Plane>(EXPORT_BYTES);
  return { get: (key) => own.get(key) ?? cache.get(key), set: (key, value) => own.set(key, value) };
}

/** What the chain works with in this worker. */
export function inputsFor(request: ShotRequest, mapKeys: MapKeys, how: How): ChainInputs {
  return {
    plateRaster: (step) => {
      const raster = plateOf(request.plate.sha256);
      return how.quick ? thinRaster(raster, Math.floor(step / 2)) : raster;
    },
    layerMap: (layer: Layer) => {
      const key = mapKeys[layer.id];
      const plane = key === undefined ? undefined : held.map.get(key);
      return key !== undefined && plane ? { key, plane } : null;
    },
    rasterOf: (hash) => held.still.get(hash) ?? null,
    cache: how.cache ?? cache,
    shared: canShare,
    progress: (share) => how.progress(share),
    // helpers write into memory that this worker reads
    ...(how.alone || !canShare ? {} : { spreadBlur: spreadOver(how.id, how.newest) }),
  };
}
