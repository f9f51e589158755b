import type { ReachRange } from './reach';
import type { Picture, Plane } from '../picture';
import { clampUnit, smoothstep } from '../scalar';
import type { MatteEdge } from './band';
import { invertSymmetric, rootOf } from './colours';

/** Edge pixels that are looked at to tell how soft a map is. */
const LOOKED_AT = 4000;
/** Window, px, that holds a soft edge as a whole. */
const REACH = 6;
/** Least jump of inverse depth, as a share, at which an edge tells something. */
const TELLING = 0.14;

const inverse = ({ width: w, height: h, data }: Plane, x: number, y: number): number =>
  1 / data[Math.min(h - 1, Math.max(0, y)) * w + Math.min(w - 1, Math.max(0, x))]!;

/**
 * How soft the edges of a map are along the edges of a matte: the standard deviation in px of the blur that would make them, 0.4 for a map
 * with one exact sample a pixel. A step blurred by σ rises by its height over σ·√(2π) at most.
 */
export function mapBlur(edge: MatteEdge, distance: Plane): number {
  const { width: w } = distance;
  const { pixels, jump } = edge.band(1, REACH / 4);
  const step = Math.max(1, Math.floor(pixels.length / LOOKED_AT));
  const found: number[] = [];
  for (let k = 0; k < pixels.length; k += step) {
    if (jump[k]! < 0.5) continue;
    const [x, y] = [pixels[k]! % w, Math.floor(pixels[k]! / w)];
    // an edge at a slant is softer along both axes than across itself: σ⁻² = σx⁻² + σy⁻²
    let sum = 0;
    for (const [dx, dy] of [
      [1, 0],
      [0, 1],
    ] as const) {
      let [low, high, steepest, before] = [Infinity, 0, 0, NaN];
      for (let t = -REACH; t <= REACH; t++) {
        const v = inverse(distance, x + t * dx, y + t * dy);
        low = Math.min(low, v);
        high = Math.max(high, v);
        if (before === before && Math.abs(t) <= 2) steepest = Math.max(steepest, Math.abs(v - before));
        before = v;
      }
      // only a direction that crosses the edge tells
      if (high - low > TELLING * high && steepest > 0.1 * (high - low)) sum += (2 * Math.PI * steepest ** 2) / (high - low) ** 2;
    }
    if (sum > 0) found.push(1 / Math.sqrt(sum));
  }
  if (found.length < 8) return 0.4;
  found.sort((a, b) => a - b);
  return Math.min(4, found[found.length >> 1]!);
}

/** Half width of the windows of the fit, px, and what keeps it calm. */
const FIT_RADIUS = 3;
const FIT_EPSILON = 1e-4;

/**
 * What a blurred inverse depth still holds of strands that no threshold sees: where between the far and the near side of its neighbourhood
 * each pixel lies, fitted to the picture's colours at the map's own sharpness, and applied to the sharp picture (cf. He & Sun 2015). For
 * the pixels within 6 px of the edge: their values, and how far each holds.
 */
export function fitAtSharpness(
  picture: Picture,
  distance: Plane,
  range: ReachRange,
  blur: number,
  edge: MatteEdge,
): { pixels: Int32Array; values: Float32Array; held: Float32Array } {
  const { width: w, height: h } = distance;
  const near = edge.band(REACH, blur);
  const wide = edge.within(REACH + FIT_RADIUS + 1).pixels;
  const n = w * h;
  const place = new Int32Array(n).fill(-1);
  for (let k = 0; k < wide.length; k++) place[wide[k]!] = k;
  const coverage = Float32Array.from(wide, (i) => softCoverage(distance, i, range));
  const sharp = rootsOf(picture, wide);
  const soft = blurredList(picture, wide, w, h, blur);
  const coefficients = fit(coverage, soft, wide, place, w, h);
  const values = new Float32Array(near.pixels.length);
  const held = new Float32Array(near.pixels.length);
  const closer = edge.within(4).pixels;
  const inner = new Uint8Array(n);
  for (const i of closer) inner[i] = 1;
  for (let k = 0; k < near.pixels.length; k++) {
    const p = place[near.pixels[k]!]!;
    const [x, y] = [near.pixels[k]! % w, Math.floor(near.pixels[k]! / w)];
    let [a, b, c, d, count] = [0, 0, 0, 0, 0];
    for (let v = Math.max(0, y - FIT_RADIUS); v <= Math.min(h - 1, y + FIT_RADIUS); v++)
      for (let u = Math.max(0, x - FIT_RADIUS); u <= Math.min(w - 1, x + FIT_RADIUS); u++) {
        const q = place[v * w + u]!;
        if (q < 0) continue;
        a += coefficients[q * 4]!;
        b += coefficients[q * 4 + 1]!;
        c += coefficients[q * 4 + 2]!;
        d += coefficients[q * 4 + 3]!;
        count++;
      }
    const value = (a * sharp[p * 3]! + b * sharp[p * 3 + 1]! + c * sharp[p * 3 + 2]! + d) / Math.max(1, count);
    values[k] = clampUnit(value);
    held[k] = (inner[near.pixels[k]!] ? 1 : 0.5) * smoothstep(0, 0.5, near.jump[k]!);
  }
  return { pixels: near.pixels, values, held };
}

/** Where a pixel's inverse depth lies between the far and the near side of its neighbourhood, as the reach parts them. */
function softCoverage(distance: Plane, i: number, range: ReachRange): number {
  const { width: w, data } = distance;
  const [x, y] = [i % w, Math.floor(i / w)];
  let [low, high] = [Infinity, 0];
  for (let t = -REACH; t <= REACH; t++) {
    for (const v of [inverse(distance, x + t, y), inverse(distance, x, y + t), inverse(distance, x + t, y + t), inverse(distance, x + t, y - t)]) {
      low = Math.min(low, v);
      high = Math.max(high, v);
    }
  }
  const own = 1 / data[i]!;
  // the end of the reach that lies between the two sides is the one that is met here
  const side = (end: number, keepsNear: boolean): number => {
    const t = 1 / end;
    if (high <= t) return keepsNear ? 0 : 1;
    if (low >= t) return keepsNear ? 1 : 0;
    const c = Math.min(1, Math.max(0, (own - low) / Math.max(1e-9, high - low)));
    return keepsNear ? c : 1 - c;
  };
  const to = range.to + range.far / 2;
  const from = range.from + range.near / 2;
  return (to < Infinity ? side(to, true) : 1) * (from > 0 ? side(from, false) : 1);
}

function rootsOf({ data }: Picture, pixels: Int32Array): Float32Array {
  const out = new Float32Array(pixels.length * 3);
  for (let k = 0; k < pixels.length; k++) for (let c = 0; c < 3; c++) out[k * 3 + c] = rootOf(data[pixels[k]! * 4 + c]!);
  return out;
}

/** The picture's square roots blurred as the map is, at the pixels of a list. */
function blurredList({ data }: Picture, pixels: Int32Array, w: number, h: number, sigma: number): Float32Array {
  const r = Math.max(1, Math.ceil(2.5 * sigma));
  const kernel = Array.from({ length: 2 * r + 1 }, (_, i) => Math.exp(-0.5 * ((i - r) / sigma) ** 2));
  const sum = kernel.reduce((a, b) => a + b, 0);
  // across first, for the rows that are read
  const rows = new Map<number, Float32Array>();
  const across = (y: number): Float32Array => {
    const kept = rows.get(y);
    if (kept) return kept;
    const line = new Float32Array(w * 3);
    const roots = new Float32Array(w * 3);
    for (let x = 0; x < w; x++) for (let c = 0; c < 3; c++) roots[x * 3 + c] = rootOf(data[(y * w + x) * 4 + c]!);
    for (let x = 0; x < w; x++)
      for (let c = 0; c < 3; c++) {
        let v = 0;
        for (let t = -r; t <= r; t++) v += kernel[t + r]! * roots[Math.min(w - 1, Math.max(0, x + t)) * 3 + c]!;
        line[x * 3 + c] = v / sum;
      }
    rows.set(y, line);
    return line;
  };
  const out = new Float32Array(pixels.length * 3);
  for (let k = 0; k < pixels.length; k++) {
    const [x, y] = [pixels[k]! % w, Math.floor(pixels[k]! / w)];
    for (let t = -r; t <= r; t++) {
      const line = across(Math.min(h - 1, Math.max(0, y + t)));
      for (let c = 0; c < 3; c++) out[k * 3 + c]! += (kernel[t + r]! * line[x * 3 + c]!) / sum;
    }
    // rows above are not read again
    if (rows.size > 4 * r + 64) for (const row of rows.keys()) if (row < y - r) rows.delete(row);
  }
  return out;
}

/** Linear coefficients (three colours and an offset) of every pixel's window, for the pixels of a list (He, Sun & Tang 2013, eq. 14–16). */
function fit(coverage: Float32Array, guide: Float32Array, pixels: Int32Array, place: Int32Array, w: number, h: number): Float32Array {
  const out = new Float32Array(pixels.length * 4);
  const inverted = new Float64Array(6);
  for (let k = 0; k < pixels.length; k++) {
    const [x, y] = [pixels[k]! % w, Math.floor(pixels[k]! / w)];
    let [n, p, r, g, b, rp, gp, bp, rr, rg, rb, gg, gb, bb] = [0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0];
    for (let v = Math.max(0, y - FIT_RADIUS); v <= Math.min(h - 1, y + FIT_RADIUS); v++)
      for (let u = Math.max(0, x - FIT_RADIUS); u <= Math.min(w - 1, x + FIT_RADIUS); u++) {
        const q = place[v * w + u]!;
        if (q < 0) continue;
        const c = coverage[q]!;
        const [i, j, l] = [guide[q * 3]!, guide[q * 3 + 1]!, guide[q * 3 + 2]!];
        n++;
        p += c;
        r += i;
        g += j;
        b += l;
        rp += i * c;
        gp += j * c;
        bp += l * c;
        rr += i * i;
        rg += i * j;
        rb += i * l;
        gg += j * j;
        gb += j * l;
        bb += l * l;
      }
    const m = 1 / n;
    [p, r, g, b] = [p * m, r * m, g * m, b * m];
    const [v0, v1, v2] = [rp * m - r * p, gp * m - g * p, bp * m - b * p];
    const [A, B, C] = [rr * m - r * r + FIT_EPSILON, rg * m - r * g, rb * m - r * b];
    const [D, E, F] = [gg * m - g * g + FIT_EPSILON, gb * m - g * b, bb * m - b * b + FIT_EPSILON];
    invertSymmetric(A, B, C, D, E, F, inverted, 0);
    const a0 = inverted[0]! * v0 + inverted[1]! * v1 + inverted[2]! * v2;
    const a1 = inverted[1]! * v0 + inverted[3]! * v1 + inverted[4]! * v2;
    const a2 = inverted[2]! * v0 + inverted[4]! * v1 + inverted[5]! * v2;
    out.set([a0, a1, a2, p - a0 * r - a1 * g - a2 * b], k * 4);
  }
  return out;
}
