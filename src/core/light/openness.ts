import { enlarged, thinned, type DepthField } from './depthField';

const DIRECTIONS = 8;
const STEPS = 6;
/** Looked at no farther than this, px of the small field. */
const FARTHEST = 90;
/** Sine above the tangent plane that is forgiven. */
const FORGIVEN = 0.08;
/** Longest side of the field on which it is worked out, px: what is open changes slowly along a surface. */
const WORKED = 480;
/** Turns of the directions, in a pattern of 4x4 pixels that is smoothed after. */
const TURNS = 16;

const ROUND = Float64Array.from({ length: TURNS * DIRECTIONS * 2 }, (_, i) => {
  const a = (((i >> 1) % DIRECTIONS) + Math.floor(i / 2 / DIRECTIONS) / TURNS) * ((2 * Math.PI) / DIRECTIONS);
  return i % 2 === 0 ? Math.cos(a) : Math.sin(a);
});

/** The normals of a field at every `step`th pixel. */
function thinNormals({ width, height }: DepthField, normals: Float32Array, small: DepthField, step: number): Float32Array {
  const out = new Float32Array(small.inverse.length * 3);
  for (let y = 0, i = 0; y < small.height; y++)
    for (let x = 0; x < small.width; x++, i++) {
      const from = Math.min(height - 1, y * step + (step >> 1)) * width + Math.min(width - 1, x * step + (step >> 1));
      for (let k = 0; k < 3; k++) out[3 * i + k] = normals[3 * from + k]!;
    }
  return out;
}

/** 1 − the mean square sine of the horizons, at each pixel. */
function horizons(
  { width: w, height: h, focalPx: f, inverse }: DepthField,
  normals: Float32Array,
  radius: number,
  onProgress: () => void,
): Float32Array {
  const out = new Float32Array(w * h).fill(1);
  const inside = 1 / (radius * radius);
  for (let y = 0, i = 0; y < h; y++) {
    if (y % 32 === 0) onProgress();
    for (let x = 0; x < w; x++, i++) {
      const q = inverse[i]!;
      const radiusPx = Math.min(FARTHEST, radius * f * q);
      if (!(q > 0) || radiusPx < 1.5) continue;
      const z = 1 / q;
      const px = (z * (x + 0.5 - w / 2)) / f;
      const py = (z * (y + 0.5 - h / 2)) / f;
      const nx = normals[3 * i]!;
      const ny = normals[3 * i + 1]!;
      const nz = normals[3 * i + 2]!;
      const turn = ((x & 3) * 4 + ((y + x) & 3)) * DIRECTIONS * 2;
      let sum = 0;
      for (let d = 0; d < DIRECTIONS; d++) {
        const cx = ROUND[turn + 2 * d]!;
        const cy = ROUND[turn + 2 * d + 1]!;
        let top = 0;
        for (let k = 1; k <= STEPS; k++) {
          const r = 1 + ((radiusPx - 1) * k * k) / (STEPS * STEPS);
          const u = Math.round(x + cx * r);
          const v = Math.round(y + cy * r);
          if (u < 0 || v < 0 || u >= w || v >= h) break;
          const other = inverse[v * w + u]!;
          if (!(other > 0)) continue;
          const oz = 1 / other;
          const ex = (oz * (u + 0.5 - w / 2)) / f - px;
          const ey = (oz * (v + 0.5 - h / 2)) / f - py;
          const ez = oz - z;
          const d2 = ex * ex + ey * ey + ez * ez;
          const fall = 1 - d2 * inside;
          if (fall <= 0) continue;
          const s = ((ex * nx + ey * ny + ez * nz) / Math.sqrt(d2) - FORGIVEN) * fall;
          if (s > top) top = s;
        }
        sum += top * top;
      }
      out[i] = 1 - sum / DIRECTIONS;
    }
  }
  return out;
}

/** Means of 4x4 within surfaces: takes the pattern of turns away. */
function smoothed({ width: w, height: h, inverse }: DepthField, values: Float32Array): Float32Array {
  const out = values.slice();
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const c = inverse[i]!;
      if (!(c > 0)) continue;
      let s = 0;
      let k = 0;
      for (let v = Math.max(0, y - 2); v < Math.min(h, y + 2); v++)
        for (let u = Math.max(0, x - 2); u < Math.min(w, x + 2); u++)
          if (Math.abs(inverse[v * w + u]! - c) < 0.05 * c) {
            s += values[v * w + u]!;
            k++;
          }
      if (k > 0) out[i] = s / k;
    }
  return out;
}

/**
 * How much of what is above each pixel's surface is open, 0..1: horizons in a few directions, weighted by the cosine (Bavoil, Sainz & Dimitrov
 * 2008). Things within `radius` metres count, the farther the less. `onProgress` is called now and then and may throw.
 */
export function opennessOf(field: DepthField, normals: Float32Array, radius: number, onProgress: () => void = () => undefined): Float32Array {
  const step = Math.max(1, Math.floor(Math.max(field.width, field.height) / WORKED));
  if (step === 1) return smoothed(field, horizons(field, normals, radius, onProgress));
  const small = thinned(field, step);
  return enlarged(field, small, smoothed(small, horizons(small, thinNormals(field, normals, small, step), radius, onProgress)), step);
}
