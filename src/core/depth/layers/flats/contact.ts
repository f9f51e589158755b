import { gaussian } from '../../../raster/filters';
import type { Plane } from '../../../picture';

/** Something upright that keeps light from what stands close to it. */
export interface Standing {
  /** coverage 0..1 in the output */
  readonly cover: Plane;
  /** metres */
  readonly distance: number;
  /** height in the output, px */
  readonly height: number;
}

/** Widths of the shadow, as shares of a thing's height: of what touches it, and farther and farther from it. */
const WIDTHS = [0.02, 0.06, 0.18];
/** A gap of this share of its height halves the shadow. */
const REACH = 0.3;
/** What stands before it is open to the light from there. */
const BEFORE = 0.5;

/**
 * Light that is left of the sky's where something stands close before, or on, what is seen, 1 where nothing does: an upright thing hides a part of
 * the sky, the larger the nearer it is, with a border as soft as the gap is wide. `distance`: metres of what lies below. `focal`: px.
 * `strength` 0..1: what is kept from where it touches.
 */
export function contactLight({ cover, distance: at, height }: Standing, distance: Plane, focal: number, strength: number): Float32Array {
  const out = new Float32Array(distance.data.length).fill(1);
  const blurs = WIDTHS.map((w) => gaussian(cover, Math.max(0.7, w * height)));
  for (let i = 0; i < out.length; i++) {
    const z = distance.data[i]!;
    // the gap as it would be seen at the thing's own distance, in its heights
    const gap = Number.isFinite(z) ? (Math.abs(z - at) / at) * (focal / height) : Infinity;
    if (gap > 8 * REACH) continue;
    const place = Math.min(WIDTHS.length - 1.001, Math.max(0, Math.log(Math.max(1e-6, gap) / WIDTHS[0]!) / Math.log(3)));
    const k = Math.floor(place);
    const t = place - k;
    const hidden = blurs[k]!.data[i]! * (1 - t) + blurs[k + 1]!.data[i]! * t;
    const fall = 1 / (1 + (gap / REACH) ** 2);
    out[i] = 1 - strength * (z < at ? BEFORE : 1) * fall * hidden;
  }
  return out;
}
