import type { FileRef } from '../need/fileRef';
import { moveOf } from '../camera/registry';
import { cleanupOf } from '../depth/cleanup/registry';
import { layerOf } from '../depth/layers/registry';
import { effectOf } from '../effects/registry';
import { recorded, setFor, type Drive, type Drives } from '../values/drive';
import { percent, type NumberParam, type Params } from '../values/params';
import type { Layer, Settings } from './schema';
import { shotNumbers } from './shotNumbers';

/** Where numbers that can be driven stand: those of the shot itself, or of one of its items. */
export const drivenPlaces = ['shot', 'layer', 'cleanup', 'effect', 'move'] as const;
export type DrivenPlace = (typeof drivenPlaces)[number];

/** Which number of a shot: where it stands, of which item (its id; a clean-up step's kind; empty for the shot's own), and its name. */
export interface NumberAddress {
  readonly place: DrivenPlace;
  readonly item: string;
  readonly name: string;
}

/** A number of a shot with its drive, if it has one. */
export interface DrivenNumber extends NumberAddress {
  /** of what it is: the effect's, layer's or move's name */
  readonly of: string;
  readonly param: NumberParam;
  /** as it is set, without its drive */
  readonly set: number;
  readonly drive: Drive | undefined;
}

/** Opacity of a layer as a number that can be driven. */
export const opacityParam = percent({ label: 'Opacity', min: 0, max: 100, default: 100 });

interface Holder {
  readonly of: string;
  readonly params: Params;
  readonly values: Record<string, unknown>;
  readonly drives: Drives;
}

/** The item that an address means; null where it is gone. */
function holderOf(settings: Settings, { place, item }: NumberAddress): Holder | null {
  switch (place) {
    case 'shot': {
      const params = Object.fromEntries(Object.entries(shotNumbers).map(([name, n]) => [name, n.param]));
      const values = Object.fromEntries(Object.entries(shotNumbers).map(([name, n]) => [name, n.get(settings)]));
      return { of: 'Shot', params, values, drives: settings.drives };
    }
    case 'layer': {
      const layer = settings.layers.find((l) => l.id === item);
      return layer
        ? {
            of: layer.name,
            params: { ...layerOf(layer.kind).params, opacity: opacityParam },
            values: { ...layer.values, opacity: 100 * layer.opacity },
            drives: layer.drives,
          }
        : null;
    }
    case 'cleanup': {
      const step = settings.cleanup.find((c) => c.kind === item);
      return step ? { of: cleanupOf(step.kind).label, params: cleanupOf(step.kind).params, values: step.values, drives: step.drives } : null;
    }
    case 'effect': {
      const effect = settings.effects.find((e) => e.id === item);
      return effect ? { of: effectOf(effect.kind).label, params: effectOf(effect.kind).params, values: effect.values, drives: effect.drives } : null;
    }
    case 'move': {
      const move = settings.camera.moves.find((m) => m.id === item);
      return move ? { of: moveOf(move.kind).label, params: moveOf(move.kind).params, values: move.values, drives: move.drives } : null;
    }
  }
}

/** A number by its address; null where it is gone, or is none. */
export function numberAt(settings: Settings, address: NumberAddress): DrivenNumber | null {
  const holder = holderOf(settings, address);
  const param = holder?.params[address.name];
  if (!holder || param?.type !== 'number') return null;
  const set = holder.values[address.name];
  return { ...address, of: holder.of, param, set: typeof set === 'number' ? set : param.default, drive: holder.drives[address.name] };
}

/** The thing of the document that a number stands in; undefined where it is gone. */
function holderAt(settings: Settings, { place, item }: NumberAddress): { drives: Drives; values?: Layer['values'] } | undefined {
  const holders: Record<DrivenPlace, { drives: Drives; values?: Layer['values'] } | undefined> = {
    shot: settings,
    layer: settings.layers.find((l) => l.id === item),
    cleanup: settings.cleanup.find((c) => c.kind === item),
    effect: settings.effects.find((e) => e.id === item),
    move: settings.camera.moves.find((m) => m.id === item),
  };
  return holders[place];
}

/** Gives a number a drive, or takes it away. In place. */
export function setDrive(settings: Settings, address: NumberAddress, drive: Drive | null): void {
  const { name } = address;
  const holder = holderAt(settings, address);
  if (!holder) return;
  if (drive) holder.drives[name] = drive;
  else delete holder.drives[name];
}

/**
 * Sets a number so that it has a value at a frame: the value itself, a key where it is driven by keys, or the middle
 * of what swings about it. In place.
 */
export function setNumber(settings: Settings, address: NumberAddress, value: number, frame: number): void {
  const number = numberAt(settings, address);
  if (!number) return;
  const { drive, set } = number;
  const kept = drive && recorded(drive, value, frame);
  if (kept) {
    setDrive(settings, address, kept);
    return;
  }
  const next = drive ? setFor(drive, set, value, frame) : value;
  if (address.place === 'shot') shotNumbers[address.name]?.set(settings, next);
  else if (address.place === 'layer' && address.name === 'opacity') settings.layers.find((l) => l.id === address.item)!.opacity = next / 100;
  else {
    const values = holderAt(settings, address)?.values;
    if (values) values[address.name] = next;
  }
}

/** Every number of a shot that has a drive, in the order of the chain. */
export function drivenNumbers(settings: Settings): readonly DrivenNumber[] {
  const places: (readonly [DrivenPlace, string, Drives])[] = [
    ['shot', '', settings.drives],
    ...settings.layers.map((l) => ['layer', l.id, l.drives] as const),
    ...settings.cleanup.map((c) => ['cleanup', c.kind, c.drives] as const),
    ...settings.effects.map((e) => ['effect', e.id, e.drives] as const),
    ...settings.camera.moves.map((m) => ['move', m.id, m.drives] as const),
  ];
  return places.flatMap(([place, item, drives]) =>
    Object.keys(drives)
      .map((name) => numberAt(settings, { place, item, name }))
      .filter((n): n is DrivenNumber => n !== null),
  );
}

/** Whether anything of a shot changes over time, its plate or what is set: only then it has a timeline. */
export const isTimed = ({ plate, settings }: { readonly plate?: Pick<FileRef, 'clip'>; readonly settings: Settings }): boolean =>
  (plate?.clip?.frames ?? 1) > 1 || settings.camera.moves.length > 0 || keyedLayers(settings).length > 0 || drivenNumbers(settings).length > 0;

/** Whether nothing but signals changes what is set: a live plate then has no time of its own. */
export const onlySignals = (settings: Settings): boolean =>
  settings.camera.moves.length === 0 &&
  keyedLayers(settings).length === 0 &&
  drivenNumbers(settings).every(({ drive }) => drive && 'signal' in drive);

/** Layers in which something moves from key to key. */
export const keyedLayers = ({ layers }: Pick<Settings, 'layers'>): readonly Layer[] => layers.filter((l) => l.keyed && l.keyed.length > 0);

/** The first and the last frame that are played and exported. */
export function playedRange({ time }: Pick<Settings, 'time'>): { from: number; to: number } {
  const last = Math.max(0, time.length - 1);
  const from = Math.min(last, time.from ?? 0);
  return { from, to: Math.max(from, Math.min(last, time.to ?? last)) };
}
