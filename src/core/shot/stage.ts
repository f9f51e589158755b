import type { FileRef } from '../need/fileRef';
import type { Eye } from '../path/path';
import type { Settings } from '../document/schema';
import { OmbrageError } from '../error';
import { needKey, pictureNeed, type PlaneNeed, type RasterNeed } from '../need/need';
import type { Picture, Plane, Raster, Size } from '../picture';
import { sampleRaster, type Affine } from '../raster/resample';
import type { Run } from '../run';
import type { Moment } from '../values/moment';
import { framingAffine } from '../document/framing';
import { addressOf, type Address } from '../key';

/** Something made of one buffer of samples: what can be kept, and counted in bytes. */
export interface Kept {
  readonly data: { readonly byteLength: number };
}

/** Where finished stages are kept. The key is the address; under one key lies one sort of thing. */
export interface StageCache {
  get<T extends Kept>(key: string): T | undefined;
  set(key: string, value: Kept): void;
}

/** A cache without bounds, for one piece of work. */
export function plainCache(): StageCache {
  const kept = new Map<string, Kept>();
  return { get: <T extends Kept>(key: string) => kept.get(key) as T | undefined, set: (key, value) => void kept.set(key, value) };
}

/** The plate as a shot refers to it. */
export interface PlateFile extends FileRef {
  /** its alpha channel holds something else than transparency */
  readonly opaque?: boolean | undefined;
}

/** The part of a shot that decides what it looks like. */
export interface ShotRequest {
  readonly plate: PlateFile;
  readonly settings: Settings;
  /** the settings before their drives were read; `settings` where not given */
  readonly set?: Settings;
  readonly at: Moment;
  /** which of two eyes sees; where not given, both are shown as the settings say */
  readonly eye?: Eye;
  /** size rendered: the output's or a smaller copy of it */
  readonly size: Size;
}

/** What has been loaded of what a shot needs. */
export interface Held {
  /** a decoded picture, or a copy of it thinned by up to `step`; null while it has not arrived */
  raster(need: RasterNeed, step?: number): Raster | null;
  /** a map in plate framing, with the key of what is in it; null while there is none. An estimate that is being refined answers its draft. */
  plane(need: PlaneNeed): { readonly key: string; readonly plane: Plane } | null;
}

/** What the chain works with. */
export interface ChainInputs {
  readonly held: Held;
  readonly cache: StageCache;
  readonly run: Run;
  /** a quick view, soon followed by the careful one */
  readonly quick?: boolean;
}

/** A step of the chain: what it shows, at which size, and its pixels, which are made, or found where they are kept, when they are first read. */
export interface Stage<T> extends Address {
  readonly value: T;
}

/** A value that is made when it is first read. */
export function lazily<T>(make: () => T): { readonly value: T } {
  let rest: (() => T) | null = make;
  let made: T;
  return {
    get value() {
      if (rest) {
        made = rest();
        // what it was made of is let go
        rest = null;
      }
      return made;
    },
  };
}

/** A stage that is made when it is first read. */
export const stageOf = <T>({ fingerprint, key }: Address, make: () => T): Stage<T> => Object.assign(lazily(make), { fingerprint, key });

/** A stage whose value is there: what it needs is read now, not later. */
export function made<T>(stage: Stage<T>): Stage<T> {
  void stage.value;
  return stage;
}

/** What is kept under an address, or made and kept: when it is first read. */
export const remember = <T extends Kept>(cache: StageCache, address: Address, make: () => T): Stage<T> =>
  stageOf(address, () => {
    const found = cache.get<T>(address.key);
    if (found) return found;
    const value = make();
    cache.set(address.key, value);
    return value;
  });

/** From pixels of the rendering to plate pixels. */
export const affineOf = ({ plate, settings, size }: Pick<ShotRequest, 'plate' | 'settings' | 'size'>): Affine =>
  framingAffine(plate, settings.framing, size);

/** From pixels of the rendering to those of a picture that fills the plate's place: its copy, or another one of its framing. */
export function rasterAffine(request: Pick<ShotRequest, 'plate' | 'settings' | 'size'>, raster: Size): Affine {
  const m = affineOf(request);
  const kx = raster.width / request.plate.width;
  const ky = raster.height / request.plate.height;
  return { a: m.a * kx, b: m.b * kx, c: m.c * kx, d: m.d * ky, e: m.e * ky, f: m.f * ky };
}

/** How many px of the plate there are to one of the rendering. */
export function plateStep(request: Pick<ShotRequest, 'plate' | 'settings' | 'size'>): number {
  const map = affineOf(request);
  return Math.max(Math.hypot(map.a, map.d), Math.hypot(map.b, map.e));
}

/** From so many px of the plate to one of the rendering in a quick view takes some of them. */
const THIN_FROM = 4;

/** Address of the framed plate; a quick view of it may be made of some of its pixels. */
export const plateAddress = (request: ShotRequest, quick = false): Address => {
  const { plate, settings, size, at } = request;
  const thin = quick && plateStep(request) >= THIN_FROM;
  return addressOf((of) => [
    'plate',
    needKey(pictureNeed(plate, at)),
    plate.opaque === true,
    settings.framing,
    of({ fingerprint: null, key: [size, thin] }),
  ]);
};

/** The framed plate, linear light. Throws `plate-missing` while it has not arrived. */
export function framedPlate(request: ShotRequest, { held, cache, run, quick }: ChainInputs): Stage<Picture> {
  return remember(cache, plateAddress(request, quick), () => {
    const { plate, size } = request;
    const found = held.raster(pictureNeed(plate, request.at, plate.opaque), plateStep(request));
    if (!found) throw new OmbrageError('plate-missing', 'The plate of this shot is not loaded.', 'Reload the page.');
    const raster = { ...found, opaque: plate.opaque === true };
    return sampleRaster(raster, rasterAffine(request, raster), size.width, size.height, run.shared, () => run.checkpoint(0));
  });
}
