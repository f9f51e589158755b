import { expect, test } from '@jest/globals';
import type { Raster } from '../../core/picture';
import type { DecodeRaster } from '../maps/mapFile';
import { encodeExr } from '../exr/exr';
import { encodeHdr, readHdr } from './hdr';
import { readSurroundings } from './surroundings';

const [W, H] = [16, 8];
const light = Float32Array.from({ length: W * H * 3 }, (_, i) => 0.1 + (i % 7) * 0.3 + (i % 3 === 0 ? 12 : 0));
const noDecoder: DecodeRaster = () => Promise.reject(new Error('no decoder is asked'));
const read = (bytes: Uint8Array): Float32Array => {
  const out = new Float32Array(W * H * 3);
  readHdr(bytes, (y, rgb) => out.set(rgb, y * W * 3));
  return out;
};

/** The same file with its rows as runs of single bytes and of repeats. */
function withRuns(bytes: Uint8Array): Uint8Array {
  const start = bytes.length - W * H * 4;
  const out = [...bytes.subarray(0, start)];
  for (let y = 0; y < H; y++) {
    out.push(2, 2, W >> 8, W & 255);
    for (let k = 0; k < 4; k++) {
      const row = Array.from({ length: W }, (_, x) => bytes[start + (y * W + x) * 4 + k]!);
      // one repeat where the whole half is alike, literals otherwise
      for (const half of [row.slice(0, 8), row.slice(8)]) {
        if (half.every((v) => v === half[0])) out.push(128 + 8, half[0]!);
        else out.push(8, ...half);
      }
    }
  }
  return Uint8Array.from(out);
}

test('what is written is read again to a share of its brightest channel, with runs or without', () => {
  const bytes = encodeHdr(W, H, light);
  const plain = read(bytes);
  for (let i = 0; i < W * H; i++) {
    const most = Math.max(...light.subarray(3 * i, 3 * i + 3));
    for (let k = 0; k < 3; k++) expect(Math.abs(plain[3 * i + k]! - light[3 * i + k]!)).toBeLessThanOrEqual(most / 128);
  }
  expect(read(withRuns(bytes))).toEqual(plain);
});

test.each([
  ['no picture', Uint8Array.from([1, 2, 3]), /does not begin/],
  ['cut short', encodeHdr(W, H, light).subarray(0, 200), /ends at row/],
  ['of another kind', new TextEncoder().encode('#?RADIANCE\nFORMAT=32-bit_rle_xyze\n\n-Y 2 +X 2\n'), /not RGBE/],
  ['of 200 megapixels', new TextEncoder().encode('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 10000 +X 20000\n'), /200 megapixels/],
  ['with a run beyond its row', Uint8Array.from([...new TextEncoder().encode('#?RADIANCE\n\n-Y 1 +X 8\n'), 2, 2, 0, 8, 255, 1]), /too long/],
])('an .hdr that is %s is refused in words', (_, bytes, words) => {
  expect(() => read(bytes)).toThrow(words);
});

test('surroundings are read alike from .hdr, .exr and a still', async () => {
  const even = new Float32Array(W * H * 3).fill(0.5);
  const plane = (): { width: number; height: number; data: Float32Array } => ({ width: W, height: H, data: new Float32Array(W * H).fill(0.5) });
  const still: Raster = { width: W, height: H, channels: 3, data: new Uint8Array(W * H * 3).fill(188) };
  const decode: DecodeRaster = () => Promise.resolve({ facts: {} as never, raster: still });
  const found = [
    await readSurroundings(encodeHdr(W, H, even), 'a.hdr', noDecoder),
    await readSurroundings(encodeExr({ R: plane(), G: plane(), B: plane() }), 'a.exr', noDecoder),
    await readSurroundings(Uint8Array.from([255, 216, 255]), 'a.jpg', decode),
  ];
  // even radiance L has the one harmonic L·√(4π)
  for (const h of found) {
    expect(h).toHaveLength(27);
    for (let k = 0; k < 3; k++) expect(h[k]! / (0.5 * Math.sqrt(4 * Math.PI))).toBeCloseTo(1, 1);
    for (let n = 3; n < 27; n++) expect(Math.abs(h[n]!)).toBeLessThan(0.03);
  }
});

test('a file with the wrong name, or without colours, is named', async () => {
  await expect(readSurroundings(Uint8Array.from([1, 2, 3, 4]), 'sky.hdr', noDecoder)).rejects.toThrow(/sky\.hdr/);
  const depth = { width: W, height: H, data: new Float32Array(W * H) };
  await expect(readSurroundings(encodeExr({ Z: depth }), 'depth.exr', noDecoder)).rejects.toThrow(/depth\.exr/);
});
