import * as z from 'zod';
import { keysDrive, type Key } from './drives/keys';
import { driveOf, driveSchema, type Drive } from './drives/registry';

export { eased, easings, type Easing } from './easing';
export { keySchema, sortedKeys, type Key } from './drives/keys';
export { drives, driveSchema, type Drive } from './drives/registry';

/** The value at a frame: `set` is what the control shows without the drive. */
export const driveValue = (drive: Drive, set: number, frame: number): number => driveOf(drive.kind).value(drive, set, frame);

export const drivesSchema = z.record(z.string(), driveSchema);
export type Drives = z.infer<typeof drivesSchema>;

/** Plain values at a frame: every driven number replaced by its drive's value. */
export function valuesAt<V extends Record<string, unknown>>(values: V, drives: Drives | undefined, frame: number): V {
  if (!drives || Object.keys(drives).length === 0) return values;
  const out: Record<string, unknown> = { ...values };
  for (const [name, drive] of Object.entries(drives)) {
    const set = values[name];
    if (typeof set === 'number') out[name] = driveValue(drive, set, frame);
  }
  return out as V;
}

/** The keys of a drive; null where it has none. */
export const keysOf = (drive: Drive | undefined): readonly Key[] | null => (drive?.kind === keysDrive.kind ? drive.keys : null);

/** The frames of a drive that stand on its track: its keys, or the ends of an ease. */
export const pinsOf = (drive: Drive): readonly number[] => driveOf(drive.kind).pins?.(drive) ?? [];

/** A drive whose values are changed one by one, those it swings by as well. */
export const withValues = (drive: Drive, change: (value: number) => number): Drive => driveOf(drive.kind).map(drive, change);

/**
 * A drive that gives a value at a frame, as near to the old one as it can: a key is put there, or the nearer end of an ease; null where the
 * drive goes about the set value, which then has to be changed itself.
 */
export const recorded = (drive: Drive, value: number, frame: number): Drive | null => driveOf(drive.kind).record?.(drive, value, frame) ?? null;

/** To what a number is set whose drive swings about it, so that it has a value at a frame. */
export const setFor = (drive: Drive, set: number, value: number, frame: number): number =>
  Number.isFinite(value) && Number.isFinite(set) ? value + set - driveValue(drive, set, frame) : value;

/** A fresh drive of a kind for a number that is set to a value, with a range to swing in. */
export const newDrive = (kind: Drive['kind'], set: number, swing: number, frame: number, length: number): Drive =>
  driveOf(kind).begin({ set, swing, frame, length });
