import { registryOf } from '../core/values/registry';
import { findText, hasText } from '../formats/bytes/bytes';

/** So many bytes tell what a file is. */
export const HEAD_BYTES = 65_536;

/** Brands of still pictures in the boxes that MP4 has too. */
const STILL_BRANDS = ['heic', 'heix', 'mif1', 'msf1', 'avif'];

/** Containers that are no clips here, by what their first bytes say. */
const isContainer = (head: Uint8Array): boolean => {
  if (hasText(head, 4, 'ftyp')) return !STILL_BRANDS.some((brand) => hasText(head, 8, brand));
  if (hasText(head, 4, 'moov') || hasText(head, 4, 'mdat') || hasText(head, 4, 'wide')) return true;
  if (head[0] === 0x1a && head[1] === 0x45 && head[2] === 0xdf && head[3] === 0xa3) return true;
  return hasText(head, 0, 'OggS') || (hasText(head, 0, 'RIFF') && hasText(head, 8, 'AVI '));
};

const isAnimation = (head: Uint8Array): boolean => {
  if (hasText(head, 0, 'GIF8') || hasText(head, 8, 'avis')) return true;
  if (hasText(head, 0, 'RIFF') && hasText(head, 8, 'WEBP')) return hasText(head, 12, 'VP8X') && ((head[20] ?? 0) & 2) !== 0;
  return head[0] === 0x89 && hasText(head, 1, 'PNG') && findText(head, 'acTL') >= 0;
};

/** How a clip may be stored: as an animated picture, in a container with an encoder's packets, or as pictures in a zip; told by its first bytes, in this order. */
const kinds = [
  { kind: 'animation', matches: isAnimation },
  { kind: 'container', matches: isContainer },
  { kind: 'pictures', matches: (head: Uint8Array) => hasText(head, 0, 'PK\u0003\u0004') },
] as const;

export type ClipKind = (typeof kinds)[number]['kind'];

export const clipKinds: readonly ClipKind[] = kinds.map((k) => k.kind);
export const clipKindRegistry = registryOf<{ readonly kind: ClipKind; matches(head: Uint8Array): boolean }>('sort of clip', kinds);

/** What sort of clip a file is by its first bytes; null where it is a still, or nothing known. */
export const clipKind = (head: Uint8Array): ClipKind | null => clipKindRegistry.all.find(({ matches }) => matches(head))?.kind ?? null;

/** Media type of an animated picture, for its decoder. */
export function animationType(head: Uint8Array): string {
  if (hasText(head, 0, 'GIF8')) return 'image/gif';
  if (hasText(head, 8, 'avis')) return 'image/avif';
  return hasText(head, 0, 'RIFF') ? 'image/webp' : 'image/png';
}
