import { contentOf } from '../depth/definition';
import { hasCamera } from '../path/path';
import { knownEffects } from '../effects/registry';
import { knowsLayer, layerOf } from '../depth/layers/registry';
import { layerAt } from '../document/keyedLayer';
import type { Layer, Settings } from '../document/schema';
import { givesPlane, needKey, pictureNeed, type Need, type PlaneNeed } from '../need/need';
import { paramsAt, START, type Moment } from '../values/moment';
import type { Held, PlateFile } from './stage';

/** What a layer needs from files. */
export function layerNeeds(set: Layer, plate: PlateFile, at: Moment = START): readonly Need[] {
  if (!knowsLayer(set.kind)) return [];
  const layer = layerAt(set, at.frame);
  const definition = layerOf(layer.kind);
  if (!definition.needs) return [];
  const source = { params: paramsAt(definition, layer, at), content: contentOf(definition, layer.content), media: layer.media ?? null, plate, at };
  return definition.needs(source);
}

/** The map that a layer is made from; null where it makes its own. */
export const layerMapNeed = (layer: Layer, plate: PlateFile, at: Moment = START): PlaneNeed | null =>
  layerNeeds(layer, plate, at).find(givesPlane) ?? null;

/** Tells of a layer whether it has, at a moment, the map that it is made from. */
export const thereAt =
  (plate: PlateFile, at: Moment, held: Pick<Held, 'plane'>) =>
  (layer: Layer): boolean => {
    const need = layerMapNeed(layer, plate, at);
    return need === null || held.plane(need) !== null;
  };

/**
 * Layers of which something may be seen: those that are on, down to one that covers all below it, and paints over nothing there. `there` tells
 * whether a layer has what it is made from: one whose map is still on its way, or is lost, covers nothing.
 */
export function seenLayers(layers: readonly Layer[], there: (layer: Layer) => boolean = () => true): readonly Layer[] {
  const on = layers.filter((l) => l.visible);
  const covers = (l: Layer): boolean => {
    if (l.opacity < 1 || l.blend !== 'replace' || l.drives.opacity || !knowsLayer(l.kind)) return false;
    const definition = layerOf(l.kind);
    return (definition.coversAll?.(paramsAt(definition, l, START), contentOf(definition, l.content), l.media ?? null) ?? false) && there(l);
  };
  // what a layer paints is seen, however its depth is covered, and what lies below it tells how much
  const painted = on.findIndex((l) => knowsLayer(l.kind) && layerOf(l.kind).paint);
  const below = painted < 0 ? on : on.slice(0, painted + 1);
  // from the top: what lies below one that covers is not asked whether it is there
  return on.slice(Math.max(0, below.findLastIndex(covers)));
}

/** The layers whose region an effect that is on is limited to. */
const regionLayers = ({ effects }: Pick<Settings, 'effects'>): ReadonlySet<string> =>
  new Set(effects.flatMap((e) => (e.on && e.region ? [e.region.layer] : [])));

/** Layers that have a hand in the picture: those of which something may be seen, and those that mark the region of an effect. */
export function usedLayers(settings: Pick<Settings, 'layers' | 'effects'>, there?: (layer: Layer) => boolean): readonly Layer[] {
  const [seen, marked] = [seenLayers(settings.layers, there), regionLayers(settings)];
  return settings.layers.filter((l) => seen.includes(l) || marked.has(l.id));
}

/** Settings with what has a hand in the picture alone: layers that are seen or mark a region, effects that are on. */
export const handIn = (settings: Settings): Settings => ({
  ...settings,
  layers: [...usedLayers(settings)],
  effects: settings.effects.filter((e) => e.on),
});

/** Everything that a shot needs from files, each once: its plate, then what its layers need, hidden ones too. */
export function needsOf({ plate, settings }: { readonly plate: PlateFile; readonly settings: Settings }, at: Moment = START): readonly Need[] {
  const found = new Map<string, Need>();
  const { backdrop } = settings.camera;
  const behind = backdrop ? [pictureNeed(backdrop, at)] : [];
  const stills = settings.effects.flatMap((e) => (e.media && knownEffects.knows(e.kind) ? [pictureNeed(e.media, at)] : []));
  for (const need of [pictureNeed(plate, at, plate.opaque), ...settings.layers.flatMap((l) => layerNeeds(l, plate, at)), ...behind, ...stills])
    if (!found.has(needKey(need))) found.set(needKey(need), need);
  return [...found.values()];
}

/** So many moments are told ahead; an effect that looks back may be given what another one made that looks back as well. */
const MOST_MOMENTS = 60;

/** Every moment that a picture is made of: its own, those that its effects look back to, and the first one, by which a camera's path is judged. */
export function momentsOf(settings: Settings, at: Moment): readonly Moment[] {
  const frames = new Set([at.frame]);
  for (const item of settings.effects) {
    const definition = item.on && knownEffects.knows(item.kind) ? knownEffects.of(item.kind) : null;
    if (!definition?.looksBack) continue;
    for (const frame of [...frames])
      for (const ago of definition.looksBack(paramsAt(definition, item, { ...at, frame })))
        if (frames.size < MOST_MOMENTS) frames.add(Math.max(0, frame - ago));
  }
  if (hasCamera(settings)) frames.add(0);
  return [...frames].map((frame) => ({ ...at, frame }));
}

/** Everything that a picture of a shot needs from files, at all moments it is made of, each once; of layers those that have a hand in it. */
export function neededFor({ plate, settings }: { readonly plate: PlateFile; readonly settings: Settings }, at: Moment): readonly Need[] {
  const seen = { plate, settings: handIn(settings) };
  const found = new Map<string, Need>();
  for (const moment of momentsOf(settings, at))
    for (const need of needsOf(seen, moment)) if (!found.has(needKey(need))) found.set(needKey(need), need);
  return [...found.values()];
}
