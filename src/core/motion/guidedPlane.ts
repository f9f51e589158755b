import { boxMeans } from '../kernels/motionHost';
import type { Plane } from '../picture';

/** Keeps a mean over pixels of no weight finite. */
const LEAST = 1e-4;

/**
 * Guided filter with a grey guide (He, Sun & Tang 2013, eq. 5–8), its means weighed by how well each pixel is known: the map is made a local
 * line of the guide, and what is unknown follows what is known of like brightness.
 */
export function guidedPlane(guide: Plane, map: Plane, radius: number, epsilon: number, weight: Plane): Plane {
  const { width, height } = map;
  const n = map.data.length;
  const [g, p] = [guide.data, map.data];
  const parts = Array.from({ length: 5 }, () => new Float32Array(n)) as [Float32Array, Float32Array, Float32Array, Float32Array, Float32Array];
  const [w, wg, wp, wgg, wgp] = parts;
  for (let i = 0; i < n; i++) {
    const k = weight.data[i]! + LEAST;
    w[i] = k;
    wg[i] = k * g[i]!;
    wp[i] = k * p[i]!;
    wgg[i] = wg[i]! * g[i]!;
    wgp[i] = wg[i]! * p[i]!;
  }
  const [total, mg, mp, mgg, mgp] = boxMeans(parts, width, height, radius) as typeof parts;
  // the sums are no longer needed: slope and base take their place
  for (let i = 0; i < n; i++) {
    const k = 1 / total[i]!;
    const meanG = mg[i]! * k;
    const meanP = mp[i]! * k;
    const slope = (mgp[i]! * k - meanG * meanP) / (mgg[i]! * k - meanG * meanG + epsilon);
    w[i] = slope;
    wg[i] = meanP - slope * meanG;
  }
  const [slope, base] = boxMeans([w, wg], width, height, radius) as [Float32Array, Float32Array];
  const data = new Float32Array(n);
  for (let i = 0; i < n; i++) data[i] = slope[i]! * g[i]! + base[i]!;
  return { width, height, data };
}
