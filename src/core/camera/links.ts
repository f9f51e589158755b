import { AT_EDGE, INNER, JOINED_BELOW, JOINED_RIGHT, NEAR_EDGE } from './layered';

/** A padded plate while it is being taken apart. */
export interface PlateGrid {
  readonly width: number;
  readonly height: number;
  readonly colour: Float32Array;
  readonly q: Float32Array;
  readonly flags: Uint8Array;
  readonly tau: number;
  readonly gain: number;
}

/** How far inverse depth half way between b and c disagrees, of samples a, b, c, d in line: 0 on any plane, since planes are linear in 1/z. */
function gap(a: number, b: number, c: number, d: number): number {
  const plain = Math.abs(b - c);
  const left = b + (b - a) / 2;
  const right = c + (c - d) / 2;
  const middle = (b + c) / 2;
  return Math.min(plain, Math.abs(left - right), Math.abs(left - middle) + Math.abs(right - middle));
}

/** Joins neighbours of one surface and marks what lies near the edges between surfaces; answers which pixels touch a cut. */
export function findLinks({ width: w, height: h, q, flags, tau }: PlateGrid): Uint8Array {
  const cut = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const here = q[i]!;
      let joined = 0;
      if (x + 1 < w) {
        const next = q[i + 1]!;
        if (Math.abs(here - next) <= tau || gap(q[x > 0 ? i - 1 : i]!, here, next, q[x + 2 < w ? i + 2 : i + 1]!) <= tau) joined |= JOINED_RIGHT;
        else cut[i] = cut[i + 1] = 1;
      }
      if (y + 1 < h) {
        const below = q[i + w]!;
        if (Math.abs(here - below) <= tau || gap(q[y > 0 ? i - w : i]!, here, below, q[y + 2 < h ? i + 2 * w : i + w]!) <= tau)
          joined |= JOINED_BELOW;
        else cut[i] = cut[i + w] = 1;
      }
      flags[i] = joined;
    }
  for (let y = 1; y < h - 1; y++)
    for (let i = y * w + 1; i < (y + 1) * w - 1; i++)
      if (flags[i]! & flags[i - 1]! & JOINED_RIGHT && flags[i]! & flags[i - w]! & JOINED_BELOW) flags[i]! |= INNER;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      if (!cut[y * w + x]) continue;
      for (let v = Math.max(0, y - 2); v <= Math.min(h - 1, y + 2); v++)
        for (let u = Math.max(0, x - 2); u <= Math.min(w - 1, x + 2); u++)
          flags[v * w + u]! |= Math.abs(u - x) <= 1 && Math.abs(v - y) <= 1 ? AT_EDGE | NEAR_EDGE : NEAR_EDGE;
    }
  return cut;
}
