import { HIDDEN_BELOW, HIDDEN_RIGHT, JOINED_BELOW, JOINED_RIGHT, type Backdrop } from './layered';
import type { PlateGrid } from './links';

/** What lies behind the edges: which pixels, in order; inverse distances over the whole grid (−1 where nothing is hidden); a colour each. */
export interface HiddenParts {
  readonly pixels: Int32Array;
  readonly q: Float32Array;
  readonly colour: Float32Array;
}

/** px beyond the widest gap that are filled too. */
const SLACK = 2;
const SWEEPS = 16;
/** Share of mirrored texture over what was smoothed, once it lies a few px behind the edge. */
const TEXTURE = 0.6;
const TEXTURE_FROM = 1.5;
const TEXTURE_OVER = 4;

/**
 * Finds what lies behind each near pixel: its nearest farther surface, as far in as the widest gap can open (distance ≤ gain·Δ(1/z)),
 * handed on from neighbour to neighbour. Answers the pixel it comes from, −1 where there is none, and how far that is, px.
 */
function findSeeds({ width: w, height: h, q, flags, tau, gain }: PlateGrid): { seed: Int32Array; away: Float32Array; found: number } {
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

/** Fills what lies behind the edges of a plate, in depth and colour. */
export function fillHidden(
  grid: PlateGrid,
  cut: Uint8Array,
  backdrop: (Backdrop & { readonly pad: number }) | null,
  checkpoint: (share: number) => void,
): HiddenParts {
  const { width: w, height: h, q, colour, flags, tau } = grid;
  const { seed, away, found } = findSeeds(grid);
  checkpoint(0.4);
  const pixels = new Int32Array(found);
  const behind = new Float32Array(w * h).fill(-1);
  const at = new Int32Array(w * h).fill(-1);
  const out = new Float32Array(found * 4);
  let count = 0;
  for (let i = 0; i < w * h; i++) {
    const s = seed[i]!;
    if (s < 0) continue;
    const k = count++;
    pixels[k] = i;
    at[i] = k;
    behind[i] = q[s]!;
    const from = mirroredPlace(grid, i, s, away[i]!, cut);
    // lamps do not shine from behind
    for (let c = 0; c < 4; c++) out[k * 4 + c] = Math.min(1, colour[from * 4 + c]!);
  }
  checkpoint(0.5);
  if (backdrop) backdropColours(grid, pixels, behind, out, backdrop);
  else smoothColours(grid, pixels, at, behind, away, out, checkpoint);
  for (const i of pixels) {
    if (behind[i + 1]! >= 0 && Math.abs(behind[i]! - behind[i + 1]!) <= tau) flags[i]! |= HIDDEN_RIGHT;
    if (i + w < w * h && behind[i + w]! >= 0 && Math.abs(behind[i]! - behind[i + w]!) <= tau) flags[i]! |= HIDDEN_BELOW;
  }
  return { pixels, q: behind, colour: out };

  function backdropColours(
    { height }: PlateGrid,
    list: Int32Array,
    depth: Float32Array,
    into: Float32Array,
    given: Backdrop & { readonly pad: number },
  ): void {
    const { picture, distance, pad } = given;
    for (const [k, i] of list.entries()) {
      const x = Math.min(picture.width - 1, Math.max(0, (i % w) - pad));
      const y = Math.min(height - 2 * pad - 1, Math.max(0, Math.floor(i / w) - pad));
      const p = y * picture.width + x;
      for (let c = 0; c < 4; c++) into[k * 4 + c] = Math.sqrt(Math.max(0, picture.data[p * 4 + c]!));
      const z = distance?.data[p];
      // what is given never lies in front of what hides it
      if (z !== undefined && 1 / z < q[i]! - tau) depth[i] = 1 / z;
    }
  }
}

/** The pixel mirrored about the edge, one px beyond the mixed pixel, drawn in until it lies on the surface that goes on there. */
function mirroredPlace({ width: w, height: h, q, tau }: PlateGrid, i: number, s: number, away: number, cut: Uint8Array): number {
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

/** Smooths colours and depth behind the edges, held by what is seen of the same surface, and lays mirrored texture over them. */
function smoothColours(
  { width: w, height: h, q, colour, tau }: PlateGrid,
  pixels: Int32Array,
  at: Int32Array,
  behind: Float32Array,
  away: Float32Array,
  out: Float32Array,
  checkpoint: (share: number) => void,
): void {
  const texture = out.slice();
  const last = w * h - w - 1;
  const steps = [-1, 1, -w, w];
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    checkpoint(0.5 + (0.5 * sweep) / SWEEPS);
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
  for (const [k, i] of pixels.entries()) {
    const share = TEXTURE * Math.min(1, Math.max(0, (away[i]! - TEXTURE_FROM) / TEXTURE_OVER));
    for (let c = 0; c < 4; c++) out[k * 4 + c]! += share * (texture[k * 4 + c]! - out[k * 4 + c]!);
  }
}
