import { cleanups } from '../depth/cleanup/registry';
import { contentOf, type LayerDefinition, type LayerInput, type LayerResult } from '../depth/definition';
import { enlarges, type Fit } from '../depth/layers/mapLayer';
import { knowsLayer, layerOf } from '../depth/layers/registry';
import { EMPTY_RAW, emptyStack, layOver } from '../depth/stack';
import { calibrationOf } from '../document/defaults';
import type { Layer } from '../document/schema';
import { newPicture, newPlane, type Picture, type Plane } from '../raster/picture';
import { valuesAt } from '../values/drive';
import { valuesSchema, type Params, type ValuesOf } from '../values/params';
import { addressOf, contentKey, type Address } from './key';
import { affineOf, framedPlate, plateAddress, remember, Stopped, type ChainInputs, type ShotRequest, type Stage, type StageCache } from './stage';

type Values = ValuesOf<Params>;

interface PlacedLayer {
  readonly layer: Layer;
  readonly definition: LayerDefinition;
  readonly input: LayerInput<Values>;
  /** address of what the layer gives */
  readonly address: Address;
}

/** The step of clean-up that is on and mends maps before they are enlarged. */
function mendingOf(r: ShotRequest): { key: readonly unknown[]; mend: NonNullable<LayerInput<unknown>['mend']> } | null {
  for (const definition of cleanups) {
    const item = r.settings.cleanup.find((c) => c.kind === definition.kind && c.on);
    if (!item || !definition.mend) continue;
    const params = valuesSchema(definition.params).parse(valuesAt(item.values, item.drives, r.frame));
    return { key: [item.kind, params], mend: (map, nearness) => definition.mend!(map, params, nearness) };
  }
  return null;
}

/** The layers that are seen, bottom to top, each with what it works on. `below` is written as the stack is laid. */
function placeLayers(r: ShotRequest, inputs: ChainInputs, plate: Stage<Picture>, below: Plane, mending = mendingOf(r)): PlacedLayer[] {
  const calibration = calibrationOf(r.settings.calibration);
  const framing = affineOf(r);
  const seen = r.settings.layers.filter((l) => l.visible && knowsLayer(l.kind));
  const values = new Map(
    seen.map((l) => {
      const definition = layerOf(l.kind);
      return [
        l.id,
        {
          definition,
          params: valuesSchema(definition.params).parse(valuesAt(l.values, l.drives, r.frame)),
          content: contentOf(definition, l.content),
        },
      ];
    }),
  );
  const anchors: Record<string, number> = {};
  for (const [id, { definition, params, content }] of values) if (definition.anchor) anchors[id] = definition.anchor(params, content);
  let under: Address = addressOf(() => ['nothing']);
  return seen.map((layer) => {
    const { definition, params, content } = values.get(layer.id)!;
    const map = inputs.layerMap(layer);
    const mends = mending && map && enlarges(map.plane, { ...r.size, framing, plateSize: r.plate }, params as { fit?: Fit });
    const stills = definition.stills?.(content).map(({ sha256 }) => inputs.rasterOf?.(sha256) != null) ?? [];
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
    // a quick look that needs no mending shows the same thing, only smaller
    const mended = { look: mending && map ? mending.key : null, key: mends ? mending.key : null };
    const address = addressOf((of) => ['layer', context(of as (address: Address) => unknown), of(mended), params, content ?? null, map?.key ?? null]);
    under = addressOf((of) => ['under', of(lower), of(address), layer.opacity, layer.blend]);
    const input: LayerInput<Values> = {
      ...r.size,
      params,
      content,
      framing,
      plateSize: r.plate,
      map: map?.plane ?? null,
      get picture() {
        return plate.value;
      },
      below,
      calibration,
      anchors,
      remember: (made, make) => keep(inputs.cache, contentKey(base, made), make),
      rememberAlone: (made, make) => keep(inputs.cache, contentKey('alone', plate.key, layer.kind, made), make),
      ...(mends ? { mend: mending.mend } : {}),
      rasterOf: (sha256) => inputs.rasterOf?.(sha256) ?? null,
    };
    return { layer, definition, input, address };
  });
}

/** The depth stack as it is laid, before clean-up: raw map 0..1 in the framed output, NaN where nothing is known. */
export function stackMap(r: ShotRequest, inputs: ChainInputs, mending = mendingOf(r)): Stage<Plane> {
  const plate = framedPlate(r, inputs);
  const below = emptyStack(r.size.width, r.size.height, !r.settings.layers.some((l) => l.visible), inputs.shared);
  const placed = placeLayers(r, inputs, plate, below, mending);
  const address = addressOf((of) => [
    'stack',
    of({ look: null, key: r.size }),
    placed.map(({ address: a, layer }) => [of(a), layer.opacity, layer.blend]),
  ]);
  return remember(inputs.cache, address, () => {
    let lowest = true;
    for (const {
      layer,
      definition,
      input,
      address: { key },
    } of placed) {
      const result = layerResult(inputs.cache, key, () => definition.build(input));
      if (inputs.progress?.(0) === false) throw new Stopped();
      if (!result) continue;
      layOver(below, result, layer.blend, layer.opacity, lowest);
      lowest = false;
    }
    if (lowest) below.data.fill(EMPTY_RAW);
    return below;
  });
}

/**
 * Does, before the plate's pixels have arrived, what does not need them: shapes, head forms, where strokes lie. What is kept is found
 * when the stack is laid.
 */
export function prepareLayers(r: ShotRequest, inputs: ChainInputs): void {
  const plate: Stage<Picture> = {
    ...plateAddress(r),
    get value(): Picture {
      throw new NeedsPlate();
    },
  };
  // what is kept is asked for before each part of the work: there it stops for a newer request
  const cache: StageCache = {
    get: (k) => {
      if (inputs.progress?.(0) === false) throw new Stopped();
      return inputs.cache.get(k);
    },
    set: (k, v) => inputs.cache.set(k, v),
  };
  const placed = placeLayers(r, { ...inputs, cache }, plate, { width: 0, height: 0, data: new Float32Array(0) });
  for (const {
    definition,
    input,
    address: { key },
  } of placed) {
    try {
      if (definition.prepare) definition.prepare(input);
      else if (definition.source === 'none' && !definition.readsBelow) layerResult(cache, key, () => definition.build(input));
    } catch (error) {
      if (!(error instanceof NeedsPlate)) throw error;
    }
  }
}
class NeedsPlate extends Error {}

/** A layer's nearness and coverage are kept beside each other. */
function layerResult(cache: StageCache, key: string, make: () => LayerResult | null): LayerResult | null {
  const nearness = cache.get(key) as Plane | undefined;
  const coverage = cache.get(`${key}:cover`) as Plane | undefined;
  if (nearness && (coverage || cache.get(`${key}:whole`))) return { nearness, coverage: coverage ?? null };
  const made = make();
  if (!made) return null;
  cache.set(key, made.nearness);
  if (made.coverage) cache.set(`${key}:cover`, made.coverage);
  else cache.set(`${key}:whole`, WHOLE);
  return made;
}
const WHOLE: Plane = { width: 0, height: 0, data: new Float32Array(0) };

/** A part that no other step builds on: kept, and needs no look. */
function keep<T extends Picture | Plane>(cache: StageCache, key: string, make: () => T): T {
  const found = cache.get(key) as T | undefined;
  if (found) return found;
  const made = make();
  cache.set(key, made);
  return made;
}

/** One clean-up step as it ran: what went in, what came out. */
export interface CleanedStep {
  readonly kind: string;
  readonly before: Plane;
  readonly after: Plane;
}

/** The steps of clean-up that are on, in their order, over the stack. */
export function cleanSteps(r: ShotRequest, inputs: ChainInputs): Stage<{ steps: readonly CleanedStep[]; map: Plane; stack: Stage<Plane> }> {
  const plate = framedPlate(r, inputs);
  let current = stackMap(r, inputs);
  // the stack without what was mended before enlarging: what the steps up to the one that mends are compared with
  let unmended = mendingOf(r) ? stackMap(r, inputs, null) : current;
  const stack = unmended;
  const enlarged = unmended.key !== current.key;
  const steps: CleanedStep[] = [];
  for (const definition of cleanups) {
    const item = r.settings.cleanup.find((c) => c.kind === definition.kind && c.on);
    if (!item) continue;
    const params = valuesSchema(definition.params).parse(valuesAt(item.values, item.drives, r.frame));
    const pxScale = r.size.width / r.settings.framing.width;
    const run = (from: Stage<Plane>): Stage<Plane> => {
      const address = addressOf((of) => ['clean', of(from), of(plate), item.kind, params, of({ look: null, key: [pxScale, enlarged] })]);
      return remember(inputs.cache, address, () => {
        const after = definition.apply({ map: from.value, picture: plate.value, params, pxScale, enlarged });
        return inputs.shared && !isShared(after) ? copyShared(after) : after;
      });
    };
    const before = unmended.value;
    const same = unmended.key === current.key;
    current = run(current);
    unmended = same || definition.mend ? current : run(unmended);
    if (inputs.progress?.(0) === false) throw new Stopped();
    steps.push({ kind: item.kind, before, after: current.value });
  }
  return { look: current.look, key: current.key, value: { steps, map: current.value, stack } };
}

const isShared = (plane: Plane): boolean => typeof SharedArrayBuffer !== 'undefined' && plane.data.buffer instanceof SharedArrayBuffer;

function copyShared(plane: Plane): Plane {
  const out = newPlane(plane.width, plane.height, true);
  out.data.set(plane.data);
  return out;
}

/** The map that calibration reads: the cleaned stack, 0..1; what is still unknown lies at the far end. */
export function rawMap(r: ShotRequest, inputs: ChainInputs): Stage<Plane> {
  const cleaned = cleanSteps(r, inputs);
  const { value } = cleaned;
  return remember(
    inputs.cache,
    addressOf((of) => ['raw', of(cleaned)]),
    () => {
      if (!value.map.data.some((v) => v !== v)) return value.map;
      const out = newPlane(r.size.width, r.size.height, inputs.shared);
      for (let i = 0; i < out.data.length; i++) out.data[i] = value.map.data[i] === value.map.data[i] ? value.map.data[i]! : 0;
      return out;
    },
  );
}

/** The framed plate with what layers stage laid over it, hidden by what is nearer where their layer says so. */
export function composedPlate(r: ShotRequest, inputs: ChainInputs): Stage<Picture> {
  const plate = framedPlate(r, inputs);
  if (!r.settings.layers.some((l) => l.visible && layerOf(l.kind).paint)) return plate;
  const below = emptyStack(r.size.width, r.size.height, false);
  const placed = placeLayers(r, inputs, plate, below);
  const address = addressOf((of) => ['composed', of(plate), placed.map(({ address: a, layer }) => [of(a), layer.opacity, layer.blend])]);
  return remember(inputs.cache, address, () => {
    const out = newPicture(r.size.width, r.size.height, inputs.shared);
    out.data.set(plate.value.data);
    let lowest = true;
    for (const {
      layer,
      definition,
      input,
      address: { key },
    } of placed) {
      const result = layerResult(inputs.cache, key, () => definition.build(input));
      const picture = result && definition.paint?.(input);
      if (result && picture)
        for (let i = 0; i < below.data.length; i++) {
          const o = i * 4;
          const hidden = layer.blend === 'nearer' && result.nearness.data[i]! < below.data[i]!;
          if (hidden || picture.data[o + 3] === 0) continue;
          const rest = 1 - layer.opacity * picture.data[o + 3]!;
          for (let k = 0; k < 4; k++) out.data[o + k] = layer.opacity * picture.data[o + k]! + out.data[o + k]! * rest;
        }
      if (result) layOver(below, result, layer.blend, layer.opacity, lowest);
      lowest &&= !result;
    }
    return out;
  });
}
