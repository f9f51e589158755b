import { current, isDraft } from 'immer';
import { distanceOf, nearnessAtDistance, nearnessOf, rawOf } from '../../../core/depth/calibrate';
import { contentOf } from '../../../core/depth/definition';
import { layerOf } from '../../../core/depth/layers/registry';
import { calibrationOf, newId, newLayer } from '../../../core/document/defaults';
import { changedLayer, firstKey, layerAt } from '../../../core/document/keyedLayer';
import type { Layer, StoredCalibration } from '../../../core/document/schema';
import { copyOf } from '../../../core/values/copy';
import { metres, valuesSchema } from '../../../core/values/params';
import { beginGesture, changeSettings, shotOf, useDocument, type Gesture } from '../../state/documentStore';
import { isFull } from '../../state/room';
import { useSession } from '../../state/sessionStore';
import { notify } from '../../notices/noticeStore';
import { factsOf } from '../../state/chapterFacts';
import { useView } from '../../state/viewStore';
import { layerStart } from '../../picture/probe';
import { startDrag } from './plateView';

/** A layer of the open shot, as it is at the playhead. */
export function layerById(id: string | null): Layer | null {
  const found = shotOf(useDocument.getState())?.settings.layers.find((l) => l.id === id);
  return found ? layerAt(found, useView.getState().frame) : null;
}

/** The chosen layer, while Depth is worked on. */
export function layerInHand(): Layer | null {
  const { chapter, selectedLayer } = useView.getState();
  return factsOf(chapter).inHand === 'layer' ? layerById(selectedLayer) : null;
}

/** A layer that is being changed, as it is now: one that was put there in the same change is no draft. */
const plain = (layer: Layer): Layer => (isDraft(layer) ? current(layer) : layer);

/** Changes one layer of the open shot. Where it has keys, one at the playhead holds what was changed. */
export function changeLayer(id: string, recipe: (layer: Layer) => void, gesture?: Gesture): void {
  // a gesture may be committed when the playhead is elsewhere
  const { frame } = useView.getState();
  changeSettings((s) => {
    const index = s.layers.findIndex((l) => l.id === id);
    const found = s.layers[index];
    if (!found) return;
    if (found.keyed && found.keyed.length > 0) s.layers[index] = changedLayer(plain(found), frame, recipe);
    else recipe(found);
  }, gesture);
}

/** Keys of a layer begin at the playhead, or end: it stays as it is there. */
export const setKeyed = (id: string, on: boolean): void =>
  changeSettings((s) => {
    const index = s.layers.findIndex((l) => l.id === id);
    const found = s.layers[index];
    if (!found) return;
    const { frame } = useView.getState();
    const { keyed: _, ...now } = layerAt(plain(found), frame);
    s.layers[index] = on ? { ...now, keyed: [firstKey(now, frame)] } : now;
  });

/** Moves a key of a layer to another frame, in place of one that is there. */
export const moveLayerKey = (id: string, from: number, to: number, gesture?: Gesture): void =>
  changeSettings((s) => {
    const found = s.layers.find((l) => l.id === id);
    const key = found?.keyed?.find((k) => k.frame === from);
    if (!found?.keyed || !key || from === to) return;
    found.keyed = [...found.keyed.filter((k) => k !== key && k.frame !== to), { ...key, frame: to }].sort((a, b) => a.frame - b.frame);
  }, gesture);

/** Deletes a key of a layer; with the last one it stays as it is there. */
export function deleteLayerKey(id: string, frame: number): void {
  const layer = shotOf(useDocument.getState())?.settings.layers.find((l) => l.id === id);
  if (!layer?.keyed?.some((k) => k.frame === frame)) return;
  if (layer.keyed.length === 1) setKeyed(id, false);
  else
    changeSettings((s) => {
      const found = s.layers.find((l) => l.id === id);
      if (found?.keyed) found.keyed = found.keyed.filter((k) => k.frame !== frame);
    });
}

/** What a layer keeps, as its kind reads it. */
export const contentIn = <C>(layer: Layer): C => contentOf(layerOf(layer.kind), layer.content) as C;

/** Changes what a layer keeps. */
export const changeContent = <C>(id: string, recipe: (content: C) => void, gesture?: Gesture): void =>
  changeLayer(
    id,
    (layer) => {
      layer.content ??= contentOf(layerOf(layer.kind), undefined);
      recipe(layer.content as C);
    },
    gesture,
  );

/** What is being done to a layer by hand: shown as it goes. */
export interface LayerGesture {
  /** values and content that the layer gets, told from how it was when the gesture began */
  set(change: { readonly values?: Layer['values']; readonly content?: unknown }): void;
  commit(): void;
  cancel(): void;
}

/** Begins a gesture on a layer; null where it is locked, which is said. */
export function beginLayerGesture(layer: Layer): LayerGesture | null {
  if (isLocked(layer)) return null;
  const gesture = beginGesture();
  return {
    set: ({ values, content }) =>
      changeLayer(
        layer.id,
        (l) => {
          if (values) Object.assign(l.values, values);
          if (content !== undefined) l.content = content;
        },
        gesture,
      ),
    commit: gesture.commit,
    cancel: gesture.cancel,
  };
}

/** A drag that works on a layer: one step of undo, whatever it changed on its way. Nothing where the layer is locked, or for another button than the first. */
export function dragLayer(
  event: React.PointerEvent,
  layer: Layer,
  move: (event: PointerEvent) => Parameters<LayerGesture['set']>[0] | null,
  done?: (moved: boolean) => void,
): void {
  if (event.button !== 0) return;
  const gesture = beginLayerGesture(layer);
  if (!gesture) return;
  startDrag(
    event,
    (e) => {
      const change = move(e);
      if (change) gesture.set(change);
    },
    (moved) => {
      gesture.commit();
      done?.(moved);
    },
    gesture.cancel,
  );
}

/** Adds a layer on top and selects it. */
export function addLayer(layer: Layer): void {
  if (isFull('layers')) return;
  changeSettings((s) => void (layerOf(layer.kind).beneath ? s.layers.unshift(layer) : s.layers.push(layer)));
  useView.getState().set({ selectedLayer: layer.id });
}

/** A new layer, set to what lies where it begins. */
export function addLayerOf(kind: string): void {
  const layer = newLayer(kind);
  const shot = shotOf(useDocument.getState());
  const { startOn, params } = layerOf(kind);
  if (shot && startOn)
    Object.assign(layer.values, startOn(valuesSchema(params).parse(layer.values), layerStart(shot, useSession.getState().preview)));
  addLayer(layer);
}

export function duplicateLayer(id: string): void {
  if (isFull('layers')) return;
  const copy = newId();
  changeSettings((s) => {
    const at = s.layers.findIndex((l) => l.id === id);
    if (at < 0) return;
    const from = s.layers[at]!;
    s.layers.splice(at + 1, 0, { ...copyOf(from), id: copy, name: `${from.name}, copy`.slice(0, 200) });
  });
  useView.getState().set({ selectedLayer: copy });
}

/** Locked layers are not changed by hand; says so. */
export function isLocked(layer: Layer): boolean {
  if (layer.locked) notify({ kind: 'note', text: `${layer.name} is locked.`, hint: 'Unlock it in the depth stack to change it.' });
  return layer.locked;
}

/** Distance of a raw grey and back, metres. */
export function distanceOfRaw(raw: number, stored: StoredCalibration): number {
  const c = calibrationOf(stored);
  return distanceOf(nearnessOf(raw, c), c);
}
export function rawOfDistance(distance: number, stored: StoredCalibration): number {
  const c = calibrationOf(stored);
  return Math.min(1, Math.max(0, rawOf(nearnessAtDistance(distance, c), c)));
}

/** A distance as rows and the rail set it. */
export const distanceParam = (label: string, help?: string) =>
  metres({ label, min: 0.2, max: 300, lowest: 0.01, highest: Infinity, default: 3, ...(help !== undefined && { help }) });
