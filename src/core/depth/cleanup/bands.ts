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

/** Share 0..1 of pixels that lie on a flat step with a single grey step beside it nearby: what shows as bands. */
export function bandShare(map: Plane): number {
  const { width, height, data } = map;
  const step = greyStep(map);
  if (step === 0) return 0;
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
      const meets = (j: number): boolean => {
        const d = sign * (data[j]! - v);
        return d > 1e-6 && d <= most;
      };
      if ((x > 0 && meets(i - 1)) || (x + 1 < width && meets(i + 1)) || (y > 0 && meets(i - width)) || (y + 1 < height && meets(i + width)))
        out[i] = 0.5;
    }
  const relax = (i: number, j: number, cost: number): void => {
    const d = out[j]! + cost;
    if (d < out[i]! && Math.abs(data[i]! - data[j]!) < 1e-6) out[i] = d;
  };
  for (let round = 0; round < SWEEPS; round++) {
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const i = y * width + x;
        if (x > 0) relax(i, i - 1, STRAIGHT);
        if (y > 0) {
          relax(i, i - width, STRAIGHT);
          if (x > 0) relax(i, i - width - 1, SLANTED);
          if (x + 1 < width) relax(i, i - width + 1, SLANTED);
        }
      }
    for (let y = height - 1; y >= 0; y--)
      for (let x = width - 1; x >= 0; x--) {
        const i = y * width + x;
        if (x + 1 < width) relax(i, i + 1, STRAIGHT);
        if (y + 1 < height) {
          relax(i, i + width, STRAIGHT);
          if (x + 1 < width) relax(i, i + width + 1, SLANTED);
          if (x > 0) relax(i, i + width - 1, SLANTED);
        }
      }
  }
  return out;
}
