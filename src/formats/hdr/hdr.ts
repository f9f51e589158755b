import { OmbrageError } from '../../core/error';
import { hasText } from '../bytes/bytes';

/** No more pixels are read of a picture of surroundings. */
const MOST_PIXELS = 64e6;

const damaged = (why: string): OmbrageError => new OmbrageError('damaged-file', `The .hdr ${why}.`, 'Choose an undamaged copy.');

/** Whether bytes begin as a Radiance picture does. */
export const isHdr = (bytes: Uint8Array): boolean => hasText(bytes, 0, '#?');

/** Size and first row of a Radiance picture. Throws OmbrageError `damaged-file` or `too-large`. */
export function readHdrHeader(bytes: Uint8Array): {
  readonly width: number;
  readonly height: number;
  readonly start: number;
  readonly exposure: number;
} {
  let p = 0;
  let exposure = 1;
  const line = (): string => {
    const from = p;
    while (p < bytes.length && bytes[p] !== 10) p++;
    if (p >= bytes.length || p - from > 1000) throw damaged('ends in its header');
    return String.fromCharCode(...bytes.subarray(from, p++));
  };
  if (!isHdr(bytes)) throw damaged('does not begin as one does');
  line();
  for (let text = line(); text !== ''; text = line()) {
    const [name, value] = text.split('=');
    if (name === 'FORMAT' && value?.trim() !== '32-bit_rle_rgbe') throw damaged(`holds ${value?.trim() ?? 'nothing'}, not RGBE`);
    if (name === 'EXPOSURE' && Number(value) > 0) exposure *= Number(value);
  }
  const size = /^-Y (\d+) \+X (\d+)\s*$/.exec(line());
  if (!size) throw damaged('runs neither from the top nor from the left');
  const [height, width] = [Number(size[1]), Number(size[2])];
  if (!(width > 0 && height > 0)) throw damaged('is empty');
  if (width * height > MOST_PIXELS)
    throw new OmbrageError(
      'too-large',
      `The .hdr has ${Math.round((width * height) / 1e6)} megapixels.`,
      `Make it smaller: up to ${MOST_PIXELS / 1e6} megapixels are read, and a small one lights as well.`,
    );
  return { width, height, start: p, exposure };
}

/**
 * Reads a Radiance picture row by row, linear light, three samples a pixel; rows in the run-length form of Ward (1991) or plain. Throws
 * OmbrageError `damaged-file` or `too-large`.
 */
export function readHdr(bytes: Uint8Array, onRow: (y: number, rgb: Float32Array) => void): { readonly width: number; readonly height: number } {
  const { width, height, start, exposure } = readHdrHeader(bytes);
  const row = new Uint8Array(width * 4);
  const light = new Float32Array(width * 3);
  let p = start;
  for (let y = 0; y < height; y++) {
    if (p + 4 > bytes.length) throw damaged(`ends at row ${y} of ${height}`);
    const runs = bytes[p] === 2 && bytes[p + 1] === 2 && bytes[p + 2]! < 128;
    if (!runs) {
      if (p + 4 * width > bytes.length) throw damaged(`ends at row ${y} of ${height}`);
      for (let x = 0; x < width; x++) for (let k = 0; k < 4; k++) row[k * width + x] = bytes[p + 4 * x + k]!;
      p += 4 * width;
    } else {
      if (((bytes[p + 2]! << 8) | bytes[p + 3]!) !== width) throw damaged(`has a row of another width at ${y}`);
      p += 4;
      for (let at = 0; at < 4 * width;) {
        // a run ends with its channel
        const end = (Math.floor(at / width) + 1) * width;
        const count = bytes[p++];
        if (count === undefined) throw damaged(`ends at row ${y} of ${height}`);
        const n = count > 128 ? count - 128 : count;
        if (n === 0 || at + n > end) throw damaged(`has a run that is too long in row ${y}`);
        if (count > 128) row.fill(bytes[p++] ?? 0, at, at + n);
        else {
          row.set(bytes.subarray(p, p + n), at);
          p += n;
        }
        at += n;
      }
    }
    for (let x = 0; x < width; x++) {
      const e = row[3 * width + x]!;
      const scale = e > 0 ? 2 ** (e - 136) / exposure : 0;
      for (let k = 0; k < 3; k++) light[3 * x + k] = row[k * width + x]! * scale;
    }
    onRow(y, light);
  }
  return { width, height };
}

/** A picture as a Radiance file, rows plain; linear light, three samples a pixel. */
export function encodeHdr(width: number, height: number, rgb: ArrayLike<number>): Uint8Array {
  const head = new TextEncoder().encode(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${height} +X ${width}\n`);
  const out = new Uint8Array(head.length + width * height * 4);
  out.set(head);
  for (let i = 0; i < width * height; i++) {
    const most = Math.max(rgb[3 * i]!, rgb[3 * i + 1]!, rgb[3 * i + 2]!);
    if (!(most > 1e-32)) continue;
    const e = Math.floor(Math.log2(most)) + 1;
    for (let k = 0; k < 3; k++) out[head.length + 4 * i + k] = Math.min(255, Math.floor((Math.max(0, rgb[3 * i + k]!) / 2 ** e) * 256));
    out[head.length + 4 * i + 3] = e + 128;
  }
  return out;
}
