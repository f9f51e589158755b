import { cleanups } from '../depth/cleanup/registry';
import { contentOf, type LayerDefinition, type LayerInput, type LayerResult } from '../depth/definition';
import { enlarges, type Fit } from '../depth/layers/mapLayer';
import { layerOf } from '../depth/layers/registry';
import { EMPTY_RAW, emptyStack, layOver } from '../depth/stack';
import { calibrationOf } from '../document/defaults';
import type { Layer } from '../document/schema';
import { newPicture, newPlane, type Picture, type Plane } from '../raster/picture';
import { valuesAt } from '../values/drive';
import { valuesSchema, type Params, type ValuesOf } from '../values/params';
import { contentKey } from './key';
import { affineOf, framedPlate, plateKey, remember, Stopped, type ChainInputs, type ShotRequest, type Stage, type StageCache } from './stage';

type Values = ValuesOf<Params>;

interface PlacedLayer {
  readonly layer: Layer;
  readonly definition: LayerDefinition;
  readonly input: LayerInput<Values>;
  /** address of what the layer gives */
  readonly key: string;
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
  const seen = r.settings.layers.filter((l) => l.visible);
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
  let under = 'nothing';
  return seen.map((layer) => {
    const { definition, params, content } = values.get(layer.id)!;
    const map = inputs.layerMap(layer);
    const mends = mending && map && enlarges(map.plane, { ...r.size, framing, plateSize: r.plate }, params as { fit?: Fit });
    const context = [
      plate.key,
      r.frame,
      layer.kind,
      definition.readsBelow ? under : null,
      definition.readsCalibration ? calibration : null,
      definition.readsCalibration ? anchors : null,
      inputs.rastersKey ?? null,
      mends ? mending.key : null,
    ];
    const base = contentKey('part', context);
    const key = contentKey('layer', context, params, content ?? null, map?.key ?? null);
    under = contentKey('under', under, key, layer.opacity, layer.blend);
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
      frame: r.frame,
      remember: (made, make) => remember(inputs.cache, contentKey(base, made), make).value,
      rememberAlone: (made, make) => remember(inputs.cache, contentKey('alone', plate.key, r.frame, layer.kind, made), make).value,
      ...(mends ? { mend: mending.mend } : {}),
      rasterOf: (sha256) => inputs.rasterOf?.(sha256) ?? null,
    };
    return { layer, definition, input, key };
  });
}

/** The depth stack as it is laid, before clean-up: raw map 0..1 in the framed output, NaN where nothing is known. */
export function stackMap(r: ShotRequest, inputs: ChainInputs, mending = mendingOf(r)): Stage<Plane> {
  const plate = framedPlate(r, inputs);
  const below = emptyStack(r.size.width, r.size.height, !r.settings.layers.some((l) => l.visible), inputs.shared);
  const placed = placeLayers(r, inputs, plate, below, mending);
  const key = contentKey(
    'stack',
    r.size,
    placed.map(({ key: k, layer }) => [k, layer.opacity, layer.blend]),
  );
  return remember(inputs.cache, key, () => {
    let lowest = true;
    for (const { layer, definition, input, key: layerKey } of placed) {
      const result = layerResult(inputs.cache, layerKey, () => definition.build(input));
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
    key: plateKey(r),
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
  for (const { definition, input, key } of placed) {
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

/** One clean-up step as it ran: what went in, what came out. */
export interface CleanedStep {
  readonly kind: string;
  readonly before: Plane;
  readonly after: Plane;
}

/** The steps of clean-up that are on, in their order, over the stack. */
export function cleanSteps(r: ShotRequest, inputs: ChainInputs): Stage<{ steps: readonly CleanedStep[]; map: Plane }> {
  const plate = framedPlate(r, inputs);
  let current = stackMap(r, inputs);
  // the stack without what was mended before enlarging: what the steps up to the one that mends are compared with
  let unmended = mendingOf(r) ? stackMap(r, inputs, null) : current;
  const enlarged = unmended.key !== current.key;
  const steps: CleanedStep[] = [];
  for (const definition of cleanups) {
    const item = r.settings.cleanup.find((c) => c.kind === definition.kind && c.on);
    if (!item) continue;
    const params = valuesSchema(definition.params).parse(valuesAt(item.values, item.drives, r.frame));
    const pxScale = r.size.width / r.settings.framing.width;
    const run = (from: Stage<Plane>): Stage<Plane> =>
      remember(inputs.cache, contentKey('clean', from.key, plate.key, item.kind, params, pxScale, enlarged), () => {
        const after = definition.apply({ map: from.value, picture: plate.value, params, pxScale, enlarged });
        return inputs.shared && !isShared(after) ? copyShared(after) : after;
      });
    const before = unmended.value;
    const same = unmended.key === current.key;
    current = run(current);
    unmended = same || definition.mend ? current : run(unmended);
    if (inputs.progress?.(0) === false) throw new Stopped();
    steps.push({ kind: item.kind, before, after: current.value });
  }
  return { key: current.key, value: { steps, map: current.value } };
}

const isShared = (plane: Plane): boolean => typeof SharedArrayBuffer !== 'undefined' && plane.data.buffer instanceof SharedArrayBuffer;

function copyShared(plane: Plane): Plane {
  const out = newPlane(plane.width, plane.height, true);
  out.data.set(plane.data);
  return out;
}

/** The map that calibration reads: the cleaned stack, 0..1; what is still unknown lies at the far end. */
export function rawMap(r: ShotRequest, inputs: ChainInputs): Stage<Plane> {
  const { key, value } = cleanSteps(r, inputs);
  return remember(inputs.cache, contentKey('raw', key), () => {
    if (!value.map.data.some((v) => v !== v)) return value.map;
    const out = newPlane(r.size.width, r.size.height, inputs.shared);
    for (let i = 0; i < out.data.length; i++) out.data[i] = value.map.data[i] === value.map.data[i] ? value.map.data[i]! : 0;
    return out;
  });
}

/** The framed plate with what layers stage laid over it, hidden by what is nearer where their layer says so. */
export function composedPlate(r: ShotRequest, inputs: ChainInputs): Stage<Picture> {
  const plate = framedPlate(r, inputs);
  if (!r.settings.layers.some((l) => l.visible && layerOf(l.kind).paint)) return plate;
  const below = emptyStack(r.size.width, r.size.height, false);
  const placed = placeLayers(r, inputs, plate, below);
  const key = contentKey(
    'composed',
    plate.key,
    placed.map(({ key: k, layer }) => [k, layer.opacity, layer.blend]),
  );
  return remember(inputs.cache, key, () => {
    const out = newPicture(r.size.width, r.size.height, inputs.shared);
    out.data.set(plate.value.data);
    let lowest = true;
    for (const { layer, definition, input, key: layerKey } of placed) {
      const result = layerResult(inputs.cache, layerKey, () => definition.build(input));
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
