import { cleanups } from '../depth/cleanup/registry';
import { contentOf, type LayerDefinition, type LayerInput, type LayerResult } from '../depth/definition';
import { enlarges } from '../depth/layers/mapLayer';
import { knowsLayer, layerOf } from '../depth/layers/registry';
import { emptyStack, layOver } from '../depth/stack';
import { calibrationOf } from '../document/calibrationOf';
import type { Layer } from '../document/schema';
import { needKey, stillNeed } from '../need/need';
import { constantPlane, type Picture, type Plane } from '../picture';
import { paramsAt } from '../values/moment';
import type { Params, ValuesOf } from '../values/params';
import { addressOf, contentKey, type Address } from '../key';
import { layerMapNeed, layerNeeds, seenLayers, thereAt } from './needs';
import { sized, stepOf } from './stepOf';
import { affineOf, lazily, plateAddress, remember, type ChainInputs, type Kept, type ShotRequest, type Stage, type StageCache } from './stage';

type Values = ValuesOf<Params>;

/** A layer of the stack with what it works on. */
export interface PlacedLayer {
  readonly layer: Layer;
  readonly definition: LayerDefinition;
  /** for its map: what it has not declared cannot be read */
  readonly input: LayerInput<Values>;
  /** for the picture that it puts over the plate, in whose address all layers stand: what lies below can be read */
  readonly over: LayerInput<Values>;
  /** address of what the layer gives */
  readonly address: Address;
}

/** What layers are named by in the address of what they make together. */
export const namesOf = (placed: readonly PlacedLayer[], of: (address: Address) => unknown): readonly unknown[] =>
  placed.map(({ address, layer }) => [of(address), layer.opacity, layer.blend]);

/** A step of clean-up that mends the maps of layers before they are enlarged. */
export interface Mending {
  readonly key: readonly unknown[];
  readonly mend: NonNullable<LayerInput<unknown>['mend']>;
}

/** The step of clean-up that is on and mends maps before they are enlarged. */
export function mendingOf({ settings, at }: ShotRequest): Mending | null {
  for (const definition of cleanups) {
    const item = settings.cleanup.find((c) => c.kind === definition.kind && c.on);
    if (!item || !definition.mend) continue;
    const params = paramsAt(definition, item, at);
    return { key: [item.kind, params], mend: (map, nearness) => definition.mend!(map, params, nearness) };
  }
  return null;
}

/** A stack that is laid: it is made when something is laid on it, or read. */
export type Below = { readonly value: Plane };

/** The layers of which something is seen, bottom to top, each with what it works on. `below` is written as the stack is laid. */
export function placeLayers(
  request: ShotRequest,
  inputs: ChainInputs,
  plate: Stage<Picture>,
  below: Below,
  mending = mendingOf(request),
): PlacedLayer[] {
  const { settings, size, at } = request;
  const calibration = calibrationOf(settings.calibration);
  const framing = affineOf(request);
  const read = (layer: Layer) => {
    const definition = layerOf(layer.kind);
    return { layer, definition, params: paramsAt(definition, layer, at), content: contentOf(definition, layer.content) };
  };
  const anchors: Record<string, number> = {};
  for (const one of settings.layers) {
    if (!one.visible || !knowsLayer(one.kind) || !layerOf(one.kind).anchor) continue;
    const { definition, params, content } = read(one);
    anchors[one.id] = definition.anchor!(params, content);
  }
  const seen = seenLayers(settings.layers, thereAt(request.plate, at, inputs.held))
    .filter((l) => knowsLayer(l.kind))
    .map(read);
  let under: Address = addressOf(() => ['nothing']);
  return seen.map(({ layer, definition, params, content }) => {
    const mapNeed = layerMapNeed(layer, request.plate, at);
    const map = mapNeed && inputs.held.plane(mapNeed);
    const mends = mending && map && enlarges(map.plane, { ...size, framing, plateSize: request.plate }, params);
    const stills = layerNeeds(layer, request.plate, at).flatMap((n) => (n.is === 'raster' && inputs.held.raster(n) ? [needKey(n)] : []));
    const lower = under;
    const context = (of: (address: Address) => unknown): readonly unknown[] => [
      of(plate),
      layer.kind,
      definition.readsBelow ? of(lower) : null,
      definition.readsCalibration ? calibration : null,
      definition.readsCalibration ? anchors : null,
      stills,
    ];
    const base = contentKey(
      'part',
      context((a) => a.key),
      mends ? mending.key : null,
    );
    // a quick view that needs no mending shows the same thing, only smaller
    const mended = { fingerprint: mending && map ? mending.key : null, key: mends ? mending.key : null };
    const address = addressOf((of) => ['layer', context(of), of(mended), params, content ?? null, map?.key ?? null]);
    under = addressOf((of) => ['under', of(lower), of(address), layer.opacity, layer.blend]);
    // what the address of the layer does not know cannot be read
    const declared = <T>(as: 'readsBelow' | 'readsCalibration', value: () => T): T => {
      if (!definition[as]) throw new Error(`${layer.kind} reads what only ${as} lets it read`);
      return value();
    };
    const input: LayerInput<Values> = {
      ...size,
      params,
      content,
      framing,
      plateSize: request.plate,
      map: map?.plane ?? null,
      get picture() {
        return plate.value;
      },
      get below() {
        return declared('readsBelow', () => below.value);
      },
      get calibration() {
        return declared('readsCalibration', () => calibration);
      },
      get anchors() {
        return declared('readsCalibration', () => anchors);
      },
      remember: (made, make) => keep(inputs.cache, contentKey(base, made), make),
      rememberAlone: (made, make) => keep(inputs.cache, contentKey('alone', plate.key, layer.kind, made), make),
      ...(mends ? { mend: mending.mend } : {}),
      rasterOf: (still) => inputs.held.raster(stillNeed(still)),
    };
    const over = Object.defineProperty(Object.create(input) as LayerInput<Values>, 'below', { get: () => below.value });
    return { layer, definition, input, over, address };
  });
}

/**
 * What a layer covers of the framed output, 0..1, whether it is seen or not: the part of the picture that it marks. All of it where there is no such
 * layer, or it covers all.
 */
export function layerRegion(request: ShotRequest, inputs: ChainInputs, plate: Stage<Picture>, id: string): Stage<Plane> {
  const { settings, size } = request;
  const whole = (): Plane => constantPlane(size.width, size.height, 1);
  const everywhere = (): Stage<Plane> =>
    stepOf(inputs.cache, 'no region', { size: sized(size) }, (read) => constantPlane(read.size.width, read.size.height, 1));
  const index = settings.layers.findIndex((l) => l.id === id);
  if (index < 0) return everywhere();
  const layers = settings.layers.slice(0, index + 1).map((l, i) => (i === index ? { ...l, visible: true } : l));
  const below = lazily(() => emptyStack(size.width, size.height, false));
  const placed = placeLayers({ ...request, settings: { ...settings, layers } }, inputs, plate, below);
  const own = placed[placed.length - 1];
  if (!own || own.layer.id !== id) return everywhere();
  return remember(
    inputs.cache,
    addressOf((of) => ['region', of(own.address)]),
    () => {
      if (own.definition.readsBelow) layAll(placed.slice(0, -1), below, inputs);
      return layerResult(inputs.cache, own)?.coverage ?? whole();
    },
  );
}

/** Lays what each layer gives over `below`, from the bottom. `each` sees a layer's part before it is laid. Whether any layer gave something. */
export function layAll(
  placed: readonly PlacedLayer[],
  below: Below,
  { cache, run }: ChainInputs,
  each?: (layer: PlacedLayer, result: LayerResult) => void,
): boolean {
  let lowest = true;
  for (const one of placed) {
    const result = layerResult(cache, one);
    run.checkpoint(0);
    if (!result) continue;
    each?.(one, result);
    layOver(below.value, result, one.layer.blend, one.layer.opacity, lowest);
    lowest = false;
  }
  return !lowest;
}

/**
 * Does, before the plate's pixels have arrived, what does not need them: shapes, head forms, where strokes lie. What is kept is found
 * when the stack is laid.
 */
export function prepareLayers(request: ShotRequest, inputs: ChainInputs): void {
  const plate: Stage<Picture> = {
    ...plateAddress(request, inputs.quick),
    get value(): Picture {
      throw new NeedsPlate();
    },
  };
  // what is kept is asked for before each part of the work: there it stops for a newer request
  const cache: StageCache = {
    get: (k) => {
      inputs.run.checkpoint(0);
      return inputs.cache.get(k);
    },
    set: (k, v) => inputs.cache.set(k, v),
  };
  const placed = placeLayers(request, { ...inputs, cache }, plate, { value: { width: 0, height: 0, data: new Float32Array(0) } });
  for (const one of placed) {
    const { definition, input } = one;
    try {
      if (definition.prepare) definition.prepare(input);
      else if (!layerMapNeed(one.layer, request.plate, request.at) && !definition.readsBelow) layerResult(cache, one);
    } catch (error) {
      if (!(error instanceof NeedsPlate)) throw error;
    }
  }
}

class NeedsPlate extends Error {}

const WHOLE: Plane = { width: 0, height: 0, data: new Float32Array(0) };

/** A layer's nearness and coverage are kept beside each other. */
function layerResult(cache: StageCache, { definition, input, address: { key } }: PlacedLayer): LayerResult | null {
  const nearness = cache.get<Plane>(key);
  const coverage = cache.get<Plane>(`${key}:cover`);
  if (nearness && (coverage || cache.get(`${key}:whole`))) return { nearness, coverage: coverage ?? null };
  const made = definition.build(input);
  if (!made) return null;
  cache.set(key, made.nearness);
  if (made.coverage) cache.set(`${key}:cover`, made.coverage);
  else cache.set(`${key}:whole`, WHOLE);
  return made;
}

/** A part that no other step builds on: kept, and needs no fingerprint. */
function keep<T extends Kept>(cache: StageCache, key: string, make: () => T): T {
  const found = cache.get<T>(key);
  if (found) return found;
  const made = make();
  cache.set(key, made);
  return made;
}
