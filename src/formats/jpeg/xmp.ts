import { XMLParser } from 'fast-xml-parser';
import { hasText, view } from '../bytes/bytes';
import { segmentsOf } from './exif';
import { XMP, XMP_MORE } from './xmpMarks';

/** Digits that name an extended packet. */
const NAME = 32;
/** Largest extended packet that is put together. */
const LARGEST = 512e6;

/** The packets of a JPEG: the first, and the extended one put together from its parts. */
function packetsOf(jpeg: Uint8Array): string[] {
  const packets: string[] = [];
  let extended: Uint8Array | null = null;
  const text = new TextDecoder();
  for (const { marker, from, to } of segmentsOf(jpeg)) {
    if (marker !== 0xe1) continue;
    if (hasText(jpeg, from, XMP)) packets.push(text.decode(jpeg.subarray(from + XMP.length, to)));
    const head = from + XMP_MORE.length + NAME;
    if (!hasText(jpeg, from, XMP_MORE) || head + 8 > to) continue;
    const total = view(jpeg).getUint32(head);
    const at = view(jpeg).getUint32(head + 4);
    if (total > LARGEST || total > jpeg.length) continue;
    extended ??= new Uint8Array(total);
    const part = jpeg.subarray(head + 8, to);
    if (at + part.length <= extended.length) extended.set(part, at);
  }
  return extended ? [...packets, text.decode(extended)] : packets;
}

type Node = Record<string, unknown>;
const isNode = (v: unknown): v is Node => typeof v === 'object' && v !== null;

/** Values of every description in a packet, whether written as attributes or as elements. */
function valuesIn(node: Node, out: Record<string, string>): void {
  for (const [key, value] of Object.entries(node)) {
    if (Array.isArray(value)) value.filter(isNode).forEach((v) => valuesIn(v, out));
    else if (isNode(value)) valuesIn(value, out);
    else if (typeof value === 'string' && key.includes(':') && !key.startsWith('xmlns')) out[key] ??= value;
  }
}

/**
 * What the metadata packets of a JPEG say, by prefixed name ("GDepth:Near"), the extended packet included. Packets that cannot be read count
 * as not there.
 */
export function xmpValues(jpeg: Uint8Array): Record<string, string> {
  const parser = new XMLParser({
    ignoreAttributes: false,
    attributeNamePrefix: '',
    parseTagValue: false,
    parseAttributeValue: false,
    processEntities: false,
  });
  const out: Record<string, string> = {};
  for (const packet of packetsOf(jpeg))
    try {
      valuesIn(parser.parse(packet) as Node, out);
    } catch {
      // one broken packet does not hide the other
    }
  return out;
}
