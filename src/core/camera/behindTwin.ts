// How a plate is taken apart, written to be read: the kernels of core/kernels/assembly/behind.ts and hiddenSmooth.ts do the same. The tests compare the two.
import type { MixedPixels } from '../kernels/behindHost';
import { AT_EDGE, INNER, JOINED_BELOW, JOINED_RIGHT, NEAR_EDGE, type PlateGrid } from './layered';
import { SWEEPS } from './plateShape';

/** px beyond the widest gap that are filled too. */
const SLACK = 2;

/** How far inverse depth half way between b and c disagrees, of samples a, b, c, d in line: 0 on any plane, since planes are linear in 1/z. */
function gap(a: number, b: number, c: number, d: number): number {
  const plain = Math.abs(b - c);
  const left = b + (b - a) / 2;
  const right = c + (c - d) / 2;
  const middle = (b + c) / 2;
  return Math.min(plain, Math.abs(left - right), Math.abs(left - middle) + Math.abs(right - middle));
}

/** Joins neighbours of one surface and marks what lies near the edges between surfaces; answers which pixels touch a cut. */
export function linkTwin({ width: w, height: h, q, tau }: PlateGrid): { flags: Uint8Array; cut: Uint8Array } {
  const flags = new Uint8Array(w * h);
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
  return { flags, cut };
}

/**
 * Finds what lies behind each near pixel: its nearest farther surface, as far in as the widest gap can open (distance ≤ gain·Δ(1/z)),
 * handed on from neighbour to neighbour. Answers the pixel it comes from, −1 where there is none, and how far that is, px.
 */
export function seedTwin(
  { width: w, height: h, q, tau }: PlateGrid,
  flags: Uint8Array,
  gain: number,
): { seed: Int32Array; away: Float32Array; found: number } {
  const n = w * h;
  const seed = new Int32Array(n).fill(-1);
  const away = new Float32Array(n).fill(1e9);
  const waiting = new Uint8Array(n);
  // a ring: no pixel stands in it twice
  const queue = new Int32Array(n + 1);
  let [head, tail, found] = [0, 0, 0];
  const offer = (i: number, s: number): void => {
    const nearer = q[i]! - q[s]!;
    if (nearer <= tau) return;
    const dx = (s % w) - (i % w);
    const dy = Math.floor(s / w) - Math.floor(i / w);
    const d = Math.fround(Math.hypot(dx, dy));
    if (d >= away[i]! || d > gain * nearer + SLACK) return;
    if (seed[i] === -1) found++;
    away[i] = d;
    seed[i] = s;
    if (waiting[i]) return;
    waiting[i] = 1;
    queue[tail] = i;
    tail = tail === n ? 0 : tail + 1;
  };
  const inside = (i: number): boolean => {
    const x = i % w;
    return x > 0 && x < w - 1 && i >= w && i < n - w;
  };
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const f = flags[i]!;
      if (x + 1 < w && !(f & JOINED_RIGHT)) {
        if (inside(i)) offer(i, i + 1);
        if (inside(i + 1)) offer(i + 1, i);
      }
      if (y + 1 < h && !(f & JOINED_BELOW)) {
        if (inside(i)) offer(i, i + w);
        if (inside(i + w)) offer(i + w, i);
      }
    }
  const steps = [-1, 1, -w, w, -w - 1, -w + 1, w - 1, w + 1];
  while (head !== tail) {
    const i = queue[head]!;
    head = head === n ? 0 : head + 1;
    waiting[i] = 0;
    const s = seed[i]!;
    for (const step of steps) if (inside(i + step)) offer(i + step, s);
  }
  return { seed, away, found };
}

/** Smooths colours and depth behind the edges, held by what is seen of the same surface. Both in place. */
export function smoothTwin(
  { width: w, height: h, q, tau }: PlateGrid,
  colour: Float32Array,
  pixels: Int32Array,
  at: Int32Array,
  behind: Float32Array,
  out: Float32Array,
): void {
  const last = w * h - w - 1;
  const steps = [-1, 1, -w, w];
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    for (let m = 0; m < pixels.length; m++) {
      const k = sweep & 1 ? pixels.length - 1 - m : m;
      const i = pixels[k]!;
      if (i <= w || i >= last) continue;
      const here = behind[i]!;
      let r = 0;
      let g = 0;
      let b = 0;
      let a = 0;
      let depth = 0;
      let total = 0;
      for (const step of steps) {
        const j = i + step;
        const other = at[j]!;
        if (other >= 0 && Math.abs(behind[j]! - here) < 3 * tau) {
          r += out[other * 4]!;
          g += out[other * 4 + 1]!;
          b += out[other * 4 + 2]!;
          a += out[other * 4 + 3]!;
          depth += behind[j]!;
        } else if (Math.abs(q[j]! - here) < 3 * tau) {
          r += Math.min(1, colour[j * 4]!);
          g += Math.min(1, colour[j * 4 + 1]!);
          b += Math.min(1, colour[j * 4 + 2]!);
          a += Math.min(1, colour[j * 4 + 3]!);
          depth += q[j]!;
        } else continue;
        total++;
      }
      if (total === 0) continue;
      behind[i] = depth / total;
      out[k * 4] = r / total;
      out[k * 4 + 1] = g / total;
      out[k * 4 + 2] = b / total;
      out[k * 4 + 3] = a / total;
    }
  }
}

/** Margin in which windows would leave the plate, px. */
const MARGIN = 4;
const PURE_WITHIN = 3;

/** The nearest pixel of the same surface, within 3 px, that touches no cut; −1 where there is none. */
function pureNear({ q, width, tau }: PlateGrid, cut: Uint8Array, i: number): number {
  const here = q[i]!;
  let best = -1;
  let least = PURE_WITHIN * PURE_WITHIN + 1;
  for (let v = -PURE_WITHIN; v <= PURE_WITHIN; v++)
    for (let u = -PURE_WITHIN; u <= PURE_WITHIN; u++) {
      const d = u * u + v * v;
      const j = i + v * width + u;
      if (d >= least || cut[j]) continue;
      if (Math.abs(q[j]! - here) < tau * (1 + Math.sqrt(d))) {
        least = d;
        best = j;
      }
    }
  return best;
}

/** The nearest in depth of the four neighbours, where it is nearer than the pixel by a cut; −1 where none is. */
function nearNeighbour({ q, width, tau }: PlateGrid, i: number): number {
  let best = -1;
  let most = q[i]! + tau;
  for (const j of [i - 1, i + 1, i - width, i + width])
    if (q[j]! > most) {
      most = q[j]!;
      best = j;
    }
  return best;
}

/** Where pixels may be mixed of two surfaces, whatever their colours. */
export function mixedTwin(grid: PlateGrid, cut: Uint8Array): MixedPixels {
  const { width: w, height: h, q, tau } = grid;
  const pixels: number[] = [];
  const candidates: number[] = [];
  for (let y = MARGIN; y < h - MARGIN; y++)
    for (let x = MARGIN; x < w - MARGIN; x++) {
      const i = y * w + x;
      if (!cut[i]) continue;
      const near = nearNeighbour(grid, i);
      if (near < 0) continue;
      const back = pureNear(grid, cut, i);
      if (back < 0) continue;
      const fronts = [pureNear(grid, cut, near), near, 2 * near - i].map((f) => (f < 0 || Math.abs(q[f]! - q[near]!) > 3 * tau ? -1 : f));
      pixels.push(i);
      candidates.push(near, back, ...fronts);
    }
  return { pixels: Int32Array.from(pixels), candidates: Int32Array.from(candidates) };
}

/** The pixel mirrored about the edge, one px beyond the mixed pixel, drawn in until it lies on the surface that goes on there. */
export function mirroredTwin({ width: w, height: h, q, tau }: PlateGrid, i: number, s: number, away: number, cut: Uint8Array): number {
  const [sx, sy] = [s % w, Math.floor(s / w)];
  const [dx, dy] = [sx - (i % w), sy - Math.floor(i / w)];
  for (const share of [1 + 1 / away, 0.6, 0.3, 1 / away]) {
    const x = sx + Math.round(dx * share);
    const y = sy + Math.round(dy * share);
    if (x < 0 || y < 0 || x >= w || y >= h) continue;
    const j = y * w + x;
    if (Math.abs(q[j]! - q[s]!) < 6 * tau && !(share > 0.3 && cut[j])) return j;
  }
  return s;
}
