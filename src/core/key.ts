/** Where a stage is kept. */
export interface Address {
  /** names what is shown, whatever its size */
  readonly fingerprint: string;
  /** the fingerprint at one size: where the pixels are kept */
  readonly key: string;
}

/** An address made from parts; those that differ between fingerprint and key, such as the addresses of inputs, go through `of`. */
export function addressOf(
  parts: (of: (address: { readonly fingerprint: unknown; readonly key: unknown }) => unknown) => readonly unknown[],
): Address {
  return { fingerprint: contentKey(...parts((a) => a.fingerprint)), key: contentKey(...parts((a) => a.key)) };
}

/** Content key of anything made of JSON values: 96 bits from three hashes in the manner of FNV-1a (Fowler, Noll, Vo) of its canonical form. */
export const contentKey = (...parts: readonly unknown[]): string => hash(canonicalJson(parts));

function hash(text: string): string {
  let a = 0x811c9dc5;
  let b = 0x9747b28c;
  let c = 0x1b873593;
  for (let i = 0; i < text.length; i++) {
    const ch = text.charCodeAt(i);
    a = Math.imul(a ^ ch, 0x01000193);
    b = Math.imul(b ^ ch, 0x85ebca6b);
    b ^= b >>> 13;
    c = Math.imul(c + ch, 0xc2b2ae35) ^ (c >>> 15);
  }
  const word = (v: number): string => (v >>> 0).toString(36).padStart(7, '0');
  return word(a ^ (b >>> 16)) + word(b) + word(c ^ text.length);
}

/** Canonical forms of frozen values: a document's parts do not change, so each is spelt out once. */
const canonicalForms = new WeakMap<object, string>();
/** Forms longer than this are stood for by their hash. */
const LONG = 200;

/** JSON with keys in order; what JSON drops (undefined) is dropped, infinities are kept as words. */
function canonical(value: unknown): string {
  if (typeof value === 'number') return String(value);
  if (typeof value !== 'object' || value === null) return JSON.stringify(value) ?? 'null';
  const kept = canonicalForms.get(value);
  if (kept !== undefined) return kept;
  const text = canonicalJson(value);
  const short = text.length > LONG ? `#${hash(text)}` : text;
  if (Object.isFrozen(value)) canonicalForms.set(value, short);
  return short;
}

function canonicalJson(value: object): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`;
  const entries = Object.entries(value).filter(([, v]) => v !== undefined);
  entries.sort(([a], [b]) => (a < b ? -1 : 1));
  return `{${entries.map(([k, v]) => `${JSON.stringify(k)}:${canonical(v)}`).join(',')}}`;
}
