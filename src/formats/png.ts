import { decode, encode, type DecodedPng } from 'fast-png';
import { OmbrageError } from '../core/error';
import { encodePicture8, encodePicture16 } from '../core/raster/colour';
import type { Picture, Plane, Raster } from '../core/raster/picture';
import { findText, hasText } from './bytes';
import { defineFormat } from './definition';

const COLOURS: Record<number, string> = { 0: 'grey', 2: 'RGB', 3: 'indexed', 4: 'grey and alpha', 6: 'RGB and alpha' };

export const png = defineFormat({
  kind: 'png',
  label: 'PNG',
  extensions: ['png'],
  mime: 'image/png',
  decodedBy: 'platform',
  use: 'plates and maps, 8 and 16 bit; pictures and depth out',
  matches: (bytes) => bytes[0] === 0x89 && hasText(bytes, 1, 'PNG\r\n'),
  describe: (bytes) => {
    if (bytes.length < 33 || !hasText(bytes, 12, 'IHDR'))
      throw new OmbrageError('damaged-file', 'The PNG ends before its header.', 'Choose an undamaged copy.');
    const data = findText(bytes, 'IDAT');
    return { bits: bytes[24]!, colour: COLOURS[bytes[25]!] ?? 'unknown', animated: findText(bytes, 'acTL', data < 0 ? bytes.length : data) > 0 };
  },
});

/** Decodes a PNG without losing bits, straight alpha. Throws OmbrageError `damaged-file`. */
export function decodePng(bytes: Uint8Array): Raster {
  let image: DecodedPng;
  try {
    image = decode(bytes);
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

/** sRGB PNG of a linear picture; alpha is kept only where there is some. */
export function encodePng(picture: Picture, bits: 8 | 16): Uint8Array {
  const { width, height } = picture;
  const channels = opaque(picture) ? 3 : 4;
  if (bits === 16) return encode({ width, height, channels, depth: 16, data: encodePicture16(picture, channels) });
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
