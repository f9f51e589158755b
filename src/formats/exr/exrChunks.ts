import type { OmbrageError } from '../../core/error';
import { view } from '../bytes/bytes';
import { damaged, ROWS_TOGETHER, type Channel, type Header } from './exrHeader';
import { inflatedSize } from '../bytes/inflate';

const NONE = 0;
const RLE = 1;
const PXR24 = 5;
const B44 = 6;

/**
 * Checks every chunk of pixels against what the header says of it: its place, how it is compressed, and that it unpacks to exactly its
 * rows (OpenEXR file layout). A header that names another compression than was used would else be decoded to something. Throws `damaged-file`.
 */
export async function checkChunks(bytes: Uint8Array, header: Header): Promise<void> {
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
