import * as z from 'zod';
import { between, eased, easings } from '../easing';
import { storedNumber } from '../endless';
import { defineDrive } from './definition';

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

export type Key = z.infer<typeof keySchema>;

/** Keys in the order of their frames, one a frame: of two at the same frame the later one stays. */
export function sortedKeys(keys: readonly Key[]): Key[] {
  const at = new Map<number, Key>();
  for (const key of keys) at.set(key.frame, key);
  return [...at.values()].sort((a, b) => a.frame - b.frame);
}

const schema = z.object({ kind: z.literal('keys'), keys: keysSchema });

export const keysDrive = defineDrive<z.infer<typeof schema>>({
  kind: 'keys',
  label: 'Keys',
  help: 'Values at certain frames, and a way between them.',
  schema,
  begin: ({ set, frame }) => ({ kind: 'keys', keys: [{ frame, value: set, easing: 'ease' }] }),
  value(drive, _, frame) {
    const keys = [...drive.keys].sort((a, b) => a.frame - b.frame);
    const next = keys.findIndex((k) => k.frame > frame);
    if (next === 0) return keys[0]!.value;
    if (next < 0) return keys[keys.length - 1]!.value;
    const a = keys[next - 1]!;
    const b = keys[next]!;
    return between(a.value, b.value, eased(a.easing, (frame - a.frame) / (b.frame - a.frame)));
  },
  pins: (drive) => sortedKeys(drive.keys).map((k) => k.frame),
  map: (drive, change) => ({ ...drive, keys: drive.keys.map((k) => ({ ...k, value: change(k.value) })) }),
  record(drive, value, frame) {
    const old = drive.keys.find((k) => k.frame === frame);
    const before = sortedKeys(drive.keys).findLast((k) => k.frame < frame);
    return { ...drive, keys: sortedKeys([...drive.keys, { frame, value, easing: old?.easing ?? before?.easing ?? 'ease' }]) };
  },
});
