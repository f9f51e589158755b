import { OmbrageError } from '../../core/error';
import { newPicture, newPlane, type Picture, type Plane } from '../../core/picture';
import { hasText, view } from '../bytes/bytes';
import { defineFormat, type FloatImage } from '../definition';

const LIMIT = 400e6;

export const pfm = defineFormat({
  kind: 'pfm',
  label: 'PFM',
  extensions: ['pfm'],
  mime: 'application/octet-stream',
  decodedBy: 'own',
  use: 'float depth in and out; linear-light pictures on the command line',
  matches: (bytes) => (hasText(bytes, 0, 'PF') || hasText(bytes, 0, 'Pf')) && bytes[2]! <= 32,
  size: (bytes) => readPfmHeader(bytes),
  describe: (bytes) => ({ bits: 32, colour: bytes[1] === 70 ? 'RGB, linear light' : 'grey', animated: false, plate: false }),
  readMap: (bytes) => {
    const image = decodePfm(bytes);
    if ('plane' in image) return { plane: image.plane, bits: 32, float: true, channel: 'grey', channels: ['grey'] };
    throw new OmbrageError('not-a-map', 'The PFM holds colours, not depth.', 'Choose a grey picture or a one-channel PFM.');
  },
  writePicture: (picture) => encodePicturePfm(picture),
  writePlane: (plane) => encodePlanePfm(plane),
});

interface Header {
  readonly channels: 1 | 3;
  readonly width: number;
  readonly height: number;
  readonly littleEndian: boolean;
  readonly start: number;
}

/** Reads the three header lines: kind, size, scale (negative: little-endian). */
export function readPfmHeader(bytes: Uint8Array): Header {
  const bad = (why: string): OmbrageError => new OmbrageError('damaged-file', `The PFM ${why}.`, 'Choose an undamaged copy.');
  const words: string[] = [];
  let p = 0;
  while (words.length < 4) {
    while (p < bytes.length && bytes[p]! <= 32) p++;
    let word = '';
    while (p < bytes.length && bytes[p]! > 32 && word.length < 40) word += String.fromCharCode(bytes[p++]!);
    if (!word) throw bad('ends within its header');
    words.push(word);
  }
  const [kind, w, h, scale] = words as [string, string, string, string];
  if (kind !== 'PF' && kind !== 'Pf') throw bad('does not begin with PF or Pf');
  const width = Number(w);
  const height = Number(h);
  if (!Number.isInteger(width) || !Number.isInteger(height) || width < 1 || height < 1 || width * height > LIMIT)
    throw bad(`has no usable size (${w}x${h})`);
  if (!Number.isFinite(Number(scale)) || Number(scale) === 0) throw bad(`has no usable scale (${scale})`);
  return { channels: kind === 'PF' ? 3 : 1, width, height, littleEndian: Number(scale) < 0, start: p + 1 };
}

/** Decodes a PFM (rows stored from the bottom). One channel becomes a plane, three a linear picture with alpha 1. */
export function decodePfm(bytes: Uint8Array): FloatImage {
  const { channels, width, height, littleEndian, start } = readPfmHeader(bytes);
  const need = width * height * channels * 4;
  if (bytes.length - start < need)
    throw new OmbrageError('damaged-file', `The PFM holds ${bytes.length - start} of ${need} bytes of pixels.`, 'Choose an undamaged copy.');
  const data = view(bytes);
  if (channels === 1) {
    const plane = newPlane(width, height);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) plane.data[y * width + x] = data.getFloat32(start + ((height - 1 - y) * width + x) * 4, littleEndian);
    return { kind: 'plane', plane };
  }
  const picture = newPicture(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const o = (y * width + x) * 4;
      for (let k = 0; k < 3; k++) picture.data[o + k] = data.getFloat32(start + (((height - 1 - y) * width + x) * 3 + k) * 4, littleEndian);
      picture.data[o + 3] = 1;
    }
  return { kind: 'picture', picture };
}

function write(width: number, height: number, channels: 1 | 3, sample: (x: number, y: number, k: number) => number): Uint8Array {
  const head = new TextEncoder().encode(`${channels === 3 ? 'PF' : 'Pf'}\n${width} ${height}\n-1.0\n`);
  const out = new Uint8Array(head.length + width * height * channels * 4);
  out.set(head);
  const data = view(out);
  let p = head.length;
  for (let y = height - 1; y >= 0; y--)
    for (let x = 0; x < width; x++) for (let k = 0; k < channels; k++, p += 4) data.setFloat32(p, sample(x, y, k), true);
  return out;
}

/** Little-endian float PFM of a plane. */
export const encodePlanePfm = ({ width, height, data }: Plane): Uint8Array => write(width, height, 1, (x, y) => data[y * width + x]!);

/** Little-endian float PFM of a linear picture's light; alpha is dropped. */
export const encodePicturePfm = ({ width, height, data }: Picture): Uint8Array =>
  write(width, height, 3, (x, y, k) => data[(y * width + x) * 4 + k]!);
