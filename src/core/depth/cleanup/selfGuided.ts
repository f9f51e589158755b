import { boxMean } from '../../raster/filters';
import { newFloats, newPlane, type Plane } from '../../picture';

/**
 * Smooths a map but for its own edges: a guided filter whose guide is the map itself (He, Sun & Tang 2013, eq. 5–8).
 * Differences well below `tolerance` are smoothed over `radius` px, larger ones kept. NaN is left out and stays.
 */
export function selfGuided(map: Plane, radius: number, tolerance: number): Plane {
  const { width, height, data } = map;
  const known = newPlane(width, height);
  const value = newPlane(width, height);
  const square = newPlane(width, height);
  let holes = false;
  for (let i = 0; i < data.length; i++) {
    const v = data[i]!;
    if (v !== v) {
      holes = true;
      continue;
    }
    known.data[i] = 1;
    value.data[i] = v;
    square.data[i] = v * v;
  }
  const weight = holes ? boxMean(known, radius) : known;
  const mean = boxMean(value, radius);
  const meanSquare = boxMean(square, radius);
  const a = { width, height, data: newFloats(data.length) };
  const b = { width, height, data: newFloats(data.length) };
  const eps = tolerance * tolerance;
  for (let i = 0; i < data.length; i++) {
    const w = holes ? Math.max(1e-6, weight.data[i]!) : 1;
    const m = mean.data[i]! / w;
    const variance = Math.max(0, meanSquare.data[i]! / w - m * m);
    const k = variance / (variance + eps);
    a.data[i] = k;
    b.data[i] = m * (1 - k);
  }
  const meanA = boxMean(a, radius);
  const meanB = boxMean(b, radius);
  const out = newPlane(width, height);
  for (let i = 0; i < data.length; i++) out.data[i] = data[i] === data[i] ? meanA.data[i]! * data[i]! + meanB.data[i]! : NaN;
  return out;
}
