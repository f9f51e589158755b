import { kernels } from '../kernels/loader';
import type { DepthField } from './depthField';

/** A pixel nearer than both its neighbours by this share is a strand: it faces us. */
const STRAND = 0.02;

/** Slope of W along one axis from the side that goes on best: the one whose own second difference is smaller. */
function sideSlope(w: Float32Array, i: number, step: number, k: number, n: number): number {
  const c = w[i]!;
  const before = k > 0 ? w[i - step]! : NaN;
  const before2 = k > 1 ? w[i - 2 * step]! : before;
  const after = k < n - 1 ? w[i + step]! : NaN;
  const after2 = k < n - 2 ? w[i + 2 * step]! : after;
  if (c - before > STRAND * c && c - after > STRAND * c) return 0;
  const missBefore = k > 0 ? Math.abs(c - 2 * before + before2) : Infinity;
  const missAfter = k < n - 1 ? Math.abs(c - 2 * after + after2) : Infinity;
  const both = k > 0 && k < n - 1 ? Math.abs(before - 2 * c + after) : Infinity;
  // no edge here: the central difference is less noisy
  if (both <= 2 * Math.min(missBefore, missAfter) + 1e-4 * c) return (after - before) / 2;
  return missBefore < missAfter ? c - before : after - c;
}

/** Writes the normal of the plane W = w0 + gx·dx + gy·dy: N = (∂W/∂u, ∂W/∂v, W − u·∂W/∂u − v·∂W/∂v), facing the camera. */
export function writeNormal({ width, height, focalPx: f }: DepthField, i: number, w0: number, gx: number, gy: number, out: Float32Array): void {
  const u = ((i % width) + 0.5 - width / 2) / f;
  const v = (Math.floor(i / width) + 0.5 - height / 2) / f;
  const [a, b] = [gx * f, gy * f];
  const c = w0 - u * a - v * b;
  const s = -1 / Math.sqrt(a * a + b * b + c * c + 1e-30);
  out[3 * i] = a * s;
  out[3 * i + 1] = b * s;
  out[3 * i + 2] = c * s;
}

function oneSided(field: DepthField): Float32Array {
  const { width: w, height: h, inverse } = field;
  const out = new Float32Array(w * h * 3);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++)
      if (inverse[i]! > 0) writeNormal(field, i, inverse[i]!, sideSlope(inverse, i, 1, x, w), sideSlope(inverse, i, w, y, h), out);
  return out;
}

/** A row of plane fits takes a millisecond or two. */
const ROWS_PER_LOOK = 4;
/** Half the side of the window of a plane fit, px. */
export const FIT = 4;

/** Plane fits of 9x9, for maps of coarse steps: half a step is forgiven (weights of Holland & Welsch 1977, Cauchy squared). */
function fitted({ width: w, height: h, focalPx: f, inverse }: DepthField, step: number, onProgress: () => void): Float32Array {
  const out = new Float32Array(w * h * 3);
  const k = kernels();
  const bookmark = k.bookmark();
  // nothing lies beyond the border; four pixels are fitted at a time
  const pitch = w + 2 * FIT + 4;
  const plane = k.room(pitch * (h + 2 * FIT));
  const row = k.room((w + 4) * 3);
  const [padded, normals] = [k.floats(plane, pitch * (h + 2 * FIT)), k.floats(row, w * 3)];
  for (let y = 0; y < h; y++) padded.set(inverse.subarray(y * w, (y + 1) * w), (y + FIT) * pitch + FIT);
  try {
    for (let y = 0; y < h; y++) {
      if (y % ROWS_PER_LOOK === 0) onProgress();
      k.run.fitRow(plane, pitch, y, w, step, f, (y + 0.5 - h / 2) / f, w / 2, row);
      out.set(normals, y * w * 3);
    }
  } finally {
    k.back(bookmark);
  }
  return out;
}

/** Pairs of neighbours that are looked at to tell the steps of a map. */
const LOOKED_AT = 20_000;

/** The step of inverse distance in which a coarse map was written; 0 for one that is fine. */
export function coarseStep({ inverse }: DepthField): number {
  const skip = Math.max(1, Math.floor(inverse.length / LOOKED_AT));
  const steps: number[] = [];
  let [level, pairs] = [0, 0];
  for (let i = 0; i + 1 < inverse.length; i += skip) {
    const [a, b] = [inverse[i]!, inverse[i + 1]!];
    if (!(a > 0 && b > 0)) continue;
    pairs++;
    if (a === b) level++;
    else if (Math.abs(a - b) < 0.05 * a) steps.push(Math.abs(a - b));
  }
  // a slanting surface of a fine map has no two equal neighbours
  if (pairs === 0 || level < 0.5 * pairs || steps.length < 20) return 0;
  steps.sort((a, b) => a - b);
  const step = steps[Math.floor(steps.length * 0.1)]!;
  // steps come in multiples of the least one
  const near = steps.filter((s) => Math.abs(s / step - Math.round(s / step)) < 0.1).length;
  return near > 0.9 * steps.length && step > 1e-5 ? step : 0;
}

/** A map is rough where neighbouring slopes differ by more than this share of the slope, on half of what has one. */
const ROUGH = 0.5;
/** Taps lie ever wider apart, from round to round, up to this share of the width: what is smaller is no shape that an estimate can tell. */
const WIDEST = 1 / 64;
/** Share of W by which a neighbour on the same surface of a rough map may miss. */
const ROUGH_MISS = 0.03;
/** Taps of a cubic B-spline. */
const TAPS = [1 / 16, 1 / 4, 3 / 8, 1 / 4, 1 / 16] as const;

/**
 * Whether a fine map carries the picture's texture or noise, as estimates do: on a surface the slope goes on from pixel to pixel, noise turns it
 * about. Looked at along rows and columns, away from jumps.
 */
export function isRough({ width, height, inverse }: DepthField): boolean {
  const skip = Math.max(1, Math.floor(inverse.length / LOOKED_AT));
  let [rough, looked] = [0, 0];
  for (let i = 0; i < inverse.length; i += skip) {
    const [x, y] = [i % width, Math.floor(i / width)];
    if (x < 1 || y < 1 || x > width - 3 || y > height - 3) continue;
    for (const step of [1, width]) {
      const [a, b, c, d] = [inverse[i - step]!, inverse[i]!, inverse[i + step]!, inverse[i + 2 * step]!];
      if (!(Math.min(a, b, c, d) > 0)) continue;
      const slope = Math.abs(d - a) / 3 + Math.abs(c - b);
      if (slope > STRAND * b || slope < 1e-6 * b) continue;
      looked++;
      if (Math.abs(a - 2 * b + c) + Math.abs(b - 2 * c + d) > ROUGH * slope) rough++;
    }
  }
  return looked > 100 && rough > 0.5 * looked;
}

/**
 * Inverse distances with roughness taken out of surfaces, not over their edges: edge-avoiding à-trous wavelets (Dammertz et al. 2010), row by
 * row and column by column, with the weights of `fitted`.
 */
function smoothed(field: DepthField, onProgress: () => void): DepthField {
  const { width: w, height: h } = field;
  let current = field.inverse;
  for (let spacing = 1; spacing <= Math.max(1, WIDEST * w); spacing *= 2)
    for (const [step, size] of [
      [1, w],
      [w, h],
    ] as const) {
      onProgress();
      const next = new Float32Array(current.length);
      for (let i = 0; i < current.length; i++) {
        const here = current[i]!;
        if (!(here > 0)) continue;
        const at = step === 1 ? i % w : Math.floor(i / w);
        const k = 1 / (ROUGH_MISS * here);
        let [sum, weight] = [0, 0];
        for (let t = -2; t <= 2; t++) {
          const place = at + t * spacing;
          if (place < 0 || place >= size) continue;
          const value = current[i + t * spacing * step]!;
          if (!(value > 0)) continue;
          const miss = (value - here) * k;
          const q = TAPS[t + 2]! / (1 + miss * miss) ** 2;
          sum += q * value;
          weight += q;
        }
        next[i] = sum / weight;
      }
      current = next;
    }
  return { ...field, inverse: current };
}

/**
 * Normals, three floats a pixel (x right, y down, z forward; unit length, facing the camera; zero for sky). Clean maps: slopes of inverse
 * distance from the side that goes on best. Coarse maps: plane fits that forgive half a step. Rough maps, such as estimates: slopes of what is
 * left when the roughness is taken out. `onProgress` is called now and then and may throw.
 */
export function normalsOf(field: DepthField, onProgress: () => void = () => undefined): Float32Array {
  const step = coarseStep(field);
  if (step > 0) return fitted(field, step, onProgress);
  return oneSided(isRough(field) ? smoothed(field, onProgress) : field);
}
