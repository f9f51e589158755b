import { zlibSync } from 'fflate';
import type { Plane } from '../../core/picture';
import { view } from '../bytes/bytes';

const ROWS = 16;

/** All before the table of blocks: version 2, scan lines, zlib; each channel of 32-bit floats. */
function headOf(names: readonly string[], width: number, height: number): number[] {
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
  return head;
}

/** Writes float channels of one size in scan lines compressed with zlib; a plane alone becomes the channel Z. */
export function encodeExr(content: Plane | Readonly<Record<string, Plane>>): Uint8Array {
  const planes: Readonly<Record<string, Plane>> =
    content.data instanceof Float32Array ? { Z: content as Plane } : (content as Readonly<Record<string, Plane>>);
  const names = Object.keys(planes).sort();
  const { width, height } = planes[names[0]!]!;
  const head = headOf(names, width, height);
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
