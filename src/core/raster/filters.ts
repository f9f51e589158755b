import { newFloats, type Plane } from '../picture';

/** Box mean of radius r px with windows clamped at the border (linear time). */
export function boxMean(plane: Plane, r: number): Plane {
  const { width: w, height: h, data } = plane;
  const rows = newFloats(data.length);
  const out = newFloats(data.length);
  for (let y = 0; y < h; y++) {
    const o = y * w;
    let s = 0;
    for (let x = 0; x < Math.min(w, r); x++) s += data[o + x]!;
    for (let x = 0; x < w; x++) {
      if (x + r < w) s += data[o + x + r]!;
      if (x - r - 1 >= 0) s -= data[o + x - r - 1]!;
      rows[o + x] = s / (Math.min(w - 1, x + r) - Math.max(0, x - r) + 1);
    }
  }
  const column = new Float64Array(w);
  for (let y = 0; y < Math.min(h, r); y++) for (let x = 0; x < w; x++) column[x]! += rows[y * w + x]!;
  for (let y = 0; y < h; y++) {
    const enter = y + r < h ? (y + r) * w : -1;
    const leave = y - r - 1 >= 0 ? (y - r - 1) * w : -1;
    const scale = 1 / (Math.min(h - 1, y + r) - Math.max(0, y - r) + 1);
    for (let x = 0; x < w; x++) {
      let s = column[x]!;
      if (enter >= 0) s += rows[enter + x]!;
      if (leave >= 0) s -= rows[leave + x]!;
      column[x] = s;
      out[y * w + x] = s * scale;
    }
  }
  return { width: w, height: h, data: out };
}

/** Radii of three box means whose variances add up to sigma² px², as nearly as whole radii can (Kovesi 2010); those of 0 are left out. */
export function gaussianRadii(sigma: number): readonly number[] {
  if (sigma <= 0) return [];
  const small = Math.max(0, Math.floor((Math.sqrt(4 * sigma * sigma + 1) - 1) / 2));
  const varianceOf = (r: number): number => ((2 * r + 1) ** 2 - 1) / 12;
  const missing = sigma * sigma - 3 * varianceOf(small);
  const wider = Math.min(3, Math.max(small === 0 ? 1 : 0, Math.round(missing / (varianceOf(small + 1) - varianceOf(small)))));
  return [0, 1, 2].map((pass) => (pass < wider ? small + 1 : small)).filter((r) => r > 0);
}

/** Near-Gaussian smoothing by three box means. */
export const gaussian = (plane: Plane, sigma: number): Plane => gaussianRadii(sigma).reduce(boxMean, plane);

/** Smallest or largest value of the (2r+1)² window. */
export function extreme(plane: Plane, r: number, which: 'smallest' | 'largest'): Plane {
  const { width: w, height: h, data } = plane;
  const pick = which === 'smallest' ? Math.min : Math.max;
  const rows = newFloats(data.length);
  const out = newFloats(data.length);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let v = data[y * w + x]!;
      for (let u = Math.max(0, x - r); u <= Math.min(w - 1, x + r); u++) v = pick(v, data[y * w + u]!);
      rows[y * w + x] = v;
    }
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let v = rows[y * w + x]!;
      for (let j = Math.max(0, y - r); j <= Math.min(h - 1, y + r); j++) v = pick(v, rows[j * w + x]!);
      out[y * w + x] = v;
    }
  return { width: w, height: h, data: out };
}

/** Length of the central-difference gradient, per px. */
export function gradient(plane: Plane): Plane {
  const { width: w, height: h, data } = plane;
  const out = newFloats(data.length);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const gx = data[y * w + Math.min(w - 1, x + 1)]! - data[y * w + Math.max(0, x - 1)]!;
      const gy = data[Math.min(h - 1, y + 1) * w + x]! - data[Math.max(0, y - 1) * w + x]!;
      out[y * w + x] = 0.5 * Math.sqrt(gx * gx + gy * gy);
    }
  return { width: w, height: h, data: out };
}

/** Value below which the given share (0..1) of a plane lies, from a sample of at most 20 000 pixels. */
export function quantile(plane: Plane, share: number): number {
  const step = Math.max(1, Math.floor(plane.data.length / 20000));
  const sample = new Float32Array(Math.ceil(plane.data.length / step));
  for (let i = 0; i < sample.length; i++) sample[i] = plane.data[i * step]!;
  sample.sort();
  return sample[Math.min(sample.length - 1, Math.max(0, Math.round(share * (sample.length - 1))))] ?? 0;
}
