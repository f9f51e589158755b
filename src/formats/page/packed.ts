import type { FlatMesh } from '../../core/mesh/tessellate';

/** Full scale of the numbers that corners are packed in. */
export const FULL = 65535;

/**
 * A mesh in few bytes: places as shares of the picture and inverse distances as shares of the largest, 16 bits each, corner by corner as differences from the
 * one before, low bytes and high bytes apart; then the corners of triangles as differences, 7 bits a byte.
 */
export function packMesh({ x, y, q, triangles }: FlatMesh, width: number, height: number, most: number): Uint8Array {
  const n = x.length;
  const numbers = new Uint8Array(n * 6);
  const last = [0, 0, 0];
  for (let i = 0; i < n; i++)
    for (const [k, share] of [x[i]! / width, y[i]! / height, q[i]! / most].entries()) {
      const v = Math.round(FULL * Math.min(1, Math.max(0, share)));
      const d = (v - last[k]!) & FULL;
      last[k] = v;
      numbers[2 * k * n + i] = d & 255;
      numbers[(2 * k + 1) * n + i] = d >> 8;
    }
  const ends: number[] = [];
  let before = 0;
  for (const t of triangles) {
    const d = t - before;
    before = t;
    // the sign is the lowest bit
    let v = d < 0 ? -2 * d - 1 : 2 * d;
    while (v > 127) {
      ends.push((v & 127) | 128);
      v = Math.floor(v / 128);
    }
    ends.push(v);
  }
  const out = new Uint8Array(numbers.length + ends.length);
  out.set(numbers);
  out.set(ends, numbers.length);
  return out;
}

/** The same back: corners as four 16-bit numbers (the last is 0), and triangles. */
export function unpackMesh(bytes: Uint8Array, corners: number, triangles: number): { corners: Uint16Array; triangles: Uint32Array } {
  const out = new Uint16Array(corners * 4);
  for (let k = 0; k < 3; k++) {
    let v = 0;
    for (let i = 0; i < corners; i++) {
      v = (v + bytes[2 * k * corners + i]! + 256 * bytes[(2 * k + 1) * corners + i]!) & FULL;
      out[i * 4 + k] = v;
    }
  }
  const ends = new Uint32Array(triangles * 3);
  let at = corners * 6;
  let before = 0;
  for (let t = 0; t < ends.length; t++) {
    let v = 0;
    let scale = 1;
    for (;;) {
      const b = bytes[at++]!;
      v += (b & 127) * scale;
      if (b < 128) break;
      scale *= 128;
    }
    before += v % 2 ? -(v + 1) / 2 : v / 2;
    ends[t] = before;
  }
  return { corners: out, triangles: ends };
}
