import { distanceOf, hueNearness, nearnessOf, type Calibration } from './calibrate';
import { boxMean } from '../raster/filters';
import type { Plane } from '../picture';

/** Steps of a spread. */
export const HUE_STEPS = 128;
/** Greys of the raw map that are told apart. */
export const GREYS = 4096;
/** Share of the equal parts against the logarithm of distance. */
const EQUAL = 0.6;
/** Pixels that are counted at the most. */
const COUNTED = 200000;

/** Where each of HUE_STEPS + 1 places in the logarithm of distance (0 far, 1 near) lies among the hues. */
export type HueSpread = Float32Array;

/** Place in the logarithm of distance, 0 far to 1 near, of every grey of a raw map. */
export const greyPlaces = (c: Calibration): Float32Array =>
  Float32Array.from({ length: GREYS + 1 }, (_, i) => hueNearness(distanceOf(nearnessOf(i / GREYS, c), c), c));

export const greyOf = (raw: number): number => (Math.min(1, Math.max(0, raw)) * GREYS + 0.5) | 0;

/**
 * Spreads the hues by a picture's own depths: half way between equal shares of its pixels (histogram equalisation) and the logarithm of
 * distance, so that a shot whose depths lie close together shows its relief. Rises from 0 to 1.
 */
export function spreadHues(raw: Plane, places: Float32Array): HueSpread {
  const bins = new Float64Array(HUE_STEPS);
  const step = Math.max(1, Math.floor(raw.data.length / COUNTED));
  for (let i = 0; i < raw.data.length; i += step) {
    const v = raw.data[i]!;
    if (v !== v) continue;
    // a pixel counts half to either side of its place
    const t = Math.min(HUE_STEPS - 1, Math.max(0, places[greyOf(v)]! * HUE_STEPS - 0.5));
    const k = Math.min(HUE_STEPS - 2, Math.floor(t));
    bins[k]! += 1 - (t - k);
    bins[k + 1]! += t - k;
  }
  const total = bins.reduce((sum, n) => sum + n, 0);
  const spread = new Float32Array(HUE_STEPS + 1);
  let farther = 0;
  for (let k = 0; k <= HUE_STEPS; k++) {
    const here = k / HUE_STEPS;
    // of the pixels that lie on either side of a place, the share that is farther
    const equal = total > 0 ? farther / total : here;
    spread[k] = here + EQUAL * (equal - here);
    if (k < HUE_STEPS) farther += bins[k]!;
  }
  return spread;
}

/** The hue at a place in the logarithm of distance. */
export function spreadAt(spread: HueSpread, place: number): number {
  const t = Math.min(1, Math.max(0, place)) * HUE_STEPS;
  const k = Math.min(HUE_STEPS - 1, Math.floor(t));
  return spread[k]! + (spread[k + 1]! - spread[k]!) * (t - k);
}

/** The hue of a distance, 0 far to 1 near; without a spread even in its logarithm. */
export const hueOf = (distance: number, c: Pick<Calibration, 'near' | 'far'>, spread: HueSpread | null): number => {
  const place = hueNearness(distance, c);
  return spread ? spreadAt(spread, place) : place;
};

/** A step between neighbours at which it is an edge and no slope any more, in hues. */
const EDGE = 0.06;
/** How much light a slope gains or loses at the most. */
const RELIEF = 0.26;

/**
 * Light on a map's relief as from the upper left, around 1: hues are a height, and slopes that face the light are brighter. Steepness is
 * taken against what is usual in the picture, edges are left out (hill shading: Horn 1981, eq. 1-2).
 */
export function slopeShade(hues: Float32Array, width: number, height: number): Float32Array {
  const out = new Float32Array(width * height).fill(1);
  // slopes over a few pixels, so that the grain of a map does not show
  const radius = Math.max(1, Math.round(Math.max(width, height) / 260));
  const lit = new Float32Array(width * height);
  let sum = 0;
  let counted = 0;
  for (let y = radius; y < height - radius; y++)
    for (let x = radius; x < width - radius; x++) {
      const i = y * width + x;
      const dx = hues[i + radius]! - hues[i - radius]!;
      const dy = hues[i + radius * width]! - hues[i - radius * width]!;
      const slope = Math.max(0, 1 - Math.max(Math.abs(dx), Math.abs(dy)) / EDGE);
      if (slope === 0) continue;
      lit[i] = slope * (dx + dy);
      sum += Math.abs(lit[i]);
      counted++;
    }
  const usual = counted > 0 ? sum / counted : 0;
  if (usual < 1e-6) return out;
  // a map that was snapped to its picture has the picture's grain in its slopes; along edges only what is on one side counts
  const light = boxMean({ width, height, data: lit }, radius).data;
  const share = boxMean({ width, height, data: lit.map((v) => (v === 0 ? 0 : 1)) }, radius).data;
  for (let i = 0; i < out.length; i++) if (lit[i] !== 0) out[i] = 1 + RELIEF * Math.tanh(light[i]! / (3 * usual * share[i]!));
  return out;
}
