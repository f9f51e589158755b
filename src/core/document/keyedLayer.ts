import { Bounded } from '../bounded';
import { blended } from '../values/blend';
import { copyOf } from '../values/copy';
import { writeJson } from '../values/endless';
import type { Layer, LayerKey } from './schema';

/** Frames kept for one list of keys: those that play. */
const FRAMES_KEPT = 256;
type Stand = Pick<LayerKey, 'values' | 'content'>;
const kept = new WeakMap<readonly LayerKey[], Bounded<Stand, number>>();

function stateAt(keys: readonly LayerKey[], frame: number): Stand {
  const after = keys.findIndex((k) => k.frame > frame);
  if (after === 0) return keys[0]!;
  const before = keys[after < 0 ? keys.length - 1 : after - 1]!;
  if (after < 0 || before.frame === frame) return before;
  const next = keys[after]!;
  const t = (frame - before.frame) / (next.frame - before.frame);
  return { values: blended(before.values, next.values, t), content: Object.freeze(blended(before.content, next.content, t)) };
}

/** A layer as its keys have it at a frame: what is drawn or placed in it, and its values. The same object where it has none. */
export function layerAt(layer: Layer, frame: number): Layer {
  const { keyed } = layer;
  if (!keyed || keyed.length === 0) return layer;
  let frames = kept.get(keyed);
  if (!frames) kept.set(keyed, (frames = new Bounded<Stand, number>({ limit: FRAMES_KEPT })));
  const state = frames.get(frame) ?? stateAt(keyed, frame);
  frames.set(frame, state);
  return { ...layer, values: state.values, content: state.content };
}

/** Things of the lists that a layer keeps, by list: their ids. */
type Lists = Readonly<Record<string, readonly { readonly id?: string }[]>>;
const listsOf = (content: unknown): Lists =>
  Object.fromEntries(Object.entries((content ?? {}) as Record<string, unknown>).filter(([, v]) => Array.isArray(v))) as Lists;

/** What was added to a layer at one key, or taken away there, is so at another. */
function sameThings(key: LayerKey, before: unknown, after: unknown): LayerKey {
  const [old, now, own] = [listsOf(before), listsOf(after), listsOf(key.content)];
  const changed: Record<string, unknown> = {};
  for (const [name, list] of Object.entries(now)) {
    const ids = new Set(list.map((v) => v.id));
    const had = new Set((old[name] ?? []).map((v) => v.id));
    if (list.some((v) => v.id === undefined)) continue;
    const mine = own[name] ?? [];
    const added = list.filter((v) => !had.has(v.id) && !mine.some((m) => m.id === v.id));
    const left = mine.filter((v) => ids.has(v.id) || !had.has(v.id));
    if (added.length > 0 || left.length < mine.length) changed[name] = [...left, ...added];
  }
  return Object.keys(changed).length === 0 ? key : { ...key, content: { ...(key.content as object), ...changed } };
}

/** The keys of a layer after a change at a frame: one is made there, or changed. */
function keysAfter(keys: readonly LayerKey[], before: Layer, after: Layer, frame: number): readonly LayerKey[] {
  const rest = keys.filter((k) => k.frame !== frame).map((k) => sameThings(k, before.content, after.content));
  return [...rest, { frame, values: after.values, content: after.content }].sort((a, b) => a.frame - b.frame);
}

/** A layer whose keys begin: as it is, from this frame on. */
export const firstKey = ({ values, content }: Layer, frame: number): LayerKey => ({ frame, values, content });

/** A layer after a change by hand at a frame: where it has keys, one there holds what was changed. `layer` is not written. */
export function changedLayer(layer: Layer, frame: number, recipe: (layer: Layer) => void): Layer {
  const before = layerAt(layer, frame);
  const { values, content } = before;
  // a key may be what is shown here: it is not written with it
  const after: Layer = { ...copyOf(before), values: copyOf(values), content: copyOf(content) };
  recipe(after);
  const { keyed = [] } = layer;
  const same = writeJson([before.values, before.content]) === writeJson([after.values, after.content]);
  // keys that were changed themselves are as they were left
  if (writeJson(after.keyed) !== writeJson(keyed)) return after;
  return { ...after, keyed: same ? [...keyed] : [...keysAfter(keyed, before, after, frame)] };
}
