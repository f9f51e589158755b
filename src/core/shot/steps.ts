import { effectGroups, type EffectDefinition, type EffectGroup, type EffectInput, type EffectNeed, type EffectResult } from '../effects/definition';
import { knownEffects, type EffectRegistry } from '../effects/registry';
import type { EffectItem } from '../document/schema';
import type { Picture, Plane } from '../raster/picture';
import { partOf, type Run } from '../run';
import { paramsAt } from '../values/moment';
import { addressOf, type Address } from './key';
import { withParts, type Frame } from './frame';
import type { ChainInputs, ShotRequest, Stage } from './stage';

/** One step of the chain. The identity where it has nothing to do. */
export type Step = (from: Frame, request: ShotRequest, inputs: ChainInputs) => Promise<Frame>;

/** Where camera moves will be: light meets the air before the lens that moves through it. */
export const camera: Step = (from) => Promise.resolve(from);

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
  return [surface!, camera, ...rest];
};

export const steps: readonly Step[] = stepsWith(knownEffects);

const isPicture = (result: EffectResult): result is Picture => 'data' in result;

async function applyEffect(definition: EffectDefinition, item: EffectItem, from: Frame, request: ShotRequest, inputs: ChainInputs): Promise<Frame> {
  const { cache, run } = inputs;
  const params = paramsAt(definition, item, request.at);
  const needs = definition.needs(params);
  const address = addressOf((of) => ['effect', item.kind, params, of(from.picture), needs.map((n) => of(NEEDS[n](from, request)))]);
  const distanceAddress: Address = { look: `${address.look}:distance`, key: `${address.key}:distance` };
  const own = (picture: Picture, distance: Plane | undefined): Frame => {
    const stage: Stage<Picture> = { ...address, value: picture };
    return withParts(from, { picture: () => stage, ...(distance && { distance: () => ({ ...distanceAddress, value: distance }) }) });
  };
  const found = cache.get<Picture>(address.key);
  if (found) return own(found, cache.get<Plane>(distanceAddress.key));
  const result = await definition.apply(inputOf(definition, from, request, params, needs, run));
  run.checkpoint(1);
  const picture = isPicture(result) ? result : result.picture;
  const distance = isPicture(result) ? undefined : result.distance;
  if (distance) cache.set(distanceAddress.key, distance);
  cache.set(address.key, picture);
  return own(picture, distance);
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
