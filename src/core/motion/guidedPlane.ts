import { boxMean } from '../raster/filters';
import type { Plane } from '../raster/picture';

/** Keeps a mean over pixels of no weight finite. */
const LEAST = 1e-4;

/**
 * Guided filter with a grey guide (He, Sun & Tang 2013, eq. 5–8), its means weighed by how well each pixel is known: the map is made a local
 * line of the guide, and what is unknown follows what is known of like brightness.
 */
export function guidedPlane(guide: Plane, map: Plane, radius: number, epsilon: number, weight: Plane): Plane {
  const of = (value: (i: number) => number): Plane => ({ ...map, data: Float32Array.from(map.data, (_, i) => value(i)) });
  const w = (i: number): number => weight.data[i]! + LEAST;
  const [g, p] = [guide.data, map.data];
  const total = boxMean(of(w), radius).data;
  const mean = (value: (i: number) => number): Float32Array =>
    boxMean(
      of((i) => w(i) * value(i)),
      radius,
    ).data.map((s, i) => s / total[i]!);
  const mg = mean((i) => g[i]!);
  const mp = mean((i) => p[i]!);
  const mgg = mean((i) => g[i]! * g[i]!);
  const mgp = mean((i) => g[i]! * p[i]!);
  const slope = of((i) => (mgp[i]! - mg[i]! * mp[i]!) / (mgg[i]! - mg[i]! * mg[i]! + epsilon));
  const base = of((i) => mp[i]! - slope.data[i]! * mg[i]!);
  const [a, b] = [boxMean(slope, radius).data, boxMean(base, radius).data];
  return of((i) => a[i]! * g[i]! + b[i]!);
}
