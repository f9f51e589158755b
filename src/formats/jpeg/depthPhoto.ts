import { OmbrageError } from '../../core/error';
import type { Plane } from '../../core/picture';
import { hasText, view } from '../bytes/bytes';
import { segmentsOf } from './exif';
import { encodeDepthPng } from '../png/png';
import { sha256 } from '../bytes/sha256';
import { directoryOf } from '../tiff/tiffTags';
import { XMP, XMP_MORE } from './xmpMarks';

/** The namespace of the XMP depth-map standard for photographs. */
const NAMESPACE = 'http://ns.google.com/photos/1.0/depthmap/';
/** Namespaces of a packet, and of the note by which it names its extended packet. */
const META = '\x61dobe:ns:meta/';
const NOTE = 'http://ns.\x61dobe.com/xmp/note/';

/** A depth map that lies in a photograph: a picture file of its own, and what its greys stand for. */
export interface EmbeddedDepth {
  readonly bytes: Uint8Array;
  /** where it was found */
  readonly channel: string;
  readonly ends: { readonly near: number; readonly far: number } | null;
  /** greys are linear in inverse distance, or in distance */
  readonly spacing: 'perspective' | 'even' | null;
}

/** Depth in the XMP of a JPEG: base64 of a picture, with its near and far distance and how greys run between them. Null where there is none. */
export async function xmpDepth(jpeg: Uint8Array): Promise<EmbeddedDepth | null> {
  // its reader is loaded where a photograph has a depth map
  const { xmpValues } = await import('./xmp');
  const found = xmpValues(jpeg);
  const data = found['GDepth:Data'];
  if (data === undefined) return null;
  let bytes: Uint8Array;
  try {
    bytes = Uint8Array.from(atob(data.replace(/\s+/g, '')), (c) => c.charCodeAt(0));
  } catch {
    throw new OmbrageError('damaged-file', 'The depth map in the photograph’s XMP cannot be read.', 'Choose the original photograph.');
  }
  const farthest = found['GDepth:Far'] === 'Infinity';
  const near = Number(found['GDepth:Near']);
  const far = Number(found['GDepth:Far']);
  const usable = near > 0 && (far > near || farthest);
  const format = found['GDepth:Format'] ?? '';
  return {
    bytes,
    channel: 'XMP depth map',
    ends: usable ? { near, far: farthest ? Infinity : far } : null,
    spacing: /inverse/i.test(format) ? 'perspective' : /linear/i.test(format) ? 'even' : null,
  };
}

/**
 * Further pictures that follow the first in a JPEG by the multi-picture standard (CIPA DC-007: an APP2 segment "MPF" with a TIFF
 * directory whose tag 0xB002 lists size and offset of each). Damaged lists give none.
 */
export function furtherPictures(jpeg: Uint8Array): Uint8Array[] {
  for (const { marker, from } of segmentsOf(jpeg)) if (marker === 0xe2 && hasText(jpeg, from, 'MPF\0')) return listed(jpeg, from + 4);
  return [];
}

const LIST = 0xb002;
/** Bytes for each picture of the list. */
const LISTED = 16;

function listed(jpeg: Uint8Array, base: number): Uint8Array[] {
  const found = directoryOf(jpeg, base);
  const list = found?.directory.place(LIST, 1);
  if (!found || !list) return [];
  const data = view(jpeg);
  const out: Uint8Array[] = [];
  for (let e = list.at; e + LISTED <= Math.min(list.at + list.bytes, jpeg.length); e += LISTED) {
    const size = data.getUint32(e + 4, found.little);
    const offset = data.getUint32(e + 8, found.little);
    // the first picture has offset 0
    const from = base + offset;
    if (offset > 0 && size > 4 && from + size <= jpeg.length && jpeg[from] === 0xff && jpeg[from + 1] === 0xd8)
      out.push(jpeg.subarray(from, from + size));
  }
  return out;
}

const segment = (body: Uint8Array): Uint8Array => {
  const out = new Uint8Array(body.length + 4);
  out.set([0xff, 0xe1, ((body.length + 2) >> 8) & 255, (body.length + 2) & 255]);
  out.set(body, 4);
  return out;
};
const join = (...parts: readonly Uint8Array[]): Uint8Array => {
  const out = new Uint8Array(parts.reduce((s, q) => s + q.length, 0));
  let p = 0;
  for (const part of parts) {
    out.set(part, p);
    p += part.length;
  }
  return out;
};
const utf8 = (text: string): Uint8Array => new TextEncoder().encode(text);

const packet = (attributes: Record<string, string>): string =>
  `<x:xmpmeta xmlns:x="${META}"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" xmlns:GDepth="${NAMESPACE}" xmlns:xmpNote="${NOTE}"${Object.entries(
    attributes,
  )
    .map(([k, v]) => ` ${k}="${v}"`)
    .join('')}/></rdf:RDF></x:xmpmeta>`;

/** Bytes of the extended packet that fit one segment beside its head. */
const PART = 65000;

function base64(bytes: Uint8Array): string {
  let s = '';
  for (let i = 0; i < bytes.length; i += 32768) s += String.fromCharCode(...bytes.subarray(i, i + 32768));
  return btoa(s);
}

/** A name for the extended packet: 32 hexadecimal digits that both packets carry. Readers only compare them. */
const digest = async (bytes: Uint8Array): Promise<string> => (await sha256(bytes)).slice(0, 32).toUpperCase();

/** Marks by which other programs find a packet. */
const OPENS = '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>';
const CLOSES = '<?xpacket end="w"?>';

/**
 * Puts a depth map (a PNG or JPEG file) into a JPEG by the XMP depth-map standard: its facts in the XMP packet, its bytes as
 * base64 in extended XMP. By the standard, greys run linearly in inverse distance from `near` (black) to `far` (white), metres.
 */
export async function embedDepth(
  jpeg: Uint8Array,
  map: Uint8Array,
  mime: 'image/png' | 'image/jpeg',
  ends: { near: number; far: number },
): Promise<Uint8Array> {
  if (jpeg[0] !== 0xff || jpeg[1] !== 0xd8) throw new OmbrageError('damaged-file', 'The picture to carry the depth is no JPEG.', 'Export it again.');
  const more = utf8(packet({ 'GDepth:Data': base64(map) }));
  const name = await digest(more);
  const first = packet({
    'GDepth:Format': 'RangeInverse',
    'GDepth:Near': String(ends.near),
    'GDepth:Far': String(ends.far),
    'GDepth:Units': 'm',
    'GDepth:MeasureType': 'OpticalAxis',
    'GDepth:Mime': mime,
    'xmpNote:HasExtendedXMP': name,
  });
  const segments = [segment(join(utf8(XMP), utf8(`${OPENS}${first}${CLOSES}`)))];
  const word = (v: number): Uint8Array => Uint8Array.from([v >>> 24, (v >> 16) & 255, (v >> 8) & 255, v & 255]);
  for (let at = 0; at < more.length; at += PART)
    segments.push(segment(join(utf8(XMP_MORE), utf8(name), word(more.length), word(at), more.subarray(at, at + PART))));
  // after the first segment where that is JFIF or EXIF, so that readers which expect it first still find it
  let p = 2;
  while (jpeg[p] === 0xff && (jpeg[p + 1] === 0xe0 || (jpeg[p + 1] === 0xe1 && hasText(jpeg, p + 4, 'Exif')))) p += 2 + view(jpeg).getUint16(p + 2);
  return join(jpeg.subarray(0, p), ...segments, jpeg.subarray(p));
}

/** Farthest end that is written: readers expect a number. */
const FARTHEST = 1e6;

/** A picture with its distances inside it. `distance` in metres (infinity allowed) at any size; `ends` are its nearest and farthest. */
export function jpegWithDepth(jpeg: Uint8Array, distance: Plane, ends: { near: number; far: number }): Promise<Uint8Array> {
  const far = Math.min(ends.far, FARTHEST);
  const span = 1 / ends.near - 1 / far;
  // greys of this standard run from 0 at the near end to 1 at the far end, linear in 1/distance
  const data = distance.data.map((z) => Math.min(1, Math.max(0, (1 / ends.near - 1 / z) / span)));
  return embedDepth(jpeg, encodeDepthPng({ ...distance, data }), 'image/png', { near: ends.near, far });
}
