import type { Layer, Settings } from '../document/schema';
import type { EffectInput } from '../effects/definition';
import type { Picture, Plane, Raster, Size } from '../raster/picture';
import { sampleRaster } from '../raster/resample';
import { framingAffine } from './framing';
import { addressOf, type Address } from './key';

/** Where finished stages are kept. The key is the address. */
export interface StageCache {
  get(key: string): Picture | Plane | undefined;
  set(key: string, value: Picture | Plane): void;
}

/** The part of a shot that decides what it looks like. */
export interface ShotRequest {
  readonly plate: { readonly sha256: string; readonly width: number; readonly height: number; readonly opaque?: boolean | undefined };
  readonly settings: Settings;
  readonly frame: number;
  /** size rendered: the output's or a smaller copy of it */
  readonly size: Size;
}

export interface ChainInputs {
  /** the decoded plate, or a smaller copy of it where the rendering is smaller still */
  plateRaster(step: number): Raster;
  /** a layer's own map in plate framing, with the key of what is in it; null while there is none */
  layerMap(layer: Layer): { key: string; plane: Plane } | null;
  /** a still that a layer places, by what is in it; null while it has not arrived: layers that lack one are made anew when it has */
  rasterOf?(sha256: string): Raster | null;
  readonly cache: StageCache;
  /** buffers that workers can share */
  readonly shared: boolean;
  /** share of the effects done; false stops the work */
  progress?(share: number): boolean;
  readonly spreadBlur?: EffectInput<unknown>['spreadBlur'];
}

/** Thrown when a newer request has made this one needless. */
export class Stopped extends Error {}

/** A finished step of the chain: what it shows, at which size, and its pixels. */
export interface Stage<T> extends Address {
  readonly value: T;
}

/** What is kept under an address, or made and kept. */
export const remember = <T extends Picture | Plane>(cache: StageCache, { look, key }: Address, make: () => T): Stage<T> => {
  const found = cache.get(key);
  if (found) return { look, key, value: found as T };
  const value = make();
  cache.set(key, value);
  return { look, key, value };
};

/** From pixels of the rendering to plate pixels. */
export const affineOf = (r: ShotRequest): ReturnType<typeof framingAffine> => framingAffine(r.plate, r.settings.framing, r.size);

/** Address of the framed plate. */
export const plateAddress = (r: ShotRequest): Address =>
  addressOf((of) => ['plate', r.plate.sha256, r.plate.opaque === true, r.settings.framing, of({ look: null, key: r.size })]);

/** The framed plate, linear light. */
export function framedPlate(r: ShotRequest, inputs: ChainInputs): Stage<Picture> {
  return remember(inputs.cache, plateAddress(r), () => {
    const map = affineOf(r);
    const step = Math.max(Math.hypot(map.a, map.d), Math.hypot(map.b, map.e));
    const raster = { ...inputs.plateRaster(step), opaque: r.plate.opaque === true };
    const kx = raster.width / r.plate.width;
    const ky = raster.height / r.plate.height;
    const toRaster = { a: map.a * kx, b: map.b * kx, c: map.c * kx, d: map.d * ky, e: map.e * ky, f: map.f * ky };
    let stopped = false;
    const picture = sampleRaster(raster, toRaster, r.size.width, r.size.height, inputs.shared, () => {
      stopped = inputs.progress?.(0) === false;
      return !stopped;
    });
    if (stopped) throw new Stopped();
    return picture;
  });
}
