/** Content key of anything made of JSON values: 106 bits from two FNV-style hashes of its canonical form. */
export function contentKey(...parts: readonly unknown[]): string {
  const text = canonical(parts);
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

/** JSON with keys in order; what JSON drops (undefined) is dropped, infinities are kept as words. */
function canonical(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(canonical).join(',')}]`;
  if (typeof value === 'object' && value !== null) {
    const entries = Object.entries(value).filter(([, v]) => v !== undefined);
    entries.sort(([a], [b]) => (a < b ? -1 : 1));
    return `{${entries.map(([k, v]) => `${JSON.stringify(k)}:${canonical(v)}`).join(',')}}`;
  }
  if (typeof value === 'number') return String(value);
  return JSON.stringify(value) ?? 'null';
}
