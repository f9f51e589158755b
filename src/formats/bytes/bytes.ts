/** Whether `bytes` hold the given text at a place. */
export function hasText(bytes: Uint8Array, at: number, text: string): boolean {
  if (at < 0 || at + text.length > bytes.length) return false;
  for (let i = 0; i < text.length; i++) if (bytes[at + i] !== text.charCodeAt(i)) return false;
  return true;
}

/** Place of a text within the first `limit` bytes, or −1. */
export function findText(bytes: Uint8Array, text: string, limit = bytes.length, from = 0): number {
  const first = text.charCodeAt(0);
  const end = Math.min(limit, bytes.length) - text.length;
  for (let i = bytes.indexOf(first, from); i >= 0 && i <= end; i = bytes.indexOf(first, i + 1)) if (hasText(bytes, i, text)) return i;
  return -1;
}

export const view = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
