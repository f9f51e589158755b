import type { DepthField } from './depthField';

const DIRECTIONS = 8;
const STEPS = 6;
/** Looked at no farther than this, px. */
const FARTHEST = 160;
/** Sine above the tangent plane that is forgiven. */
const FORGIVEN = 0.08;

/**
 * How much of what is above each pixel's surface is open, 0..1: horizons in a few directions, weighted by the cosine (Bavoil, Sainz & Dimitrov
 * 2008). Things within `radius` metres count, the farther the less.
 */
export function opennessOf(
  { width: w, height: h, focalPx: f, inverse }: DepthField,
  normals: Float32Array,
  radius: number,
  look: () => void = () => undefined,
): Float32Array {
  const turns = new Float32Array(w * h).fill(1);
  for (let y = 0, i = 0; y < h; y++) {
    if (y % 32 === 0) look();
    for (let x = 0; x < w; x++, i++) {
      const q = inverse[i]!;
      const reach = Math.min(FARTHEST, radius * f * q);
      if (!(q > 0) || reach < 1.5) continue;
      const z = 1 / q;
      const [px, py] = [(z * (x + 0.5 - w / 2)) / f, (z * (y + 0.5 - h / 2)) / f];
      const [nx, ny, nz] = [normals[3 * i]!, normals[3 * i + 1]!, normals[3 * i + 2]!];
      // sixteen turns in a pattern, smoothed after
      const turn = ((x & 3) * 4 + ((y + x) & 3)) / 16;
      let sum = 0;
      for (let d = 0; d < DIRECTIONS; d++) {
        const a = ((d + turn) / DIRECTIONS) * 2 * Math.PI;
        const [cx, cy] = [Math.cos(a), Math.sin(a)];
        let top = 0;
        for (let k = 1; k <= STEPS; k++) {
          const r = 1 + (reach - 1) * (k / STEPS) ** 2;
          const [u, v] = [Math.round(x + cx * r), Math.round(y + cy * r)];
          if (u < 0 || v < 0 || u >= w || v >= h) break;
          const other = inverse[v * w + u]!;
          if (!(other > 0)) continue;
          const oz = 1 / other;
          const [ex, ey, ez] = [(oz * (u + 0.5 - w / 2)) / f - px, (oz * (v + 0.5 - h / 2)) / f - py, oz - z];
          const d2 = ex * ex + ey * ey + ez * ez;
          const fall = 1 - d2 / (radius * radius);
          if (fall <= 0) continue;
          const s = ((ex * nx + ey * ny + ez * nz) / Math.sqrt(d2) - FORGIVEN) * fall;
          if (s > top) top = s;
        }
        sum += top * top;
      }
      turns[i] = 1 - sum / DIRECTIONS;
    }
  }
  const out = turns.slice();
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const c = inverse[i]!;
      if (!(c > 0)) continue;
      let [s, k] = [0, 0];
      for (let v = Math.max(0, y - 2); v < Math.min(h, y + 2); v++)
        for (let u = Math.max(0, x - 2); u < Math.min(w, x + 2); u++)
          if (Math.abs(inverse[v * w + u]! - c) < 0.05 * c) {
            s += turns[v * w + u]!;
            k++;
          }
      if (k > 0) out[i] = s / k;
    }
  return out;
}
