import type { Numbered } from '../core/need/fileRef';

/** Names of pictures that may be frames. */
export const PICTURE = /\.(png|jpe?g|tiff?|exr|webp|avif)$/i;
const NUMBER = /(\d+)(?=\.[^.]+$)/;

const numberOf = (name: string): number | null => {
  const found = NUMBER.exec(name);
  return found ? Number(found[1]) : null;
};

/** The stem that numbered names have in common. */
const stemOf = (name: string): string => name.replace(NUMBER, '#').toLowerCase();

/** How the frames of a sequence without gaps are called. */
export function numberedAs(name: string): Numbered | undefined {
  const plain = name.split('/').pop()!;
  const found = NUMBER.exec(plain);
  return found ? { stem: plain.slice(0, found.index).slice(0, 100), first: Number(found[1]), digits: found[1]!.length } : undefined;
}

/** Names that make a sequence, in the order of their numbers; strangers among them, and numbers that are missing. */
export interface Sequence {
  readonly names: readonly string[];
  readonly strangers: readonly string[];
  readonly missing: readonly number[];
}

/** The largest sequence among file names; null where there are not two of one. */
export function findSequence(names: readonly string[]): Sequence | null {
  const groups = new Map<string, string[]>();
  for (const name of names) {
    const plain = name.split('/').pop()!;
    if (!PICTURE.test(plain) || plain.startsWith('.') || numberOf(plain) === null) continue;
    const stem = stemOf(name);
    const group = groups.get(stem);
    if (group) group.push(name);
    else groups.set(stem, [name]);
  }
  const largest = [...groups.values()].sort((a, b) => b.length - a.length)[0];
  if (!largest || largest.length < 2) return null;
  const sorted = largest.sort((a, b) => numberOf(a)! - numberOf(b)! || a.localeCompare(b));
  const own = new Set(sorted);
  const first = numberOf(sorted[0]!)!;
  const last = numberOf(sorted[sorted.length - 1]!)!;
  const there = new Set(sorted.map((n) => numberOf(n)!));
  const missing: number[] = [];
  for (let k = first; k <= last && missing.length < 1000; k++) if (!there.has(k)) missing.push(k);
  return { names: sorted, strangers: names.filter((n) => !own.has(n) && !n.split('/').pop()!.startsWith('.')), missing };
}
