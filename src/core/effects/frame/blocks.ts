import { linearToSrgb, srgbToLinear } from '../../raster/colour';
import { newPicture, type Picture } from '../../raster/picture';
import { count, percent, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';

const params = {
  quality: percent({ label: 'Quality', min: 1, max: 100, lowest: 0, default: 12 }),
  size: count({ label: 'Coarser', min: 1, max: 8, default: 1, help: 'Px of the output that one px of a block stands for' }),
};
export type BlocksValues = ValuesOf<typeof params>;

const N = 8;
/** Orthonormal cosine transform, by rows: coefficient u of sample x (Ahmed, Natarajan & Rao 1974). */
const COSINES = Float32Array.from({ length: N * N }, (_, i) => {
  const [u, x] = [Math.floor(i / N), i % N];
  return Math.sqrt((u === 0 ? 1 : 2) / N) * Math.cos(((2 * x + 1) * u * Math.PI) / (2 * N));
});

/** Steps of the coefficients, of a full scale of 1: coarser towards fine detail, and for colour. */
const stepOf = (u: number, v: number, quality: number, colour: boolean): number =>
  ((colour ? 0.16 : 0.09) * (1 + 0.55 * (u + v)) * (100 - quality) ** 1.5) / 1000 / 0.9;

/** A block there and back, its coefficients rounded to steps. In place. */
export function roundedBlock(block: Float32Array, quality: number, colour: boolean): void {
  const half = new Float32Array(N * N);
  const c = new Float32Array(N * N);
  for (let y = 0; y < N; y++)
    for (let u = 0; u < N; u++) {
      let sum = 0;
      for (let x = 0; x < N; x++) sum += COSINES[u * N + x]! * block[y * N + x]!;
      half[y * N + u] = sum;
    }
  for (let v = 0; v < N; v++)
    for (let u = 0; u < N; u++) {
      let sum = 0;
      for (let y = 0; y < N; y++) sum += COSINES[v * N + y]! * half[y * N + u]!;
      const step = stepOf(u, v, quality, colour);
      c[v * N + u] = step > 0 ? Math.round(sum / step) * step : sum;
    }
  for (let v = 0; v < N; v++)
    for (let x = 0; x < N; x++) {
      let sum = 0;
      for (let u = 0; u < N; u++) sum += c[v * N + u]! * COSINES[u * N + x]!;
      half[v * N + x] = sum;
    }
  for (let y = 0; y < N; y++)
    for (let x = 0; x < N; x++) {
      let sum = 0;
      for (let v = 0; v < N; v++) sum += COSINES[v * N + y]! * half[v * N + x]!;
      block[y * N + x] = sum;
    }
}

/** Steps of the table that encodes light. */
const TABLE = 4096;
let encoded: Float32Array | null = null;

function apply({ picture, params: p, pxScale, run }: EffectInput<BlocksValues>): Picture {
  const { width, height, data } = picture;
  encoded ??= Float32Array.from({ length: TABLE + 1 }, (_, i) => linearToSrgb((i / TABLE) ** 2));
  const table = encoded;
  // small values need the finer steps: the table runs over the root
  const encode = (v: number): number => (v >= 1 ? linearToSrgb(v) : table[Math.round(Math.sqrt(Math.max(0, v)) * TABLE)]!);
  const cell = Math.max(1, Math.round(p.size * pxScale));
  const [w, h] = [Math.ceil(width / cell), Math.ceil(height / cell)];
  // brightness and two differences of colour, at the size of the blocks
  const planes = [new Float32Array(w * h), new Float32Array(w * h), new Float32Array(w * h)] as const;
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      let [r, g, b, n] = [0, 0, 0, 0];
      for (let v = y * cell; v < Math.min(height, (y + 1) * cell); v++)
        for (let u = x * cell; u < Math.min(width, (x + 1) * cell); u++) {
          const o = (v * width + u) * 4;
          r += data[o]!;
          g += data[o + 1]!;
          b += data[o + 2]!;
          n++;
        }
      const [er, eg, eb] = [encode(r / n), encode(g / n), encode(b / n)];
      const luma = 0.299 * er + 0.587 * eg + 0.114 * eb;
      planes[0][y * w + x] = luma;
      planes[1][y * w + x] = er - luma;
      planes[2][y * w + x] = eb - luma;
    }
  const block = new Float32Array(N * N);
  for (let by = 0; by < h; by += N) {
    run.checkpoint(by / h);
    for (let bx = 0; bx < w; bx += N)
      for (const [k, plane] of planes.entries()) {
        for (let y = 0; y < N; y++) for (let x = 0; x < N; x++) block[y * N + x] = plane[Math.min(h - 1, by + y) * w + Math.min(w - 1, bx + x)]!;
        roundedBlock(block, p.quality, k > 0);
        for (let y = 0; y < Math.min(N, h - by); y++) for (let x = 0; x < Math.min(N, w - bx); x++) plane[(by + y) * w + bx + x] = block[y * N + x]!;
      }
  }
  const out = newPicture(width, height, run.shared);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = Math.floor(y / cell) * w + Math.floor(x / cell);
      const luma = planes[0][i]!;
      const r = luma + planes[1][i]!;
      const b = luma + planes[2][i]!;
      const g = (luma - 0.299 * r - 0.114 * b) / 0.587;
      const o = (y * width + x) * 4;
      out.data[o] = srgbToLinear(Math.max(0, r));
      out.data[o + 1] = srgbToLinear(Math.max(0, g));
      out.data[o + 2] = srgbToLinear(Math.max(0, b));
      out.data[o + 3] = data[o + 3]!;
    }
  return out;
}

/** What coarse coding leaves of a picture: cosine blocks of 8x8, their coefficients rounded. */
export const blocks = defineEffect({
  kind: 'blocks',
  group: 'frame',
  label: 'Blocks',
  help: 'Blocks of coarse coding, by quality and size',
  params,
  reach: true,
  needs: () => [],
  summary: (p) => `${p.quality.toFixed(0)} %`,
  apply,
});
