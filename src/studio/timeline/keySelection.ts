import { create } from 'zustand';
import { numberAt, setDrive, type NumberAddress } from '../../core/document/driven';
import type { Settings } from '../../core/document/schema';
import { keysOf, sortedKeys, type Key } from '../../core/values/drive';
import { changeSettings, shotOf, useDocument, type Gesture } from '../state/documentStore';
import { useView } from '../state/viewStore';

/** A key of a driven number, by its frame. */
export interface KeyAddress extends NumberAddress {
  readonly frame: number;
}

export const keyName = ({ place, item, name, frame }: KeyAddress): string => [place, item, name, frame].join('/');

/** The keys that are selected on the timeline, and those that were copied, told from the first of them. */
export const useKeys = create<{ selected: readonly KeyAddress[]; copied: readonly (KeyAddress & { readonly key: Key })[] }>()(() => ({
  selected: [],
  copied: [],
}));

export const isSelected = (selected: readonly KeyAddress[], key: KeyAddress): boolean => selected.some((k) => keyName(k) === keyName(key));

/** Selects a key; with `more` besides those that are selected, or no longer. */
export function selectKey(key: KeyAddress, more: boolean): void {
  const { selected } = useKeys.getState();
  if (!more) useKeys.setState({ selected: isSelected(selected, key) ? selected : [key] });
  else useKeys.setState({ selected: isSelected(selected, key) ? selected.filter((k) => keyName(k) !== keyName(key)) : [...selected, key] });
}

const keysAt = (settings: Settings, address: NumberAddress): readonly Key[] => keysOf(numberAt(settings, address)?.drive) ?? [];

const putKeys = (settings: Settings, address: NumberAddress, keys: readonly Key[]): void => {
  if (keysAt(settings, address).length > 0 && keys.length > 0) setDrive(settings, address, { kind: 'keys', keys: sortedKeys(keys) });
};

/** The numbers among some keys, each once, with its frames. */
function byNumber(keys: readonly KeyAddress[]): readonly (readonly [NumberAddress, readonly number[]])[] {
  const found = new Map<string, [NumberAddress, number[]]>();
  for (const { place, item, name, frame } of keys) {
    const id = [place, item, name].join('/');
    const entry = found.get(id) ?? [{ place, item, name }, []];
    entry[1].push(frame);
    found.set(id, entry);
  }
  return [...found.values()];
}

/** Moves keys by so many frames; one that comes upon another takes its place. */
export function moveKeys(keys: readonly KeyAddress[], by: number, gesture?: Gesture): void {
  const length = shotOf(useDocument.getState())?.settings.time.length ?? 1;
  const least = Math.min(...keys.map((k) => k.frame));
  const most = Math.max(...keys.map((k) => k.frame));
  const step = Math.max(-least, Math.min(Math.max(0, length - 1 - most), Math.round(by)));
  changeSettings((s) => {
    for (const [address, frames] of byNumber(keys)) {
      const all = keysAt(s, address);
      const moved = all.filter((k) => frames.includes(k.frame)).map((k) => ({ ...k, frame: k.frame + step }));
      putKeys(s, address, [...all.filter((k) => !frames.includes(k.frame)), ...moved]);
    }
  }, gesture);
  useKeys.setState({ selected: keys.map((k) => ({ ...k, frame: k.frame + step })) });
}

/** Deletes keys; the last one of a number stays. */
export function deleteKeys(keys: readonly KeyAddress[]): void {
  if (keys.length === 0) return;
  changeSettings((s) => {
    for (const [address, frames] of byNumber(keys))
      putKeys(
        s,
        address,
        keysAt(s, address).filter((k) => !frames.includes(k.frame)),
      );
  });
  useKeys.setState({ selected: [] });
}

export function copyKeys(keys: readonly KeyAddress[]): void {
  const settings = shotOf(useDocument.getState())?.settings;
  if (!settings || keys.length === 0) return;
  const first = Math.min(...keys.map((k) => k.frame));
  const copied = keys.flatMap((k) => {
    const key = keysAt(settings, k).find((v) => v.frame === k.frame);
    return key ? [{ ...k, frame: k.frame - first, key }] : [];
  });
  useKeys.setState({ copied });
}

/** Puts the copied keys at the playhead, each into its own number. */
export function pasteKeys(): void {
  const { copied } = useKeys.getState();
  if (copied.length === 0) return;
  const at = useView.getState().frame;
  const put = copied.map((k) => ({ ...k, frame: at + k.frame }));
  changeSettings((s) => {
    for (const [address] of byNumber(put)) {
      const fresh = put
        .filter((k) => k.place === address.place && k.item === address.item && k.name === address.name)
        .map((k) => ({ ...k.key, frame: k.frame }));
      putKeys(s, address, [...keysAt(s, address), ...fresh]);
    }
  });
  useKeys.setState({ selected: put.map(({ place, item, name, frame }) => ({ place, item, name, frame })) });
}
