import { newFloats, type Plane } from '../../raster/picture';

/** Below this share of neighbours that are exactly alike, a map has no flat steps. */
const FLAT_SHARE = 0.25;
const SAMPLES = 200000;

/**
 * The step of a map's grey levels: the difference that most often lies between neighbours that differ at all.
 * 0 where the map is not made of flat steps.
 */
export function greyStep(map: Plane): number {
  const { width, data } = map;
  const stride = Math.max(1, Math.floor(data.length / SAMPLES));
  const found: number[] = [];
  let alike = 0;
  let seen = 0;
  for (let i = 0; i + width < data.length; i += stride) {
    if ((i + 1) % width === 0) continue;
    for (const j of [i + 1, i + width]) {
      const d = Math.abs(data[i]! - data[j]!);
      if (d !== d) continue;
      seen++;
      if (d < 1e-6) alike++;
      else if (d < 0.1) found.push(d);
    }
  }
  if (seen === 0 || alike < FLAT_SHARE * seen || found.length < 20) return 0;
  found.sort((a, b) => a - b);
  return found[Math.floor(found.length * 0.25)]!;
}

/** Numbers of greys that are looked for, less one: few, and what files have. */
const COMBS = [...Array.from({ length: 60 }, (_, i) => i + 6), 99, 127, 255];
/** A value this near a tooth of the comb, in steps, lies on it; by chance an eighth would. */
const TOOTH = 0.0625;
const ON_TEETH = 0.5;
/** So many teeth have to be used, each by a hundredth: a few even surfaces are no bands. */
const LEAST_TEETH = 8;

/**
 * The step of a map that had flat steps of grey and was enlarged since: its values crowd at even distances, though neighbours
 * are hardly ever alike. 0 where they do not.
 */
export function enlargedStep(map: Plane): number {
  const stride = Math.max(1, Math.floor(map.data.length / 20000));
  const values: number[] = [];
  for (let i = 0; i < map.data.length; i += stride) {
    const v = map.data[i]!;
    if (v > 0.004 && v < 0.996) values.push(v);
  }
  if (values.length < 500) return 0;
  for (const teeth of COMBS) {
    const used = new Uint32Array(teeth + 1);
    let on = 0;
    for (const v of values) {
      const k = Math.round(v * teeth);
      if (Math.abs(v * teeth - k) > TOOTH) continue;
      on++;
      used[k]!++;
    }
    if (on < ON_TEETH * values.length) continue;
    const many = used.filter((n) => n >= Math.min(0.01, 0.3 / teeth) * values.length).length;
    if (many >= Math.min(LEAST_TEETH, teeth - 1)) return 1 / teeth;
  }
  return 0;
}

/** The steps of a map as flat ones: as they are, or as they were before it was enlarged. */
export function flatSteps(map: Plane): { step: number; map: Plane } {
  // between the steps of an enlarged map lie smaller ones that enlarging made: the comb is looked for first
  const before = enlargedStep(map);
  return before > 0 ? { step: before, map: toSteps(map, before) } : { step: greyStep(map), map };
}

/** Every value at the nearest grey there was. */
export const toSteps = (map: Plane, step: number): Plane => ({ ...map, data: map.data.map((v) => Math.round(v / step) * step) });

/** Share 0..1 of pixels that lie on a flat step with a single grey step beside it nearby: what shows as bands. */
export function bandShare(from: Plane): number {
  const { step, map } = flatSteps(from);
  if (step === 0) return 0;
  const { width, height, data } = map;
  let banded = 0;
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const v = data[i]!;
      let flat = 0;
      for (const j of [i - 1, i + 1, i - width, i + width]) if (Math.abs(data[j]! - v) < 1e-6) flat++;
      // along a step two neighbours are alike on a smooth slope as well
      if (flat >= 3) banded++;
    }
  return banded / Math.max(1, (width - 2) * (height - 2));
}

/** Weights of a chamfer distance (Borgefors 1986). */
const STRAIGHT = 1;
const SLANTED = Math.SQRT2;

/** Rounds of sweeps: enough for steps that wind round things. */
const SWEEPS = 3;

/**
 * Distance in px from every pixel to the nearest place where its own flat step meets one that lies higher (`up`) or lower,
 * measured within the step. Infinity where there is none. A difference of more than `most` is an edge of things and no step.
 */
export function distanceToStep(map: Plane, up: boolean, most: number): Float32Array {
  const { width, height, data } = map;
  const out = newFloats(data.length).fill(Infinity);
  const sign = up ? 1 : -1;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const v = data[i]!;
      const a = x > 0 ? sign * (data[i - 1]! - v) : 0;
      const b = x + 1 < width ? sign * (data[i + 1]! - v) : 0;
      const c = y > 0 ? sign * (data[i - width]! - v) : 0;
      const d = y + 1 < height ? sign * (data[i + width]! - v) : 0;
      if ((a > 1e-6 && a <= most) || (b > 1e-6 && b <= most) || (c > 1e-6 && c <= most) || (d > 1e-6 && d <= most)) out[i] = 0.5;
    }
  for (let round = 0; round < SWEEPS; round++) {
    const there = sweep(out, data, width, height, 1);
    const back = sweep(out, data, width, height, -1);
    if (!there && !back) break;
  }
  return out;
}

/** One pass of the chamfer distance, forwards or backwards, over places of the same grey. Tells whether anything became nearer. */
function sweep(out: Float32Array, data: Float32Array, width: number, height: number, way: 1 | -1): boolean {
  let changed = false;
  const last = width - 1;
  for (let k = 0; k < height; k++) {
    const y = way > 0 ? k : height - 1 - k;
    for (let m = 0; m < width; m++) {
      const x = way > 0 ? m : last - m;
      const i = y * width + x;
      const v = data[i]!;
      const low = v - 1e-6;
      const high = v + 1e-6;
      const now = out[i]!;
      let best = now;
      if (m > 0) {
        const j = i - way;
        const d = out[j]! + STRAIGHT;
        if (d < best && data[j]! > low && data[j]! < high) best = d;
      }
      if (k > 0) {
        const j = i - way * width;
        const d = out[j]! + STRAIGHT;
        if (d < best && data[j]! > low && data[j]! < high) best = d;
        if (x > 0) {
          const e = out[j - 1]! + SLANTED;
          if (e < best && data[j - 1]! > low && data[j - 1]! < high) best = e;
        }
        if (x < last) {
          const e = out[j + 1]! + SLANTED;
          if (e < best && data[j + 1]! > low && data[j + 1]! < high) best = e;
        }
      }
      if (best < now) {
        out[i] = best;
        changed = true;
      }
    }
  }
  return changed;
}
