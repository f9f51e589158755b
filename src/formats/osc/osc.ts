import { OmbrageError } from '../../core/error';

/** A message of OSC 1.0: its address, and its arguments that are numbers or truths (1 and 0); text and bytes are left out. */
export interface OscMessage {
  readonly address: string;
  readonly values: readonly number[];
}

/** A packet may hold so many messages, and bundles so deep in each other. */
const MOST_MESSAGES = 20_000;
const DEEPEST = 32;
const BUNDLE = '#bundle\0';

const bad = (what: string): OmbrageError =>
  new OmbrageError('bad-packet', `An OSC packet ${what}.`, 'It was left out; what sends it should be looked at.');

/** Reads a packet: a message, or bundles of them, whose times are not waited for (OSC 1.0, "OSC Packets"). Throws OmbrageError `bad-packet`. */
export function readOsc(bytes: Uint8Array): OscMessage[] {
  const found: OscMessage[] = [];
  const left: { readonly part: Uint8Array; readonly depth: number }[] = [{ part: bytes, depth: 0 }];
  // the last one put there is read first: parts of a bundle are put there from its end on
  for (let next = left.pop(); next; next = left.pop()) {
    const { part, depth } = next;
    if (part.length === 0 || part.length % 4 !== 0) throw bad('is cut short');
    if (part[0] !== BUNDLE.charCodeAt(0)) {
      if (found.length >= MOST_MESSAGES) throw bad(`holds more than ${MOST_MESSAGES} messages`);
      found.push(messageIn(part));
      continue;
    }
    if (depth >= DEEPEST) throw bad(`holds bundles more than ${DEEPEST} deep in each other`);
    left.push(
      ...partsOf(part)
        .map((inner) => ({ part: inner, depth: depth + 1 }))
        .reverse(),
    );
  }
  return found;
}

/** The elements of a bundle, behind its time. */
function partsOf(bundle: Uint8Array): Uint8Array[] {
  const view = viewOf(bundle);
  if (bundle.length < 16 || !BUNDLE.split('').every((c, i) => bundle[i] === c.charCodeAt(0))) throw bad('has a broken bundle');
  const parts: Uint8Array[] = [];
  for (let p = 16; p < bundle.length;) {
    if (p + 4 > bundle.length) throw bad('is cut short');
    const length = view.getUint32(p);
    p += 4;
    if (length === 0 || p + length > bundle.length) throw bad('has an element that is longer than it is');
    parts.push(bundle.subarray(p, p + length));
    p += length;
    if (parts.length > MOST_MESSAGES) throw bad(`holds more than ${MOST_MESSAGES} messages`);
  }
  return parts;
}

const viewOf = (bytes: Uint8Array): DataView => new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);

/** Text that ends with a zero, and where what follows it begins. */
function textAt(bytes: Uint8Array, from: number): { readonly text: string; readonly next: number } {
  const end = bytes.indexOf(0, from);
  if (end < 0) throw bad('has text without an end');
  return { text: String.fromCharCode(...bytes.subarray(from, Math.min(end, from + 1000))), next: (end + 4) & ~3 };
}

/** Bytes of an argument, by its type; those of text and bytes are told by themselves. */
const LENGTHS: Readonly<Record<string, number>> = { i: 4, f: 4, r: 4, m: 4, c: 4, h: 8, d: 8, t: 8, T: 0, F: 0, N: 0, I: 0, '[': 0, ']': 0 };

function messageIn(bytes: Uint8Array): OscMessage {
  const { text: address, next: types } = textAt(bytes, 0);
  if (!address.startsWith('/')) throw bad('has no address');
  const values: number[] = [];
  if (types >= bytes.length) return { address, values };
  const { text: tags, next } = textAt(bytes, types);
  if (!tags.startsWith(',')) throw bad('tells no types');
  const view = viewOf(bytes);
  let p = next;
  for (const tag of tags.slice(1)) {
    if (tag === 's' || tag === 'S') {
      p = textAt(bytes, p).next;
      continue;
    }
    if (tag === 'b') {
      if (p + 4 > bytes.length) throw bad('is cut short');
      p += 4 + ((view.getUint32(p) + 3) & ~3);
    } else {
      const length = LENGTHS[tag];
      if (length === undefined) throw bad(`has an argument of an unknown type "${tag}"`);
      if (p + length > bytes.length) throw bad('is cut short');
      const value = numberAt(view, p, tag);
      if (value !== null) values.push(value);
      p += length;
    }
    if (p > bytes.length || p < 0) throw bad('is cut short');
  }
  return { address, values };
}

/** The number of an argument; null where it is none. */
function numberAt(view: DataView, p: number, tag: string): number | null {
  switch (tag) {
    case 'i':
      return view.getInt32(p);
    case 'f':
      return view.getFloat32(p);
    case 'd':
      return view.getFloat64(p);
    case 'h':
      return Number(view.getBigInt64(p));
    case 'T':
    case 'I':
      return 1;
    case 'F':
      return 0;
    default:
      return null;
  }
}

const padded = (text: string): number[] => [...[...text].map((c) => c.charCodeAt(0) & 127), ...new Array<number>(4 - (text.length % 4)).fill(0)];

/** A message of floats. */
export function writeOsc(address: string, ...values: readonly number[]): Uint8Array<ArrayBuffer> {
  const head = [...padded(address), ...padded(`,${'f'.repeat(values.length)}`)];
  const bytes = new Uint8Array(head.length + 4 * values.length);
  bytes.set(head);
  const view = viewOf(bytes);
  for (const [k, value] of values.entries()) view.setFloat32(head.length + 4 * k, value);
  return bytes;
}

/** Messages as one bundle, at once. */
export function oscBundle(messages: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(16 + messages.reduce((sum, m) => sum + 4 + m.length, 0));
  bytes.set(padded('#bundle').slice(0, 8));
  const view = viewOf(bytes);
  // "immediately" (OSC 1.0, "OSC Time Tags")
  view.setUint32(12, 1);
  let p = 16;
  for (const message of messages) {
    view.setUint32(p, message.length);
    bytes.set(message, p + 4);
    p += 4 + message.length;
  }
  return bytes;
}

/** Channels by name: the address without its first stroke; of several numbers each has its own, counted from 1. What is no finite number is left out. */
export function channelsOf(messages: readonly OscMessage[]): Record<string, number> {
  const out: Record<string, number> = {};
  for (const { address, values } of messages)
    for (const [k, value] of values.entries())
      if (Number.isFinite(value)) out[values.length === 1 ? address.slice(1, 200) : `${address.slice(1, 190)}/${k + 1}`] = value;
  return out;
}
