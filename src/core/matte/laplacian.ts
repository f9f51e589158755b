import type { Picture } from '../picture';
import { clampUnit } from '../scalar';
import { invertSymmetric, rootOf } from './colours';

/** Numbers of a window: six of the inverse covariance, three means. */
const WINDOW = 9;

/**
 * Coverage of the pixels of a band by the matting Laplacian (Levin, Lischinski & Weiss 2008): minimises αᵀLα + Σ w·(α − data)² over them,
 * the others stay as `fixed` has them, by conjugate gradients with the diagonal as preconditioner. Windows of 3x3, guide: the square root
 * of light limited to white. Works in lists of what the band touches, whatever the size of the picture.
 */
export function laplacianMatte(
  picture: Picture,
  pixels: Int32Array,
  fixed: Float32Array,
  data: Float32Array,
  weight: Float32Array,
  { epsilon, rounds }: { readonly epsilon: number; readonly rounds: number },
): Float32Array {
  const { width: w, height: h } = picture;
  const { place, entries, windows } = touched(pixels, w, h);
  const n = entries.length;
  const guide = guideOf(picture, entries);
  const around = [-w - 1, -w, -w + 1, -1, 0, 1, w - 1, w, w + 1];
  const count = windows.length;
  // places in the lists of the nine pixels of each window
  const nine = new Int32Array(count * 9);
  for (let k = 0; k < count; k++) for (let q = 0; q < 9; q++) nine[k * 9 + q] = place.get(windows[k]! + around[q]!)!;
  const diagonal = new Float32Array(n);
  const inverses = windowInverses(guide, nine, count, epsilon, diagonal);
  const alpha = Float32Array.from(entries, (i) => fixed[i]!);
  const own = Int32Array.from(pixels, (i) => place.get(i)!);
  for (let k = 0; k < own.length; k++) alpha[own[k]!] = data[k]!;
  const [rest, step, product] = [new Float32Array(n), new Float32Array(n), new Float32Array(n)];
  const times = (of: Float32Array): void => applyLaplacian(of, guide, nine, inverses, count, product);
  const scaled = (k: number): number => 1 / (diagonal[own[k]!]! + weight[k]! + 1e-6);
  times(alpha);
  let energy = 0;
  for (let k = 0; k < own.length; k++) {
    const j = own[k]!;
    rest[j] = weight[k]! * (data[k]! - alpha[j]!) - product[j]!;
    step[j] = rest[j] * scaled(k);
    energy += rest[j] * step[j];
  }
  const first = energy;
  for (let round = 0; round < rounds && energy > 1e-8 * first && energy > 1e-12; round++) {
    times(step);
    let along = 0;
    for (let k = 0; k < own.length; k++) {
      const j = own[k]!;
      product[j]! += weight[k]! * step[j]!;
      along += step[j]! * product[j]!;
    }
    const go = energy / along;
    let next = 0;
    for (let k = 0; k < own.length; k++) {
      const j = own[k]!;
      alpha[j]! += go * step[j]!;
      rest[j]! -= go * product[j]!;
      next += rest[j]! * rest[j]! * scaled(k);
    }
    const turn = next / energy;
    energy = next;
    for (let k = 0; k < own.length; k++) {
      const j = own[k]!;
      step[j] = rest[j]! * scaled(k) + turn * step[j]!;
    }
  }
  return Float32Array.from(own, (j) => clampUnit(alpha[j]!));
}

/** The windows that touch a pixel of the band, the pixels that these cover, and where each of those stands in the list. */
function touched(
  pixels: Int32Array,
  w: number,
  h: number,
): { place: { get(i: number): number | undefined }; entries: Int32Array; windows: Int32Array } {
  const flags = new Uint8Array(w * h);
  for (const i of pixels) {
    const [x, y] = [i % w, Math.floor(i / w)];
    for (let v = Math.max(1, y - 1); v <= Math.min(h - 2, y + 1); v++)
      for (let u = Math.max(1, x - 1); u <= Math.min(w - 2, x + 1); u++) flags[v * w + u]! |= 1;
    flags[i]! |= 2;
  }
  const windows: number[] = [];
  for (let i = 0; i < flags.length; i++)
    if (flags[i]! & 1) {
      windows.push(i);
      for (const d of [-w - 1, -w, -w + 1, -1, 0, 1, w - 1, w, w + 1]) flags[i + d]! |= 2;
    }
  const where = new Int32Array(w * h);
  const entries: number[] = [];
  for (let i = 0; i < flags.length; i++)
    if (flags[i]! & 2) {
      where[i] = entries.length;
      entries.push(i);
    }
  return { place: { get: (i) => where[i] }, entries: Int32Array.from(entries), windows: Int32Array.from(windows) };
}

function guideOf({ data }: Picture, entries: Int32Array): Float32Array {
  const out = new Float32Array(entries.length * 3);
  for (let k = 0; k < entries.length; k++) for (let c = 0; c < 3; c++) out[k * 3 + c] = rootOf(data[entries[k]! * 4 + c]!);
  return out;
}

/** Inverse covariance and means of every window; adds each window's part of the Laplacian's diagonal. */
function windowInverses(guide: Float32Array, nine: Int32Array, count: number, epsilon: number, diagonal: Float32Array): Float32Array {
  const out = new Float32Array(count * WINDOW);
  const e = epsilon / 9;
  for (let k = 0; k < count; k++) {
    let [r, g, b, rr, rg, rb, gg, gb, bb] = [0, 0, 0, 0, 0, 0, 0, 0, 0];
    for (let q = 0; q < 9; q++) {
      const j = nine[k * 9 + q]! * 3;
      const [x, y, z] = [guide[j]!, guide[j + 1]!, guide[j + 2]!];
      r += x;
      g += y;
      b += z;
      rr += x * x;
      rg += x * y;
      rb += x * z;
      gg += y * y;
      gb += y * z;
      bb += z * z;
    }
    r /= 9;
    g /= 9;
    b /= 9;
    const [A, B, C] = [rr / 9 - r * r + e, rg / 9 - r * g, rb / 9 - r * b];
    const [D, E, F] = [gg / 9 - g * g + e, gb / 9 - g * b, bb / 9 - b * b + e];
    const m = k * WINDOW;
    invertSymmetric(A, B, C, D, E, F, out, m);
    out[m + 6] = r;
    out[m + 7] = g;
    out[m + 8] = b;
    for (let q = 0; q < 9; q++) {
      const p = nine[k * 9 + q]!;
      const [x, y, z] = [guide[p * 3]! - r, guide[p * 3 + 1]! - g, guide[p * 3 + 2]! - b];
      const square =
        x * (out[m]! * x + 2 * out[m + 1]! * y + 2 * out[m + 2]! * z) + y * (out[m + 3]! * y + 2 * out[m + 4]! * z) + z * z * out[m + 5]!;
      diagonal[p]! += 1 - (1 + square) / 9;
    }
  }
  return out;
}

/** The Laplacian times a vector, window by window: what a window's best linear fit to the colours leaves. */
function applyLaplacian(of: Float32Array, guide: Float32Array, nine: Int32Array, windows: Float32Array, count: number, out: Float32Array): void {
  out.fill(0);
  for (let k = 0; k < count; k++) {
    const m = k * WINDOW;
    const [r, g, b] = [windows[m + 6]!, windows[m + 7]!, windows[m + 8]!];
    let s = 0;
    let x = 0;
    let y = 0;
    let z = 0;
    for (let q = k * 9; q < k * 9 + 9; q++) {
      const p = nine[q]!;
      const v = of[p]!;
      s += v;
      x += v * (guide[p * 3]! - r);
      y += v * (guide[p * 3 + 1]! - g);
      z += v * (guide[p * 3 + 2]! - b);
    }
    const X = (windows[m]! * x + windows[m + 1]! * y + windows[m + 2]! * z) / 9;
    const Y = (windows[m + 1]! * x + windows[m + 3]! * y + windows[m + 4]! * z) / 9;
    const Z = (windows[m + 2]! * x + windows[m + 4]! * y + windows[m + 5]! * z) / 9;
    const t = s / 9 - X * r - Y * g - Z * b;
    for (let q = k * 9; q < k * 9 + 9; q++) {
      const p = nine[q]!;
      out[p]! += of[p]! - t - X * guide[p * 3]! - Y * guide[p * 3 + 1]! - Z * guide[p * 3 + 2]!;
    }
  }
}
