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
import type { Newest } from './newest';
import type { MapKeys } from './protocol';

/** What a worker holds between calls: pixels it was given, and finished stages. */
const CACHE_BYTES = 384e6;
const PLATES_HELD = 3;
const STILLS_BYTES = 400e6;

/** Pages without TLS get no memory that workers share. */
const canShare = typeof SharedArrayBuffer !== 'undefined';

const plates = new Map<string, Raster>();
const stills = new ByteCache<Raster>(STILLS_BYTES);
export const maps = new Map<string, Plane>();
const cache = new ByteCache<Picture | Plane>(CACHE_BYTES);

export function holdPlate(hash: string, raster: Raster): void {
  plates.delete(hash);
  plates.set(hash, raster);
  for (const oldest of plates.keys()) if (plates.size > PLATES_HELD) plates.delete(oldest);
}

export const holdStill = (hash: string, raster: Raster): void => stills.set(hash, raster);

export const plateOf = (hash: string): Raster => {
  const raster = plates.get(hash);
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

export function meetHelpers(ports: MessagePort[], busy: Int32Array): void {
  helpers = ports.map((port, i) => ({ call: Comlink.wrap<Helper>(port), busy: () => Atomics.load(busy, i) > 0 }));
}

/** Rows from which it is worth sharing a blur. */
const ROWS_TO_SHARE = 128;

/** There may be more workers than processors: more bands at once would only wait for each other. */
const mostHelpers = Math.max(1, (globalThis.navigator?.hardwareConcurrency ?? 2) - 1);

/** Spreads a blur over this worker and the idle helpers. */
const spreadOver =
  (id: number, newest: Newest): EffectInput<unknown>['spreadBlur'] =>
  async (picture, shape, out) => {
    const free = picture.height < ROWS_TO_SHARE ? [] : helpers.filter((h) => !h.busy()).slice(0, mostHelpers);
    const parts = free.length + 1;
    const row = (k: number): number => (k === parts ? picture.height : Math.floor((picture.height * k) / parts / 2) * 2);
    const others = free.map((h, k) => h.call.band(picture, shape, row(k + 1), row(k + 2), out, id, newest.words));
    const own = blurRows(picture, shape, 0, row(1), out, () => newest.is(id));
    const all = await Promise.all(others);
    return own && all.every(Boolean);
  };

interface How {
  readonly quick: boolean;
  readonly alone: boolean;
  progress(share: number): boolean;
  readonly id: number;
  readonly newest: Newest;
  /** the stills that are held, told as one key */
  readonly stills: string;
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
      const plane = key === undefined ? undefined : maps.get(key);
      return key !== undefined && plane ? { key, plane } : null;
    },
    rasterOf: (hash) => stills.get(hash) ?? null,
    rastersKey: how.stills,
    cache,
    shared: canShare,
    progress: (share) => how.progress(share),
    // helpers write into memory that this worker reads
    ...(how.alone || !canShare ? {} : { spreadBlur: spreadOver(how.id, how.newest) }),
  };
}
