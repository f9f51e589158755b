import { newFloats, type Plane } from '../../picture';

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

/** Steps of grey that still count as a slope; what differs by more is an edge of things. */
const SLOPE_STEPS = 1.5;
/** How many times wider than its neighbour a step may be and still be the same slope. */
const WIDER = 2;

/**
 * How far, −1..1 half steps, the slope that flat steps of grey stand for lies above them. Where a step meets the next higher one the
 * slope has risen half a step above it, where it meets the next lower one half a step below. On a step about as wide as those beside
 * it, it runs between the two in proportion to the distances to both: on a ramp that is exact. On one much wider it levels out as far
 * from the border as the narrow neighbour is wide, so that a wall stays even where a floor runs up to it, and a blade of grass lifts
 * nothing around it. Edges of things are no steps and keep their place.
 */
export function slopeWithin(map: Plane, step: number): Float32Array {
  const up = distanceToStep(map, true, SLOPE_STEPS * step);
  const down = distanceToStep(map, false, SLOPE_STEPS * step);
  const widthAt = (i: number): number => (i < 0 ? Infinity : up.distance[i]! + down.distance[i]!);
  const out = newFloats(map.data.length);
  for (let i = 0; i < out.length; i++) {
    const a = up.distance[i]!;
    const b = down.distance[i]!;
    if (a === Infinity && b === Infinity) continue;
    const own = a + b;
    const above = widthAt(up.beyond[i]!);
    const below = widthAt(down.beyond[i]!);
    // a neighbour whose other border is not seen tells nothing: the one on the other side speaks for it
    const reachUp = Math.min(own, WIDER * (above < Infinity ? above : below));
    const reachDown = Math.min(own, WIDER * (below < Infinity ? below : above));
    let lift = 0;
    if (a < Infinity && reachUp < Infinity) lift += Math.max(0, 1 - (2 * a) / reachUp);
    if (b < Infinity && reachDown < Infinity) lift -= Math.max(0, 1 - (2 * b) / reachDown);
    out[i] = lift;
  }
  return out;
}

/** Below this share of the way from the flat step to its slope a pixel still shows as a band. */
const STILL = 0.3;

/** Share 0..1 of pixels that still lie on a flat step where the steps of `like` stand for a slope: what shows as bands. */
export function bandShare(map: Plane, like: Plane = map): number {
  const { step, map: steps } = flatSteps(like);
  if (step === 0) return 0;
  const lift = slopeWithin(steps, step);
  let banded = 0;
  for (let i = 0; i < lift.length; i++) {
    const rise = 0.5 * step * Math.abs(lift[i]!);
    if (rise > 0.02 * step && Math.abs(map.data[i]! - steps.data[i]!) < STILL * rise) banded++;
  }
  return banded / lift.length;
}

/** Weights of a chamfer distance (Borgefors 1986). */
const STRAIGHT = 1;
const SLANTED = Math.SQRT2;

/** Rounds of sweeps: enough for steps that wind round things. */
const SWEEPS = 3;

export interface StepDistance {
  /** px to the nearest place where the flat step meets the next one; Infinity where there is none */
  readonly distance: Float32Array;
  /** index of the pixel just beyond that place; -1 where there is none */
  readonly beyond: Int32Array;
}

/**
 * Distance in px from every pixel to the nearest place where its own flat step meets one that lies higher (`up`) or lower,
 * measured within the step. A difference of more than `most` is an edge of things and no step.
 */
export function distanceToStep(map: Plane, up: boolean, most: number): StepDistance {
  const { width, height, data } = map;
  const distance = newFloats(data.length).fill(Infinity);
  const beyond = new Int32Array(data.length).fill(-1);
  const sign = up ? 1 : -1;
  const meets = (i: number, j: number): void => {
    const d = sign * (data[j]! - data[i]!);
    if (d > 1e-6 && d <= most) {
      distance[i] = 0.5;
      beyond[i] = j;
    }
  };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (x > 0) meets(i, i - 1);
      if (x + 1 < width) meets(i, i + 1);
      if (y > 0) meets(i, i - width);
      if (y + 1 < height) meets(i, i + width);
    }
  const out = { distance, beyond };
  for (let round = 0; round < SWEEPS; round++) {
    const there = sweep(out, data, width, height, 1);
    const back = sweep(out, data, width, height, -1);
    if (!there && !back) break;
  }
  return out;
}

/** One pass of the chamfer distance, forwards or backwards, over places of the same grey. Tells whether anything became nearer. */
function sweep({ distance, beyond }: StepDistance, data: Float32Array, width: number, height: number, way: 1 | -1): boolean {
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
      const now = distance[i]!;
      let best = now;
      let from = -1;
      if (m > 0) {
        const j = i - way;
        const d = distance[j]! + STRAIGHT;
        if (d < best && data[j]! > low && data[j]! < high) {
          best = d;
          from = j;
        }
      }
      if (k > 0) {
        const j = i - way * width;
        const d = distance[j]! + STRAIGHT;
        if (d < best && data[j]! > low && data[j]! < high) {
          best = d;
          from = j;
        }
        if (x > 0) {
          const e = distance[j - 1]! + SLANTED;
          if (e < best && data[j - 1]! > low && data[j - 1]! < high) {
            best = e;
            from = j - 1;
          }
        }
        if (x < last) {
          const e = distance[j + 1]! + SLANTED;
          if (e < best && data[j + 1]! > low && data[j + 1]! < high) {
            best = e;
            from = j + 1;
          }
        }
      }
      if (from >= 0) {
        distance[i] = best;
        beyond[i] = beyond[from]!;
        changed = true;
      }
    }
  }
  return changed;
}
