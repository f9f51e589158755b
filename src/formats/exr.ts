import { zlibSync } from 'fflate';
import { OmbrageError } from '../core/error';
import { newPlane, type Plane } from '../core/raster/picture';
import { view } from './bytes';
import { defineFormat } from './definition';
import { inflatedSize } from './inflate';
import { checkFull, checkMapSize } from './mapFacts';

interface Channel {
  readonly name: string;
  /** 0 whole numbers, 1 half, 2 float */
  readonly type: number;
  /** where its entry lies in the file */
  readonly from: number;
  readonly to: number;
}

interface Header {
  readonly width: number;
  readonly height: number;
  readonly channels: readonly Channel[];
  readonly tiled: boolean;
  readonly compression: number;
  /** rows of the first chunk begin here */
  readonly top: number;
  /** px of a tile; null for scan lines */
  readonly tile: { readonly x: number; readonly y: number } | null;
  /** entries of the table of offsets, and where it begins */
  readonly chunks: number;
  readonly table: number;
  /** where the channel list's length is written, and where the list begins and ends */
  readonly listSize: number;
  readonly listFrom: number;
  readonly listTo: number;
}

const damaged = (why: string): OmbrageError => new OmbrageError('damaged-file', `The EXR ${why}.`, 'Choose an undamaged copy.');

/** Rows that are compressed together, by the number of the compression. */
const ROWS_TOGETHER = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256];

/** Reads the header of a single-part file (OpenEXR file layout). Throws `damaged-file` or `unsupported-file`. */
function readHeader(bytes: Uint8Array): Header {
  const data = view(bytes);
  if (bytes.length < 16) throw damaged('ends within its header');
  const version = data.getUint32(4, true);
  if (version & 0x1800)
    throw new OmbrageError(
      'unsupported-file',
      'The EXR has several parts or deep pixels.',
      'Save the depth as a file of its own, in scan lines or tiles.',
    );
  let p = 8;
  const text = (): string => {
    let s = '';
    while (p < bytes.length && bytes[p] !== 0) {
      s += String.fromCharCode(bytes[p++]!);
      if (s.length > 255) throw damaged('has a broken header');
    }
    p++;
    if (p > bytes.length) throw damaged('ends within its header');
    return s;
  };
  const channels: Channel[] = [];
  let [width, height, compression, listSize, listFrom, listTo, top] = [0, 0, 0, 0, 0, 0, 0];
  let tile: { x: number; y: number; mode: number } | null = null;
  for (;;) {
    const name = text();
    if (name === '') break;
    text();
    if (p + 4 > bytes.length) throw damaged('ends within its header');
    const sizeAt = p;
    const size = data.getInt32(p, true);
    p += 4;
    if (size < 0 || p + size > bytes.length) throw damaged('has a broken header');
    const end = p + size;
    if (name === 'channels') {
      [listSize, listFrom, listTo] = [sizeAt, p, end];
      while (p < end && bytes[p] !== 0) {
        const from = p;
        const channel = text();
        if (p + 16 > end) throw damaged('has a broken list of channels');
        if (data.getInt32(p + 8, true) !== 1 || data.getInt32(p + 12, true) !== 1)
          throw new OmbrageError('unsupported-file', 'The EXR stores some channels at a lower resolution.', 'Save it without subsampled channels.');
        channels.push({ name: channel, type: data.getInt32(p, true), from, to: p + 16 });
        p += 16;
      }
    } else if (name === 'dataWindow' && size >= 16) {
      width = data.getInt32(p + 8, true) - data.getInt32(p, true) + 1;
      top = data.getInt32(p + 4, true);
      height = data.getInt32(p + 12, true) - top + 1;
    } else if (name === 'compression' && size >= 1) compression = bytes[p]!;
    else if (name === 'tiles' && size >= 9) tile = { x: data.getUint32(p, true), y: data.getUint32(p + 4, true), mode: bytes[p + 8]! & 15 };
    p = end;
  }
  checkMapSize(width, height, 'The EXR');
  if (channels.length === 0) throw damaged('lists no channels');
  if (compression >= ROWS_TOGETHER.length) throw damaged('is compressed in a way that is not known');
  const tiled = (version & 0x200) !== 0;
  if (tiled && !(tile && tile.x > 0 && tile.y > 0)) throw damaged('has no usable tiles');
  let chunks = Math.ceil(height / ROWS_TOGETHER[compression]!);
  if (tiled && tile) {
    chunks = Math.ceil(width / tile.x) * Math.ceil(height / tile.y);
    if (tile.mode !== 0) throw new OmbrageError('unsupported-file', 'The EXR holds several resolutions.', 'Save it at one resolution.');
  }
  if (p + chunks * 8 > bytes.length) throw damaged('ends within its table of rows');
  checkFull(width * height * channels.length * 2, bytes.length, 'The EXR');
  return { width, height, channels, tiled, compression, top, tile: tiled ? tile : null, chunks, table: p, listSize, listFrom, listTo };
}

export const exr = defineFormat({
  kind: 'exr',
  label: 'OpenEXR',
  extensions: ['exr'],
  mime: 'image/x-exr',
  decodedBy: 'own',
  use: 'depth in (half or float; Z or any channel) and out',
  matches: (bytes) => bytes[0] === 0x76 && bytes[1] === 0x2f && bytes[2] === 0x31 && bytes[3] === 0x01,
  describe: (bytes) => {
    const { channels } = readHeader(bytes);
    return { bits: channels.some((c) => c.type !== 1) ? 32 : 16, colour: channels.map((c) => c.name).join(', '), animated: false };
  },
  size: readHeader,
});

/** Names that depth is usually given, the likeliest first. */
const DEPTH_NAMES = [/^z$/i, /^depth(\.[a-z])?$/i, /(^|\.)z$/i, /depth/i, /^y$/i, /distance/i, /^r$/i];

/** The channel that most likely holds depth. */
export function likelyChannel(names: readonly string[]): string {
  for (const pattern of DEPTH_NAMES) {
    const found = names.find((n) => pattern.test(n));
    if (found) return found;
  }
  return names[0]!;
}

/**
 * Renames a channel to the one that the decoder reads as grey and every other out of its way. Names have different lengths, so
 * the header is rebuilt and the table of offsets moved with it.
 */
function asGrey(bytes: Uint8Array, header: Header, channel: string): Uint8Array {
  const entries = header.channels.map((c, i) => {
    const name = new TextEncoder().encode(c.name === channel ? 'Y' : `n${i}`);
    const entry = new Uint8Array(name.length + 17);
    entry.set(name);
    entry.set(bytes.subarray(c.to - 16, c.to), name.length + 1);
    return entry;
  });
  const listLength = entries.reduce((s, e) => s + e.length, 1);
  const shift = listLength - (header.listTo - header.listFrom);
  const out = new Uint8Array(bytes.length + shift);
  out.set(bytes.subarray(0, header.listFrom));
  view(out).setInt32(header.listSize, listLength, true);
  let p = header.listFrom;
  for (const entry of entries) {
    out.set(entry, p);
    p += entry.length;
  }
  out.set(bytes.subarray(header.listTo), p + 1);
  const data = view(out);
  for (let i = 0; i < header.chunks; i++) {
    const at = header.table + shift + i * 8;
    data.setBigUint64(at, data.getBigUint64(at, true) + BigInt(shift), true);
  }
  return out;
}

const NONE = 0;
const RLE = 1;
const PXR24 = 5;
const B44 = 6;

/**
 * Checks every chunk of pixels against what the header says of it: its place, how it is compressed, and that it unpacks to exactly its
 * rows (OpenEXR file layout). A header that names another compression than was used would else be decoded to something. Throws `damaged-file`.
 */
async function checkChunks(bytes: Uint8Array, header: Header): Promise<void> {
  const { width, height, channels, tile, compression, top, chunks, table } = header;
  const data = view(bytes);
  const perPixel = channels.reduce((sum, c) => sum + (c.type === 1 ? 2 : 4), 0);
  // PXR24 keeps three bytes of a float
  const pxrPixel = channels.reduce((sum, c) => sum + (c.type === 1 ? 2 : c.type === 2 ? 3 : 4), 0);
  const across = tile ? Math.ceil(width / tile.x) : 1;
  const seen = new Set<string>();
  for (let i = 0; i < chunks; i++) {
    const at = Number(data.getBigUint64(table + i * 8, true));
    const head = tile ? 20 : 8;
    if (at < table + chunks * 8 || at + head > bytes.length) throw damaged('has a broken table of rows');
    const size = data.getInt32(at + head - 4, true);
    if (size < 0 || at + head + size > bytes.length) throw damaged('is not whole');
    let [w, h] = [width, 0];
    if (tile) {
      const [x, y] = [data.getInt32(at, true), data.getInt32(at + 4, true)];
      if (x < 0 || y < 0 || x >= across || y * tile.y >= height) throw damaged('has a tile that lies outside it');
      seen.add(`${x},${y}`);
      w = Math.min(tile.x, width - x * tile.x);
      h = Math.min(tile.y, height - y * tile.y);
    } else {
      const y = data.getInt32(at, true) - top;
      if (y < 0 || y >= height || y % ROWS_TOGETHER[compression]! !== 0) throw damaged('has rows that lie outside it');
      seen.add(String(y));
      h = Math.min(ROWS_TOGETHER[compression]!, height - y);
    }
    await checkChunk(bytes.subarray(at + head, at + head + size), compression, w * h * perPixel, w * h * pxrPixel, { w, h, channels });
  }
  if (seen.size !== chunks) throw damaged('has rows twice');
}

const otherwise = (): OmbrageError => damaged('is not compressed as its header says');

async function checkChunk(
  packed: Uint8Array,
  compression: number,
  raw: number,
  pxr: number,
  { w, h, channels }: { w: number; h: number; channels: readonly Channel[] },
): Promise<void> {
  if (compression === NONE) {
    if (packed.length !== raw) throw otherwise();
    return;
  }
  if (packed.length > raw) throw otherwise();
  // what does not get smaller is stored as it is
  if (packed.length === raw) return;
  if (compression === RLE) {
    let size = 0;
    for (let p = 0; p < packed.length;) {
      const n = (packed[p]! << 24) >> 24;
      size += n < 0 ? -n : n + 1;
      p += n < 0 ? 1 - n : 2;
      if (p > packed.length) throw otherwise();
    }
    if (size !== raw) throw otherwise();
  } else if (compression === 2 || compression === 3 || compression === PXR24) {
    const whole = compression === PXR24 ? pxr : raw;
    const size = await inflatedSize([packed], whole).catch(() => -1);
    if (size !== whole) throw otherwise();
  } else if (compression === 4) {
    const [least, most] = [packed[0]! | (packed[1]! << 8), packed[2]! | (packed[3]! << 8)];
    const bitmap = least <= most ? most - least + 1 : 0;
    const at = 4 + bitmap;
    if (most > 8191 || at + 4 > packed.length) throw otherwise();
    const length = view(packed).getInt32(at, true);
    if (length < 0 || at + 4 + length > packed.length) throw otherwise();
  } else if (compression === B44 || compression === B44 + 1) {
    const blocks = Math.ceil(w / 4) * Math.ceil(h / 4);
    const others = channels.reduce((sum, c) => sum + (c.type === 1 ? 0 : w * h * 4), 0);
    const halves = channels.filter((c) => c.type === 1).length;
    if (packed.length > others + halves * blocks * 14 || packed.length < others + halves * blocks * 3) throw otherwise();
    if (compression === B44 && packed.length !== others + halves * blocks * 14) throw otherwise();
  } else {
    // DWA: eleven 64-bit numbers first, of which the second is the size of what is not predicted
    if (packed.length < 88) throw otherwise();
    const words = Array.from({ length: 11 }, (_, k) => Number(view(packed).getBigUint64(k * 8, true)));
    const [version, , unknown, acSize, dcSize, rleSize] = words as [number, number, number, number, number, number, ...number[]];
    if (version > 2 || 88 + unknown + acSize + dcSize + rleSize > packed.length + 2) throw otherwise();
  }
}

/** One channel of an OpenEXR file as it is stored. Throws OmbrageError. */
export async function decodeExr(
  bytes: Uint8Array,
  wanted: string | null,
): Promise<{ plane: Plane; channel: string; channels: string[]; bits: number }> {
  const header = readHeader(bytes);
  const names = header.channels.map((c) => c.name);
  const channel = wanted !== null && names.includes(wanted) ? wanted : likelyChannel(names);
  const { type } = header.channels.find((c) => c.name === channel)!;
  if (type !== 1 && type !== 2)
    throw new OmbrageError('unsupported-file', `The channel ${channel} of the EXR holds whole numbers.`, 'Save depth as half or float.');
  await checkChunks(bytes, header);
  const { EXRLoader } = await import('three/examples/jsm/loaders/EXRLoader.js');
  const { FloatType, RedFormat } = await import('three');
  let data: Float32Array;
  try {
    const loader = new EXRLoader();
    loader.setDataType(FloatType);
    (loader as unknown as { outputFormat: number }).outputFormat = RedFormat;
    data = loader.parse(asGrey(bytes, header, channel).buffer as ArrayBuffer).data as unknown as Float32Array;
  } catch {
    throw damaged('cannot be decoded');
  }
  const { width, height } = header;
  if (data.length < width * height) throw damaged('is not whole');
  const plane = newPlane(width, height);
  // the decoder gives rows from the bottom
  for (let y = 0; y < height; y++) plane.data.set(data.subarray((height - 1 - y) * width, (height - y) * width), y * width);
  return { plane, channel, channels: names, bits: type === 1 ? 16 : 32 };
}

const ROWS = 16;

/** Writes float channels of one size in scan lines compressed with zlib; a plane alone becomes the channel Z. */
export function encodeExr(content: Plane | Readonly<Record<string, Plane>>): Uint8Array {
  const planes: Readonly<Record<string, Plane>> =
    content.data instanceof Float32Array ? { Z: content as Plane } : (content as Readonly<Record<string, Plane>>);
  const names = Object.keys(planes).sort();
  const { width, height } = planes[names[0]!]!;
  const head: number[] = [0x76, 0x2f, 0x31, 0x01, 2, 0, 0, 0];
  const text = (s: string): void => void head.push(...new TextEncoder().encode(s), 0);
  const int = (...values: number[]): void => {
    for (const v of values) head.push(v & 255, (v >> 8) & 255, (v >> 16) & 255, (v >> 24) & 255);
  };
  const floats = (...values: number[]): void => void head.push(...new Uint8Array(Float32Array.from(values).buffer));
  const attribute = (name: string, type: string, size: number): void => {
    text(name);
    text(type);
    int(size);
  };
  attribute(
    'channels',
    'chlist',
    names.reduce((s, n) => s + n.length + 17, 1),
  );
  for (const name of names) {
    text(name);
    int(2, 0, 1, 1);
  }
  head.push(0);
  attribute('compression', 'compression', 1);
  head.push(3);
  for (const window of ['dataWindow', 'displayWindow']) {
    attribute(window, 'box2i', 16);
    int(0, 0, width - 1, height - 1);
  }
  attribute('lineOrder', 'lineOrder', 1);
  head.push(0);
  attribute('pixelAspectRatio', 'float', 4);
  floats(1);
  attribute('screenWindowCenter', 'v2f', 8);
  floats(0, 0);
  attribute('screenWindowWidth', 'float', 4);
  floats(1);
  head.push(0);
  const blocks: Uint8Array[] = [];
  for (let y = 0; y < height; y += ROWS) {
    const rows = Math.min(ROWS, height - y);
    const floatsOf = new Float32Array(rows * names.length * width);
    for (let r = 0; r < rows; r++)
      names.forEach((name, k) => floatsOf.set(planes[name]!.data.subarray((y + r) * width, (y + r + 1) * width), (r * names.length + k) * width));
    const raw = new Uint8Array(floatsOf.buffer);
    const packed = zlibSync(predict(raw), { level: 6 });
    blocks.push(packed.length < raw.length ? packed : raw);
  }
  const start = head.length + blocks.length * 8;
  const out = new Uint8Array(start + blocks.reduce((s, b) => s + b.length + 8, 0));
  out.set(head);
  const words = view(out);
  let p = start;
  blocks.forEach((block, i) => {
    words.setBigUint64(head.length + i * 8, BigInt(p), true);
    words.setInt32(p, i * ROWS, true);
    words.setInt32(p + 4, block.length, true);
    out.set(block, p + 8);
    p += block.length + 8;
  });
  return out;
}

/** Bytes of even places first, then those of odd ones, each as its difference from the one before (OpenEXR's zip predictor). */
function predict(raw: Uint8Array): Uint8Array {
  const out = new Uint8Array(raw.length);
  const half = (raw.length + 1) >> 1;
  for (let i = 0; i < raw.length; i++) out[i & 1 ? half + (i >> 1) : i >> 1] = raw[i]!;
  let before = out[0]!;
  for (let i = 1; i < out.length; i++) {
    const now = out[i]!;
    out[i] = (now - before + 384) & 255;
    before = now;
  }
  return out;
}
