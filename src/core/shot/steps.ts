import {
  effectGroups,
  limitable,
  reachOf,
  type EffectDefinition,
  type EffectGroup,
  type Cut,
  type EffectInput,
  type EffectNeed,
  type EffectResult,
  type Places,
} from '../effects/definition';
import { fetched, fetchedPlane } from '../effects/pixels';
import { rangeOf, reachWeights, type ReachRange, type ReachValues } from '../matte/reach';
import { knownEffects, type EffectRegistry } from '../effects/registry';
import { matteColours, quickMatte, refinedMatte } from '../matte/matte';
import { givesPlane, needKey, pictureNeed } from '../need/need';
import { contentOf } from '../values/content';
import type { EffectItem } from '../document/schema';
import { constantPlane, type Picture, type Plane } from '../picture';
import { partOf } from '../run';
import { paramsAt } from '../values/moment';
import { addressOf, type Address } from '../key';
import { cameraStep } from './cameraStep';
import { composedFrame, withParts, type Frame, type Step } from './frame';
import { momentsOf, needsOf, thereAt, usedLayers } from './needs';
import { settingsAt } from './settingsAt';
import { actsOn, bothOf, mixed, mixedDistance, parted, rejoined } from './within';
import { sized, stepOf } from './stepOf';
import { type ChainInputs, type ShotRequest, type Stage } from './stage';

/** The effects of one group that are on, in their order. */
export const effectsOf =
  (group: EffectGroup, registry: EffectRegistry = knownEffects): Step =>
  async (from, request, inputs) => {
    const list = request.settings.effects.filter((e) => e.on && registry.knows(e.kind) && registry.of(e.kind).group === group);
    let frame = from;
    for (const [index, item] of list.entries())
      frame = await applyEffect(
        registry.of(item.kind),
        item,
        frame,
        request,
        { ...inputs, run: partOf(inputs.run, index / list.length, (index + 1) / list.length) },
        (frames) => pictureBefore(item, frames, registry, request, inputs),
      );
    return frame;
  };

/** The picture that an effect was given some frames ago: the chain up to it, at that moment. */
async function pictureBefore(
  item: EffectItem,
  frames: number,
  registry: EffectRegistry,
  request: ShotRequest,
  inputs: ChainInputs,
): Promise<Picture> {
  const at = { ...request.at, frame: Math.max(0, request.at.frame - frames) };
  const set = request.set ?? request.settings;
  const place = effectGroups.indexOf(registry.of(item.kind).group);
  const own = set.effects.findIndex((e) => e.id === item.id);
  const effects = set.effects.filter((e, i) => {
    const group = effectGroups.indexOf(registry.of(e.kind).group);
    return group < place || (group === place && i < own);
  });
  const settings = settingsAt({ ...set, effects }, at);
  const earlier: ShotRequest = { ...request, settings, set: { ...set, effects }, at };
  let frame = composedFrame(earlier, inputs);
  for (const step of stepsWith(registry)) frame = await step(frame, earlier, inputs);
  return frame.picture.value;
}

/** The chain from the composed plate to the finished frame, in the order in which light meets things. */
export const stepsWith = (registry: EffectRegistry): readonly Step[] => {
  const [surface, ...rest] = effectGroups.map((group) => effectsOf(group, registry));
  return [surface!, cameraStep(surface!), ...rest];
};

export const steps: readonly Step[] = stepsWith(knownEffects);

/** What an effect made; marked where distances belong to it that are kept beside it. */
type EffectPicture = Picture & { readonly movesDepth?: boolean };

const isPicture = (result: EffectResult): result is Picture => 'data' in result;

async function applyEffect(
  definition: EffectDefinition,
  item: EffectItem,
  from: Frame,
  request: ShotRequest,
  inputs: ChainInputs,
  earlier: (frames: number) => Promise<Picture>,
): Promise<Frame> {
  const { cache, run } = inputs;
  const params = paramsAt(definition, item, request.at);
  const needs = definition.needs(params);
  const content = contentOf(definition, item.content);
  const stillAt = definition.takesStill && item.media ? pictureNeed(item.media, request.at) : null;
  const still = stillAt && inputs.held.raster(stillAt);
  const reach = reachOf(definition, params);
  const matte = reach && reachMatte(from, reach, inputs);
  const region = regionOf(definition, item, from);
  // what cuts out by itself is limited there
  const limit = definition.cuts ? null : limitOf(matte, reach?.reachOutside === true, region);
  const address = addressOf((of) => [
    'effect',
    item.kind,
    params,
    of(from.picture),
    needs.map((n) => of(NEEDS[n](from, request, inputs))),
    content,
    still && stillAt && needKey(stillAt),
    matte && of(matte),
    region && [of(region.region), region.outside],
    // what is moved alone is parted from the rest by distance, and its distances are put among the others
    limit && of(from.distance),
  ]);
  const distanceAddress: Address = { fingerprint: `${address.fingerprint}:distance`, key: `${address.key}:distance` };
  const kept = (picture: Picture, distance: Plane | undefined): Frame => {
    const stage: Stage<Picture> = { ...address, value: picture };
    // what acts on a part only leaves open what moves with it
    const places = limit ? null : (definition.bends?.(params, request.size) ?? null);
    const alike = places ? bentParts(from, places, [item.kind, params], inputs) : {};
    return withParts(from, { ...alike, picture: () => stage, ...(distance && { distance: () => ({ ...distanceAddress, value: distance }) }) });
  };
  const found = cache.get<EffectPicture>(address.key);
  const besides = found?.movesDepth ? cache.get<Plane>(distanceAddress.key) : undefined;
  // a bounded cache may have let one of the two go
  if (found && (besides || !found.movesDepth)) return kept(found, besides);
  const before = from.picture.value;
  const weight = limit?.() ?? null;
  const apart = weight && definition.spreads?.(params) ? parted(before, from.distance.value, weight) : null;
  const own = { picture: apart?.given ?? before, params, content, still, earlier };
  const result = await definition.apply(inputOf(definition, from, request, inputs, needs, own, region));
  run.checkpoint(1);
  const made = isPicture(result) ? { picture: result, distance: undefined } : result;
  const { picture, distance } = laidOver(from, made, weight, apart, (reach?.reachMix ?? 100) / 100);
  if (distance) cache.set(distanceAddress.key, distance);
  const finished: EffectPicture = distance ? { ...picture, movesDepth: true } : picture;
  cache.set(address.key, finished);
  return kept(finished, distance);
}

/** What an effect made, laid over what it was given as far as it acts: pictures and distances. */
function laidOver(
  from: Frame,
  made: { readonly picture: Picture; readonly distance?: Plane | undefined },
  weight: Plane | null,
  apart: ReturnType<typeof parted> | null,
  mix: number,
): { readonly picture: Picture; readonly distance: Plane | undefined } {
  // parts that were moved alone are put together again; the matte has had its say
  const even = apart && weight ? constantPlane(weight.width, weight.height, 1) : weight;
  const whole = apart ? rejoined(apart, made.picture) : made.picture;
  const picture = even ? mixed(from.picture.value, whole, even, mix) : whole;
  return { picture, distance: made.distance && (weight ? mixedDistance(from.distance.value, made.distance, weight, mix) : made.distance) };
}

/** Distances, plate and regions of a frame moved as an effect has moved its picture; made when something that follows asks for them. */
function bentParts(from: Frame, places: Places, what: unknown, { cache, run }: ChainInputs): Parameters<typeof withParts>[1] {
  return {
    distance: () => stepOf(cache, 'bent', { what, distance: from.distance }, (read) => fetchedPlane(read.distance, places, 'nearest')),
    plate: () => stepOf(cache, 'bent', { what, plate: from.plate }, (read) => fetched(read.plate, run, places)),
    region: (layer) => stepOf(cache, 'bent', { what, region: from.region(layer) }, (read) => fetchedPlane(read.region, places, 'between')),
  };
}

/** The matte of a reach, made when it is wanted: kept by reach, map and picture, whichever effect asks for it. */
const reachMatte = (from: Frame, reach: ReachValues, inputs: ChainInputs): Stage<Plane> =>
  matteStage(from, rangeOf(reach), reach.reachRefine, inputs);

function matteStage(
  { distance, plate }: Pick<Frame, 'distance' | 'plate'>,
  range: ReachRange,
  refine: boolean,
  { cache, run, quick = false }: ChainInputs,
): Stage<Plane> {
  return refine
    ? stepOf(cache, 'matte', { range, distance, plate, quick: sized(quick) }, (read) =>
        read.quick
          ? quickMatte(read.distance, read.range)
          : refinedMatte(read.plate, read.distance, read.range, (share) => run.checkpoint(share / 2)),
      )
    : stepOf(cache, 'reach', { range, distance }, (read) => reachWeights(read.range, read.distance));
}

/** The region that an effect is limited to. */
interface Limit {
  readonly region: Stage<Plane>;
  readonly outside: boolean;
}

function regionOf(definition: EffectDefinition, { region }: EffectItem, from: Frame): Limit | null {
  if (!region || !limitable(definition)) return null;
  return { region: from.region(region.layer), outside: region.outside };
}

/** How far an effect acts on each pixel; null where it acts everywhere. */
function limitOf(matte: Stage<Plane> | null, outside: boolean, limit: Limit | null): (() => Plane) | null {
  if (!limit) return matte && (() => actsOn(matte.value, outside));
  const within = (): Plane => actsOn(limit.region.value, limit.outside);
  return matte ? () => bothOf(actsOn(matte.value, outside), within()) : within;
}

/** What of a frame each need stands for. */
const NEEDS: Readonly<Record<EffectNeed, (from: Frame, request: ShotRequest, inputs: ChainInputs) => Address>> = {
  distance: (from) => from.distance,
  lens: (from) => from.lens,
  plate: (from) => from.plate,
  camera: (from) => from.camera,
  depth: (_, __, { quick = false }) => addressOf((of) => [of({ fingerprint: null, key: quick })]),
  cut: (from, _, { quick = false }) => addressOf((of) => [of(from.distance), of(from.plate), of({ fingerprint: null, key: quick })]),
  earlier: (_, { plate, at, set, settings }, { held, quick = false }) => {
    const all = set ?? settings;
    // depth of earlier frames may be found, or found better, while that of this one stays as it is
    const depth = momentsOf(all, at).flatMap((moment) =>
      needsOf({ plate, settings: { ...all, layers: [...usedLayers(all, thereAt(plate, moment, held))] } }, moment).map(
        (need) => givesPlane(need) && (held.plane(need)?.key ?? null),
      ),
    );
    return addressOf((of) => [at, all, depth, of({ fingerprint: null, key: quick })]);
  },
  time: (_, { at }) => ({ fingerprint: JSON.stringify(at), key: JSON.stringify(at) }),
};

/** Needs in whose address it stands whether the view is a quick one. */
const KNOWS_QUICK: readonly EffectNeed[] = ['depth', 'cut', 'earlier'];

/** What an effect works with; reading what it has not declared throws, since its content key would not know. */
function inputOf(
  { kind }: EffectDefinition,
  from: Frame,
  { at, size, settings }: ShotRequest,
  inputs: ChainInputs,
  needs: readonly EffectNeed[],
  own: Pick<EffectInput<Record<string, number | boolean | string>>, 'picture' | 'params' | 'content' | 'still' | 'earlier'>,
  region: Limit | null,
): EffectInput<Record<string, number | boolean | string>> {
  const { run } = inputs;
  const declared = <T>(need: EffectNeed, value: () => T): T => {
    if (!needs.includes(need)) throw new Error(`${kind} reads ${need} and does not declare it`);
    return value();
  };
  return {
    ...own,
    pxScale: size.width / settings.framing.width,
    run,
    get distance() {
      return declared('distance', () => from.distance.value);
    },
    get lens() {
      return declared('lens', () => from.lens.value);
    },
    get at() {
      return declared('time', () => at);
    },
    get plate() {
      return declared('plate', () => from.plate.value);
    },
    get camera() {
      return declared('camera', () => from.camera.value);
    },
    earlier: (frames) => declared('earlier', () => own.earlier(frames)),
    get quick() {
      if (!needs.some((n) => KNOWS_QUICK.includes(n)))
        throw new Error(`${kind} asks whether the view is a quick one, and declares no need that knows`);
      return inputs.quick === true;
    },
    fromDepth: (name, make) =>
      declared('depth', () => {
        const { distance, lens } = from;
        return stepOf(inputs.cache, 'from depth', { name, distance, lens }, () => ({ data: make() })).value.data;
      }),
    cut: (range, refine) => declared('cut', () => cutOut(from, range, refine, inputs, region)),
  };
}

/** What lies within a reach, and within a region where there is one, cut out of the picture as it is here. */
function cutOut(from: Frame, range: ReachRange, refine: boolean, inputs: ChainInputs, limit: Limit | null): Cut {
  const { cache } = inputs;
  const reached = matteStage(from, range, refine, inputs);
  const matte = limit
    ? stepOf(cache, 'cut', { reached, region: limit.region, outside: limit.outside }, (read) =>
        bothOf(read.reached, actsOn(read.region, read.outside)),
      )
    : reached;
  const front = stepOf(cache, 'front', { matte, picture: from.picture }, (read) => matteColours(read.picture, read.matte));
  return { matte: matte.value, front: front.value };
}
