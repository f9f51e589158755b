import * as z from 'zod';
import { seededRandom } from '../random';
import { storedNumber } from './endless';

export const easings = ['hold', 'straight', 'ease', 'ease-in', 'ease-out'] as const;
export type Easing = (typeof easings)[number];

/** A value at a frame, and the way from there to the next. */
export const keySchema = z.object({ frame: z.number(), value: storedNumber, easing: z.enum(easings).default('ease') });

const KEY_NAMES = ['frame', 'value', 'easing'];

/** Whether something is a key as it is kept: a clip may have thousands, so that they are looked at without a schema first. */
const isKey = (v: unknown): v is z.infer<typeof keySchema> => {
  if (typeof v !== 'object' || v === null) return false;
  const { frame, value, easing } = v as Record<string, unknown>;
  return (
    Number.isFinite(frame) &&
    typeof value === 'number' &&
    value > -Infinity &&
    (easings as readonly unknown[]).includes(easing) &&
    Object.keys(v).every((name) => KEY_NAMES.includes(name))
  );
};

const slowKeys = z.array(keySchema).min(1);

const keysSchema = z.unknown().transform((given, context): z.infer<typeof keySchema>[] => {
  if (Array.isArray(given) && given.length > 0 && given.every(isKey)) return given.map((key) => ({ ...key }));
  const read = slowKeys.safeParse(given);
  if (read.success) return read.data;
  for (const issue of read.error.issues) context.issues.push({ ...issue, input: given } as never);
  return z.NEVER;
});

/** What changes a value over time. */
export const driveSchema = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('keys'),
    keys: keysSchema,
  }),
  /** smooth random about the set value; one new target every `period` frames */
  z.object({ kind: z.literal('drift'), amount: z.number(), period: z.number().positive(), seed: z.number().int() }),
  z.object({ kind: z.literal('wave'), amount: z.number(), period: z.number().positive(), phase: z.number().default(0) }),
  /** one eased ramp from the set value over a range of frames */
  z.object({
    kind: z.literal('ease'),
    from: storedNumber,
    to: storedNumber,
    start: z.number(),
    end: z.number(),
    easing: z.enum(easings).default('ease'),
  }),
]);
export type Drive = z.infer<typeof driveSchema>;

/** Share of the way 0..1 after easing. `ease` is the cubic 3t² − 2t³. */
export function eased(easing: Easing, t: number): number {
  const x = Math.min(1, Math.max(0, t));
  switch (easing) {
    case 'hold':
      return x < 1 ? 0 : 1;
    case 'straight':
      return x;
    case 'ease':
      return x * x * (3 - 2 * x);
    case 'ease-in':
      return x * x * x;
    case 'ease-out':
      return 1 - (1 - x) ** 3;
  }
}

const driftTarget = (seed: number, index: number): number => 2 * seededRandom(seed * 7919 + index * 104729 + 17)() - 1;

/** The share of the way from one value to another. To an endless distance, or from one, the way is even in 1/distance, as a lens is focused. */
const between = (a: number, b: number, share: number): number => {
  if (Number.isFinite(a) && Number.isFinite(b)) return a + (b - a) * share;
  if (a === b || share <= 0) return a;
  return share >= 1 ? b : 1 / (1 / a + (1 / b - 1 / a) * share);
};

/** The value at a frame: `set` is what the control shows without the drive. */
export function driveValue(drive: Drive, set: number, frame: number): number {
  switch (drive.kind) {
    case 'keys': {
      const keys = [...drive.keys].sort((a, b) => a.frame - b.frame);
      const next = keys.findIndex((k) => k.frame > frame);
      if (next === 0) return keys[0]!.value;
      if (next < 0) return keys[keys.length - 1]!.value;
      const a = keys[next - 1]!;
      const b = keys[next]!;
      return between(a.value, b.value, eased(a.easing, (frame - a.frame) / (b.frame - a.frame)));
    }
    case 'drift': {
      const t = frame / drive.period;
      const i = Math.floor(t);
      const a = driftTarget(drive.seed, i);
      const b = driftTarget(drive.seed, i + 1);
      return set + drive.amount * (a + (b - a) * eased('ease', t - i));
    }
    case 'wave':
      return set + drive.amount * Math.sin(2 * Math.PI * (frame / drive.period + drive.phase));
    case 'ease':
      return between(drive.from, drive.to, eased(drive.easing, (frame - drive.start) / Math.max(1e-9, drive.end - drive.start)));
  }
}

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

/** One key of a drive. */
export type Key = z.infer<typeof keySchema>;

/** The keys of a drive; null where it has none. */
export const keysOf = (drive: Drive | undefined): readonly Key[] | null => (drive?.kind === 'keys' ? drive.keys : null);

/** The frames of a drive that stand on its track: its keys, or the ends of an ease. */
export function pinsOf(drive: Drive): readonly number[] {
  switch (drive.kind) {
    case 'keys':
      return sortedKeys(drive.keys).map((k) => k.frame);
    case 'ease':
      return [drive.start, drive.end];
    default:
      return [];
  }
}

/** A drive whose values are changed one by one, those it swings by as well. */
export function withValues(drive: Drive, change: (value: number) => number): Drive {
  switch (drive.kind) {
    case 'keys':
      return { ...drive, keys: drive.keys.map((k) => ({ ...k, value: change(k.value) })) };
    case 'ease':
      return { ...drive, from: change(drive.from), to: change(drive.to) };
    default:
      return { ...drive, amount: change(drive.amount) };
  }
}

/** Keys in the order of their frames, one a frame: of two at the same frame the later one stays. */
export function sortedKeys(keys: readonly Key[]): Key[] {
  const at = new Map<number, Key>();
  for (const key of keys) at.set(key.frame, key);
  return [...at.values()].sort((a, b) => a.frame - b.frame);
}

/**
 * A drive that gives a value at a frame, as near to the old one as it can: a key is put there, or the nearer end of an ease; null where the
 * drive goes about the set value, which then has to be changed itself.
 */
export function recorded(drive: Drive, value: number, frame: number): Drive | null {
  switch (drive.kind) {
    case 'keys': {
      const old = drive.keys.find((k) => k.frame === frame);
      const before = sortedKeys(drive.keys).findLast((k) => k.frame < frame);
      return { ...drive, keys: sortedKeys([...drive.keys, { frame, value, easing: old?.easing ?? before?.easing ?? 'ease' }]) };
    }
    case 'ease':
      return frame * 2 < drive.start + drive.end ? { ...drive, from: value } : { ...drive, to: value };
    default:
      return null;
  }
}

/** To what a number is set whose drive swings about it, so that it has a value at a frame. */
export const setFor = (drive: Drive, set: number, value: number, frame: number): number =>
  Number.isFinite(value) && Number.isFinite(set) ? value + set - driveValue(drive, set, frame) : value;

/** A fresh drive of a kind for a number that is set to a value, with a range to swing in. */
export function newDrive(kind: Drive['kind'], set: number, swing: number, frame: number, length: number): Drive {
  switch (kind) {
    case 'keys':
      return { kind, keys: [{ frame, value: set, easing: 'ease' }] };
    case 'drift':
      return { kind, amount: swing, period: 24, seed: 1 };
    case 'wave':
      return { kind, amount: swing, period: Math.max(2, length), phase: 0 };
    case 'ease':
      return { kind, from: set, to: set + swing, start: 0, end: Math.max(1, length - 1), easing: 'ease' };
  }
}
