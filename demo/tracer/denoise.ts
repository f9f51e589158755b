/** Two half renders of the same picture; RGB interleaved, linear. */
export interface HalfBuffers {
  width: number;
  height: number;
  a: Float32Array;
  b: Float32Array;
}

const RADIUS = 6;
const PATCH = 1;

const compress = (v: number): number => Math.log1p(Math.max(0, v) * 4);

/**
 * Dual-buffer non-local means (Rousselle, Knaus, Zwicker 2012): weights found in one half filter the other, so that noise
 * does not vote for itself. `features` (per pixel: any number of planes) and their tolerances keep edges of surfaces.
 */
export function denoise(
  { width, height, a, b }: HalfBuffers,
  features: { plane: Float32Array; tolerance: number }[],
  strength: number,
): Float32Array {
  const n = width * height;
  const la = new Float32Array(n);
  const lb = new Float32Array(n);
  const variance = new Float32Array(n);
  const luminance = (s: Float32Array, i: number): number => compress(0.2126 * s[i * 3]! + 0.7152 * s[i * 3 + 1]! + 0.0722 * s[i * 3 + 2]!);
  for (let i = 0; i < n; i++) {
    la[i] = luminance(a, i);
    lb[i] = luminance(b, i);
    variance[i] = 0.5 * (la[i]! - lb[i]!) ** 2;
  }
  const smooth = box(box(variance, width, height, 4), width, height, 4);
  const sum = [new Float32Array(n * 3), new Float32Array(n * 3)] as const;
  const total = [new Float32Array(n), new Float32Array(n)] as const;
  const guides = [la, lb] as const;
  const sources = [b, a] as const;
  const raw = new Float32Array(n);
  for (let dy = -RADIUS; dy <= RADIUS; dy++)
    for (let dx = -RADIUS; dx <= RADIUS; dx++)
      for (let half = 0; half < 2; half++) {
        const guide = guides[half]!;
        for (let y = 0; y < height; y++) {
          const yy = Math.min(height - 1, Math.max(0, y + dy));
          for (let x = 0; x < width; x++) {
            const xx = Math.min(width - 1, Math.max(0, x + dx));
            const i = y * width + x;
            const j = yy * width + xx;
            const d = guide[i]! - guide[j]!;
            const v = smooth[i]! + Math.min(smooth[i]!, smooth[j]!);
            raw[i] = (d * d - v) / (1e-6 + strength * strength * (smooth[i]! + smooth[j]!));
          }
        }
        const distance = box(raw, width, height, PATCH);
        const source = sources[half]!;
        const s = sum[half]!;
        const t = total[half]!;
        for (let y = 0; y < height; y++) {
          const yy = y + dy;
          if (yy < 0 || yy >= height) continue;
          for (let x = 0; x < width; x++) {
            const xx = x + dx;
            if (xx < 0 || xx >= width) continue;
            const i = y * width + x;
            const j = yy * width + xx;
            let e = Math.max(0, distance[i]!);
            for (const f of features) {
              const q = (f.plane[i]! - f.plane[j]!) / f.tolerance;
              e += q * q;
            }
            if (e > 8) continue;
            const w = Math.exp(-e);
            s[i * 3]! += w * source[j * 3]!;
            s[i * 3 + 1]! += w * source[j * 3 + 1]!;
            s[i * 3 + 2]! += w * source[j * 3 + 2]!;
            t[i]! += w;
          }
        }
      }
  const out = new Float32Array(n * 3);
  for (let i = 0; i < n * 3; i++) {
    const p = Math.floor(i / 3);
    out[i] = 0.5 * (sum[0][i]! / total[0][p]! + sum[1][i]! / total[1][p]!);
  }
  return out;
}

/** Box mean of radius r, windows clamped at the border. */
export function box(source: Float32Array, width: number, height: number, r: number): Float32Array {
  const rows = new Float32Array(source.length);
  const out = new Float32Array(source.length);
  for (let y = 0; y < height; y++) {
    let s = 0;
    const o = y * width;
    for (let x = 0; x < Math.min(width, r); x++) s += source[o + x]!;
    for (let x = 0; x < width; x++) {
      if (x + r < width) s += source[o + x + r]!;
      if (x - r - 1 >= 0) s -= source[o + x - r - 1]!;
      rows[o + x] = s / (Math.min(width - 1, x + r) - Math.max(0, x - r) + 1);
    }
  }
  for (let x = 0; x < width; x++) {
    let s = 0;
    for (let y = 0; y < Math.min(height, r); y++) s += rows[y * width + x]!;
    for (let y = 0; y < height; y++) {
      if (y + r < height) s += rows[(y + r) * width + x]!;
      if (y - r - 1 >= 0) s -= rows[(y - r - 1) * width + x]!;
      out[y * width + x] = s / (Math.min(height - 1, y + r) - Math.max(0, y - r) + 1);
    }
  }
  return out;
}
