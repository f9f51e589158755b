import { view } from '../bytes/bytes';

/** One directory of a TIFF structure (TIFF 6.0, sec. 2), on which EXIF and the multi-picture standard build too. */
export interface Directory {
  /** first value of a tag that holds whole numbers of 16 or 32 bits; null where it is not there */
  number(tag: number): number | null;
  /** place of a tag's values within the bytes, and how many bytes they take */
  place(tag: number, size: number): { readonly at: number; readonly bytes: number } | null;
}

const ENTRY = 12;
const SHORT = 3;

/**
 * A directory at `offset` of the structure that begins at `base`; without an offset the first one. Null where the bytes end within it or do
 * not begin like a TIFF. Places that lie beyond the bytes count as not there.
 */
export function directoryOf(bytes: Uint8Array, base = 0, offset?: number): { readonly directory: Directory; readonly little: boolean } | null {
  const data = view(bytes);
  if (base + 8 > bytes.length) return null;
  const little = bytes[base] === 0x49;
  if (bytes[base] !== bytes[base + 1] || (!little && bytes[base] !== 0x4d)) return null;
  const at = base + (offset ?? data.getUint32(base + 4, little));
  if (at + 2 > bytes.length) return null;
  const count = data.getUint16(at, little);
  if (at + 2 + count * ENTRY > bytes.length) return null;
  const entry = (tag: number): number | null => {
    for (let p = at + 2; p < at + 2 + count * ENTRY; p += ENTRY) if (data.getUint16(p, little) === tag) return p;
    return null;
  };
  const place = (tag: number, size: number): { at: number; bytes: number } | null => {
    const p = entry(tag);
    if (p === null) return null;
    const length = data.getUint32(p + 4, little) * size;
    const from = length > 4 ? base + data.getUint32(p + 8, little) : p + 8;
    return from + size > bytes.length ? null : { at: from, bytes: length };
  };
  const number = (tag: number): number | null => {
    const p = entry(tag);
    if (p === null) return null;
    const short = data.getUint16(p + 2, little) === SHORT;
    const found = place(tag, short ? 2 : 4);
    if (!found) return null;
    return short ? data.getUint16(found.at, little) : data.getUint32(found.at, little);
  };
  return { directory: { number, place }, little };
}
