import {
  effectGroups,
  reachOf,
  type EffectDefinition,
  type EffectGroup,
  type EffectInput,
  type EffectNeed,
  type EffectResult,
} from '../effects/definition';
import { rangeOf, reachWeights, type ReachValues } from '../effects/reach';
import { knownEffects, type EffectRegistry } from '../effects/registry';
import { quickMatte, refinedMatte } from '../matte/matte';
import type { EffectItem } from '../document/schema';
import { isShared, newPicture, newPlane, type Picture, type Plane } from '../raster/picture';
import { partOf, type Run } from '../run';
import { paramsAt } from '../values/moment';
import { addressOf, type Address } from './key';
import { cameraStep } from './cameraStep';
import { withParts, type Frame, type Step } from './frame';
import { remember, type ChainInputs, type ShotRequest, type Stage } from './stage';

/** The effects of one group that are on, in their order. */
export const effectsOf =
  (group: EffectGroup, registry: EffectRegistry = knownEffects): Step =>
  async (from, request, inputs) => {
    const list = request.settings.effects.filter((e) => e.on && registry.knows(e.kind) && registry.of(e.kind).group === group);
    let frame = from;
    for (const [index, item] of list.entries())
      frame = await applyEffect(registry.of(item.kind), item, frame, request, {
        ...inputs,
        run: partOf(inputs.run, index / list.length, (index + 1) / list.length),
      });
    return frame;
  };

/** The chain from the composed plate to the finished frame, in the order in which light meets things. */
export const stepsWith = (registry: EffectRegistry): readonly Step[] => {
  const [surface, ...rest] = effectGroups.map((group) => effectsOf(group, registry));
  return [surface!, cameraStep(surface!), ...rest];
};

export const steps: readonly Step[] = stepsWith(knownEffects);

/** What an effect made; marked where distances belong to it that are kept beside it. */
type EffectPicture = Picture & { readonly movesDepth?: boolean };

const isPicture = (result: EffectResult): result is Picture => 'data' in result;

async function applyEffect(definition: EffectDefinition, item: EffectItem, from: Frame, request: ShotRequest, inputs: ChainInputs): Promise<Frame> {
  const { cache, run } = inputs;
  const params = paramsAt(definition, item, request.at);
  const needs = definition.needs(params);
  const reach = reachOf(definition, params);
  const matte = reach && reachMatte(from, reach, inputs);
  const address = addressOf((of) => [
    'effect',
    item.kind,
    params,
    of(from.picture),
    needs.map((n) => of(NEEDS[n](from, request))),
    matte && of(matte),
  ]);
  const distanceAddress: Address = { look: `${address.look}:distance`, key: `${address.key}:distance` };
  const own = (picture: Picture, distance: Plane | undefined): Frame => {
    const stage: Stage<Picture> = { ...address, value: picture };
    return withParts(from, { picture: () => stage, ...(distance && { distance: () => ({ ...distanceAddress, value: distance }) }) });
  };
  const found = cache.get<EffectPicture>(address.key);
  const kept = found?.movesDepth ? cache.get<Plane>(distanceAddress.key) : undefined;
  // a bounded cache may have let one of the two go
  if (found && (kept || !found.movesDepth)) return own(found, kept);
  const result = await definition.apply(inputOf(definition, from, request, params, needs, run));
  run.checkpoint(1);
  const made = isPicture(result) ? { picture: result, distance: undefined } : result;
  const { picture, distance } = reach && matte ? withinReach(from, made, matte.value(), reach) : made;
  if (distance) cache.set(distanceAddress.key, distance);
  const finished: EffectPicture = distance ? { ...picture, movesDepth: true } : picture;
  cache.set(address.key, finished);
  return own(finished, distance);
}

/** The matte of a reach, made when it is wanted: kept by reach, map and picture, whichever effect asks for it. */
function reachMatte(from: Frame, reach: ReachValues, { cache, run, quick = false }: ChainInputs): Address & { value(): Plane } {
  const range = rangeOf(reach);
  const { reachRefine: refine } = reach;
  const address = addressOf((of) => ['matte', range, refine, of(from.distance), refine && of(from.plate), of({ look: null, key: refine && quick })]);
  const make = (): Plane => {
    if (!refine) return reachWeights(range, from.distance.value);
    if (quick) return quickMatte(from.distance.value, range);
    return refinedMatte(from.plate.value, from.distance.value, range, (share) => run.checkpoint(share / 2));
  };
  return { ...address, value: () => remember(cache, address, make).value };
}

/** What an effect has made, mixed with what went in by the matte of its reach. */
function withinReach(
  from: Frame,
  made: { readonly picture: Picture; readonly distance: Plane | undefined },
  matte: Plane,
  { reachOutside, reachMix }: ReachValues,
): { picture: Picture; distance: Plane | undefined } {
  const before = from.picture.value;
  const out = newPicture(before.width, before.height, isShared(before.data));
  const distance = made.distance && newPlane(before.width, before.height, isShared(before.data));
  for (let i = 0; i < matte.data.length; i++) {
    const within = reachOutside ? 1 - matte.data[i]! : matte.data[i]!;
    const weight = (within * reachMix) / 100;
    for (let o = i * 4; o < i * 4 + 4; o++) out.data[o] = before.data[o]! + weight * (made.picture.data[o]! - before.data[o]!);
    // a distance between two is the distance of neither
    if (distance) distance.data[i] = weight >= 0.5 ? made.distance.data[i]! : from.distance.value.data[i]!;
  }
  return { picture: out, distance };
}

/** What of a frame each need stands for. */
const NEEDS: Readonly<Record<EffectNeed, (from: Frame, request: ShotRequest) => Address>> = {
  distance: (from) => from.distance,
  lens: (from) => from.lens,
  plate: (from) => from.plate,
  time: (_, { at }) => ({ look: JSON.stringify(at), key: JSON.stringify(at) }),
};

/** What an effect works with; reading what it has not declared throws, since its content key would not know. */
function inputOf(
  { kind }: EffectDefinition,
  from: Frame,
  { at, size, settings }: ShotRequest,
  params: Record<string, number | boolean | string>,
  needs: readonly EffectNeed[],
  run: Run,
): EffectInput<Record<string, number | boolean | string>> {
  const declared = <T>(need: EffectNeed, value: () => T): T => {
    if (!needs.includes(need)) throw new Error(`${kind} reads ${need} and does not declare it`);
    return value();
  };
  return {
    picture: from.picture.value,
    params,
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
  };
}
