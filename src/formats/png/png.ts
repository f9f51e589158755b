import { decode, encode, type DecodedPng } from 'fast-png';
import { OmbrageError } from '../../core/error';
import { encodePicture8, encodePicture16 } from '../../core/raster/colour';
import type { Picture, Plane, Raster } from '../../core/picture';
import { findText, hasText, view } from '../bytes/bytes';
import { defineFormat } from '../definition';
import { readProfile, toSrgb16 } from '../icc/icc';
import { inflatedSize, inflateUpTo, TooMuch } from '../bytes/inflate';

const COLOURS: Record<number, string> = { 0: 'grey', 2: 'RGB', 3: 'indexed', 4: 'grey and alpha', 6: 'RGB and alpha' };

export const png = defineFormat({
  kind: 'png',
  label: 'PNG',
  extensions: ['png'],
  mime: 'image/png',
  decodedBy: 'platform',
  use: 'plates and maps, 8 and 16 bit; pictures and depth out',
  // the platform would throw the lower half of the bits away, and colours where alpha is small: it may be depth
  readPicture: (bytes, { bits }, use) => (bits === 16 || hasPlainAlpha(bytes) ? readPng(bytes, use) : null),
  writePicture: (picture, { bits, encoders }) => (bits === 16 && encoders.png16 ? encoders.png16(picture) : encodePng(picture, bits)),
  matches: (bytes) => bytes[0] === 0x89 && hasText(bytes, 1, 'PNG\r\n'),
  describe: (bytes) => {
    if (bytes.length < 33 || !hasText(bytes, 12, 'IHDR'))
      throw new OmbrageError('damaged-file', 'The PNG ends before its header.', 'Choose an undamaged copy.');
    const data = findText(bytes, 'IDAT');
    return { bits: bytes[24]!, colour: COLOURS[bytes[25]!] ?? 'unknown', animated: findText(bytes, 'acTL', data < 0 ? bytes.length : data) > 0 };
  },
});

const WITH_ALPHA = [4, 6];

/** Whether a PNG has eight bits of alpha, and colours that need not be turned to sRGB. */
function hasPlainAlpha(bytes: Uint8Array): boolean {
  if (bytes[24] !== 8 || !WITH_ALPHA.includes(bytes[25]!)) return false;
  const data = findText(bytes, 'IDAT');
  return findText(bytes, 'iCCP', data < 0 ? bytes.length : data) < 0;
}

const damaged = (why: string): OmbrageError => new OmbrageError('damaged-file', `The PNG ${why}.`, 'Choose an undamaged copy.');

/** Longest colour profile, bytes. */
const PROFILE_BYTES = 8e6;
/** Bytes of pixels beyond those that the header tells of: some writers leave a little. */
const SLACK = 65536;
const CHANNELS: Record<number, number> = { 0: 1, 2: 3, 3: 1, 4: 2, 6: 4 };
/** Adam7: where each pass begins and how far apart its pixels lie, px (PNG, 8.2). */
const PASSES = [
  [0, 0, 8, 8],
  [4, 0, 8, 8],
  [0, 4, 4, 8],
  [2, 0, 4, 4],
  [0, 2, 2, 4],
  [1, 0, 2, 2],
  [0, 1, 1, 2],
] as const;

interface Parts {
  /** the file without what is not needed for its pixels */
  readonly plain: Uint8Array;
  readonly pixels: readonly Uint8Array[];
  /** bytes that the pixels unpack to */
  readonly expected: number;
  /** the colour profile, compressed */
  readonly profile: Uint8Array | null;
}

/** Takes a PNG apart: what its pixels need, and its colour profile (PNG, 5 and 11). Nothing is unpacked. */
function partsOf(bytes: Uint8Array): Parts {
  const data = view(bytes);
  const kept: Uint8Array[] = [bytes.subarray(0, 8)];
  const pixels: Uint8Array[] = [];
  let profile: Uint8Array | null = null;
  let expected = -1;
  for (let p = 8; ;) {
    if (p + 12 > bytes.length) throw damaged('is cut short');
    const length = data.getUint32(p);
    const end = p + 12 + length;
    if (end > bytes.length) throw damaged('is cut short');
    const type = String.fromCharCode(...bytes.subarray(p + 4, p + 8));
    const body = bytes.subarray(p + 8, p + 8 + length);
    if (type === 'IHDR') {
      if (length !== 13) throw damaged('has a broken header');
      expected = rawBytes(data.getUint32(p + 8), data.getUint32(p + 12), body[8]! * (CHANNELS[body[9]!] ?? 0), body[12] === 1);
    } else if (type === 'IDAT') pixels.push(body);
    else if (type === 'iCCP') profile = body.subarray(body.indexOf(0) + 2);
    if (['IHDR', 'PLTE', 'tRNS', 'IDAT', 'IEND'].includes(type)) kept.push(bytes.subarray(p, end));
    if (type === 'IEND') break;
    p = end;
  }
  if (expected < 1) throw damaged('has no usable header');
  const plain = new Uint8Array(kept.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of kept) {
    plain.set(part, at);
    at += part.length;
  }
  return { plain, pixels, expected, profile };
}

function rawBytes(width: number, height: number, bits: number, interlaced: boolean): number {
  const rows = (w: number, h: number): number => (w > 0 && h > 0 ? (1 + Math.ceil((w * bits) / 8)) * h : 0);
  if (!interlaced) return rows(width, height);
  return PASSES.reduce((sum, [x, y, dx, dy]) => sum + rows(Math.ceil((width - x) / dx), Math.ceil((height - y) / dy)), 0);
}

/**
 * Decodes a PNG that may be anything, without losing bits, straight alpha. What unpacks to more than its header tells of is refused before
 * room is made for it, and every part is checked against its sum. A plate's colours are turned from their profile to sRGB; a map's
 * greys are left as they are stored. Throws OmbrageError `damaged-file`.
 */
export async function readPng(bytes: Uint8Array, use: 'plate' | 'map'): Promise<Raster> {
  const parts = partsOf(bytes);
  let size: number;
  try {
    size = await inflatedSize(parts.pixels, parts.expected + SLACK);
  } catch (error) {
    throw damaged(error instanceof TooMuch ? 'holds far more than the size it gives' : 'has damaged pixels');
  }
  if (size < parts.expected) throw damaged('is not whole');
  const raster = decodePng(parts.plain);
  if (use === 'plate' && parts.profile && raster.data instanceof Uint16Array) {
    const profile = await inflateUpTo([parts.profile], PROFILE_BYTES)
      .then(readProfile)
      .catch(() => null);
    if (profile) toSrgb16(raster.data, raster.channels, profile);
  }
  return raster;
}

/** Decodes a PNG of our own, or one that was looked through, without losing bits, straight alpha. Throws OmbrageError `damaged-file`. */
export function decodePng(bytes: Uint8Array): Raster {
  let image: DecodedPng;
  try {
    image = decode(bytes, { checkCrc: true });
  } catch (error) {
    throw new OmbrageError(
      'damaged-file',
      `The PNG cannot be decoded (${error instanceof Error ? error.message : 'unknown'}).`,
      'Choose an undamaged copy.',
    );
  }
  const { width, height, depth } = image;
  const n = width * height;
  if (image.palette) {
    const data = new Uint8Array(n * 4);
    for (let i = 0; i < n; i++) {
      const entry = image.palette[sampleBits(image, i)] ?? [0, 0, 0];
      for (let k = 0; k < 4; k++) data[i * 4 + k] = entry[k] ?? 255;
    }
    return { width, height, channels: 4, data };
  }
  if (depth < 8) {
    const top = 2 ** depth - 1;
    return { width, height, channels: 1, data: Uint8Array.from({ length: n }, (_, i) => Math.round((255 * sampleBits(image, i)) / top)) };
  }
  return { width, height, channels: image.channels as Raster['channels'], data: image.data };
}

/** Sample i of a one-channel picture of fewer than 8 bits; rows start on whole bytes. */
function sampleBits({ width, depth, data }: DecodedPng, i: number): number {
  if (depth === 8) return data[i]!;
  const perByte = 8 / depth;
  const x = i % width;
  const byte = data[Math.floor(i / width) * Math.ceil(width / perByte) + Math.floor(x / perByte)]!;
  return (byte >> (8 - depth * ((x % perByte) + 1))) & (2 ** depth - 1);
}

const opaque = (picture: Picture): boolean => {
  for (let i = 3; i < picture.data.length; i += 4) if (picture.data[i]! < 0.9995) return false;
  return true;
};

/** The 16-bit sRGB samples of a linear picture; alpha is kept only where there is some. */
export function samples16(picture: Picture): {
  readonly width: number;
  readonly height: number;
  readonly channels: 3 | 4;
  readonly data: Uint16Array;
} {
  const { width, height } = picture;
  const channels = opaque(picture) ? 3 : 4;
  return { width, height, channels, data: encodePicture16(picture, channels) };
}

/** sRGB PNG of a linear picture; alpha is kept only where there is some. */
export function encodePng(picture: Picture, bits: 8 | 16): Uint8Array {
  if (bits === 16) return encode({ ...samples16(picture), depth: 16 });
  const { width, height } = picture;
  const channels = opaque(picture) ? 3 : 4;
  const rgba = new Uint8ClampedArray(width * height * 4);
  encodePicture8(picture, rgba);
  if (channels === 4) return encode({ width, height, channels, depth: 8, data: rgba });
  const data = new Uint8Array(width * height * 3);
  for (let i = 0, o = 0; o < data.length; i += 4) {
    data[o++] = rgba[i]!;
    data[o++] = rgba[i + 1]!;
    data[o++] = rgba[i + 2]!;
  }
  return encode({ width, height, channels, depth: 8, data });
}

/** 16-bit grey PNG of a plane whose values 0..1 are stored as they are. */
export const encodeDepthPng = ({ width, height, data }: Plane): Uint8Array =>
  encode({ width, height, channels: 1, depth: 16, data: Uint16Array.from(data, (v) => Math.round(65535 * Math.min(1, Math.max(0, v)))) });
