import { calibrateMap, type Calibration } from '../depth/calibrate';
import { layerOf } from '../depth/layers/registry';
import { composeStack, type StackedLayer } from '../depth/stack';
import { calibrationOf } from '../document/defaults';
import type { Layer, Settings } from '../document/schema';
import { effectGroups, type EffectInput, type RenderLens } from '../effects/definition';
import { effectOf } from '../effects/registry';
import { OmbrageError } from '../error';
import { focalLengthOfHfov } from '../optics';
import type { Picture, Plane, Raster, Size } from '../raster/picture';
import { sampleRaster } from '../raster/resample';
import { valuesAt } from '../values/drive';
import { valuesSchema } from '../values/params';
import { framingAffine, outputFocalPx } from './framing';
import { contentKey } from './key';

/** Where finished stages are kept. The key is the address. */
export interface StageCache {
  get(key: string): Picture | Plane | undefined;
  set(key: string, value: Picture | Plane): void;
}

/** The part of a shot that decides what it looks like. */
export interface ShotRequest {
  readonly plate: { readonly sha256: string; readonly width: number; readonly height: number };
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
  readonly cache: StageCache;
  /** buffers that workers can share */
  readonly shared: boolean;
  /** share of the effects done; false stops the work */
  progress?(share: number): boolean;
  readonly spreadBlur?: EffectInput<unknown>['spreadBlur'];
}

/** Thrown when a newer request has made this one needless. */
export class Stopped extends Error {}

export interface Stage<T> {
  readonly key: string;
  readonly value: T;
}

const remember = <T extends Picture | Plane>(cache: StageCache, key: string, make: () => T): Stage<T> => {
  const found = cache.get(key);
  if (found) return { key, value: found as T };
  const value = make();
  cache.set(key, value);
  return { key, value };
};

const affineOf = (r: ShotRequest): ReturnType<typeof framingAffine> => framingAffine(r.plate, r.settings.framing, r.size);

/** The framed plate, linear light. */
export function framedPlate(r: ShotRequest, inputs: ChainInputs): Stage<Picture> {
  const key = contentKey('plate', r.plate.sha256, r.settings.framing, r.size);
  return remember(inputs.cache, key, () => {
    const map = affineOf(r);
    const step = Math.max(Math.hypot(map.a, map.d), Math.hypot(map.b, map.e));
    const raster = inputs.plateRaster(step);
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

/** The depth stack: raw map 0..1 in the framed output. */
export function rawMap(r: ShotRequest, inputs: ChainInputs): Stage<Plane> {
  const plate = framedPlate(r, inputs);
  const visible = r.settings.layers.filter((l) => l.visible);
  const parts = visible.map((layer) => ({ layer, map: inputs.layerMap(layer) }));
  const key = contentKey(
    'raw',
    plate.key,
    r.frame,
    parts.map(({ layer: l, map }) => [l.kind, l.values, l.drives, l.opacity, map?.key ?? null]),
  );
  return remember(inputs.cache, key, () => {
    const stacked: StackedLayer[] = [];
    for (const { layer, map } of parts) {
      const definition = layerOf(layer.kind);
      const params = valuesSchema(definition.params).parse(valuesAt(layer.values, layer.drives, r.frame));
      const layerKey = contentKey('layer', plate.key, r.frame, layer.kind, params, map?.key ?? null);
      const input = { ...r.size, params, framing: affineOf(r), plateSize: r.plate, map: map?.plane ?? null, picture: plate.value, frame: r.frame };
      const found = inputs.cache.get(layerKey) as Plane | undefined;
      const plane = found ?? definition.build(input);
      if (inputs.progress?.(0) === false) throw new Stopped();
      if (!plane) continue;
      if (!found) inputs.cache.set(layerKey, plane);
      stacked.push({ plane, opacity: layer.opacity });
    }
    return composeStack(stacked, r.size.width, r.size.height, inputs.shared);
  });
}

/** Distances in metres in the framed output. */
export function distanceMap(r: ShotRequest, inputs: ChainInputs): Stage<Plane> {
  const raw = rawMap(r, inputs);
  const { low, high, turnOver, bend, near, far, spacing }: Calibration = calibrationOf(r.settings.calibration);
  const c = { low, high, turnOver, bend, near, far, spacing };
  return remember(inputs.cache, contentKey('distance', raw.key, c), () => calibrateMap(raw.value, c, inputs.shared));
}

/** The lens of the plate at the size rendered. */
export function renderLens(r: Pick<ShotRequest, 'plate' | 'settings' | 'size'>): RenderLens {
  const { framing, hfovDegrees } = r.settings;
  return {
    focalPx: (outputFocalPx(r.plate, framing, hfovDegrees) * r.size.width) / framing.width,
    focalLength: focalLengthOfHfov(hfovDegrees),
  };
}

/** The finished picture: plate, then every effect that is on, in the order in which light meets them. */
export async function finishedPicture(r: ShotRequest, inputs: ChainInputs): Promise<Stage<Picture>> {
  let current = framedPlate(r, inputs);
  const list = effectGroups.flatMap((group) => r.settings.effects.filter((e) => e.on && effectOf(e.kind).group === group));
  if (list.length === 0) return current;
  const distance = distanceMap(r, inputs);
  const lens = renderLens(r);
  for (const [index, item] of list.entries()) {
    const definition = effectOf(item.kind);
    const params = valuesSchema(definition.params).parse(valuesAt(item.values, item.drives, r.frame));
    const key = contentKey('effect', current.key, distance.key, item.kind, params, lens, r.frame);
    const found = inputs.cache.get(key) as Picture | undefined;
    if (found) {
      current = { key, value: found };
      continue;
    }
    let stopped = false;
    const progress = (share: number): boolean => {
      stopped ||= inputs.progress?.((index + share) / list.length) === false;
      return !stopped;
    };
    const value = await definition.apply({
      picture: current.value,
      distance: distance.value,
      params,
      lens,
      pxScale: r.size.width / r.settings.framing.width,
      frame: r.frame,
      progress,
      spreadBlur: inputs.spreadBlur,
    });
    if (stopped) throw new Stopped();
    inputs.cache.set(key, value);
    current = { key, value };
  }
  return current;
}

/** Size of a copy of the output that fits a box, never larger than the output. */
export function renderSize(framing: Size, box: Size): Size {
  const scale = Math.min(1, box.width / framing.width, box.height / framing.height);
  return { width: Math.max(1, Math.round(framing.width * scale)), height: Math.max(1, Math.round(framing.height * scale)) };
}

/** Refuses a rendering too large to hold in memory. */
export function checkRenderable(size: Size): void {
  if (size.width * size.height > 80e6)
    throw new OmbrageError(
      'output-too-large',
      `An output of ${size.width}x${size.height} px is too large to render.`,
      'Choose an output of at most 80 megapixels.',
    );
}
