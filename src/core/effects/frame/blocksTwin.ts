import { quickCurves } from '../../raster/colour';
import { newPicture, type Picture } from '../../picture';
import { N, stepsOf } from './blocks';

/** Orthonormal cosine transform, by rows: coefficient u of sample x (Ahmed, Natarajan & Rao 1974). */
const COSINES = Float64Array.from({ length: N * N }, (_, i) => {
  const [u, x] = [Math.floor(i / N), i % N];
  return Math.sqrt((u === 0 ? 1 : 2) / N) * Math.cos(((2 * x + 1) * u * Math.PI) / (2 * N));
});

/** Eight values `stride` apart to their coefficients: sums and differences of opposite ones halve the work. In place. */
function forward(b: Float64Array, at: number, stride: number): void {
  const [i1, i2, i3, i4] = [at + stride, at + 2 * stride, at + 3 * stride, at + 4 * stride];
  const i5 = i4 + stride;
  const i6 = i5 + stride;
  const i7 = i6 + stride;
  const s0 = b[at]! + b[i7]!;
  const s1 = b[i1]! + b[i6]!;
  const s2 = b[i2]! + b[i5]!;
  const s3 = b[i3]! + b[i4]!;
  const d0 = b[at]! - b[i7]!;
  const d1 = b[i1]! - b[i6]!;
  const d2 = b[i2]! - b[i5]!;
  const d3 = b[i3]! - b[i4]!;
  const c = COSINES;
  b[at] = c[0]! * s0 + c[1]! * s1 + c[2]! * s2 + c[3]! * s3;
  b[i1] = c[8]! * d0 + c[9]! * d1 + c[10]! * d2 + c[11]! * d3;
  b[i2] = c[16]! * s0 + c[17]! * s1 + c[18]! * s2 + c[19]! * s3;
  b[i3] = c[24]! * d0 + c[25]! * d1 + c[26]! * d2 + c[27]! * d3;
  b[i4] = c[32]! * s0 + c[33]! * s1 + c[34]! * s2 + c[35]! * s3;
  b[i5] = c[40]! * d0 + c[41]! * d1 + c[42]! * d2 + c[43]! * d3;
  b[i6] = c[48]! * s0 + c[49]! * s1 + c[50]! * s2 + c[51]! * s3;
  b[i7] = c[56]! * d0 + c[57]! * d1 + c[58]! * d2 + c[59]! * d3;
}

/** The way back. In place. */
function backward(b: Float64Array, at: number, stride: number): void {
  const [i1, i2, i3, i4] = [at + stride, at + 2 * stride, at + 3 * stride, at + 4 * stride];
  const i5 = i4 + stride;
  const i6 = i5 + stride;
  const i7 = i6 + stride;
  const c = COSINES;
  const [e0, e2, e4, e6] = [b[at]!, b[i2]!, b[i4]!, b[i6]!];
  const [o1, o3, o5, o7] = [b[i1]!, b[i3]!, b[i5]!, b[i7]!];
  const s0 = c[0]! * e0 + c[16]! * e2 + c[32]! * e4 + c[48]! * e6;
  const s1 = c[1]! * e0 + c[17]! * e2 + c[33]! * e4 + c[49]! * e6;
  const s2 = c[2]! * e0 + c[18]! * e2 + c[34]! * e4 + c[50]! * e6;
  const s3 = c[3]! * e0 + c[19]! * e2 + c[35]! * e4 + c[51]! * e6;
  const d0 = c[8]! * o1 + c[24]! * o3 + c[40]! * o5 + c[56]! * o7;
  const d1 = c[9]! * o1 + c[25]! * o3 + c[41]! * o5 + c[57]! * o7;
  const d2 = c[10]! * o1 + c[26]! * o3 + c[42]! * o5 + c[58]! * o7;
  const d3 = c[11]! * o1 + c[27]! * o3 + c[43]! * o5 + c[59]! * o7;
  b[at] = s0 + d0;
  b[i1] = s1 + d1;
  b[i2] = s2 + d2;
  b[i3] = s3 + d3;
  b[i4] = s3 - d3;
  b[i5] = s2 - d2;
  b[i6] = s1 - d1;
  b[i7] = s0 - d0;
}

/** A block of 8x8 there and back, its coefficients rounded to their steps. In place. */
export function roundedBlock(block: Float64Array, { step, inverse }: ReturnType<typeof stepsOf>): void {
  for (let y = 0; y < N; y++) forward(block, y * N, 1);
  for (let x = 0; x < N; x++) forward(block, x, N);
  for (let i = 0; i < N * N; i++) if (inverse[i]! > 0) block[i] = Math.round(block[i]! * inverse[i]!) * step[i]!;
  for (let x = 0; x < N; x++) backward(block, x, N);
  for (let y = 0; y < N; y++) backward(block, y * N, 1);
}

/** Planes of brightness and of two differences of colour, at the size of the blocks' px. */
interface Planes {
  readonly width: number;
  readonly height: number;
  readonly luma: Float32Array;
  readonly red: Float32Array;
  readonly blue: Float32Array;
}

function planesOf({ width, height, data }: Picture, cell: number): Planes {
  const [w, h] = [Math.ceil(width / cell), Math.ceil(height / cell)];
  const planes: Planes = { width: w, height: h, luma: new Float32Array(w * h), red: new Float32Array(w * h), blue: new Float32Array(w * h) };
  const { encode } = quickCurves();
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      let r = 0;
      let g = 0;
      let b = 0;
      const [right, below] = [Math.min(width, (x + 1) * cell), Math.min(height, (y + 1) * cell)];
      for (let v = y * cell; v < below; v++)
        for (let u = x * cell; u < right; u++) {
          const o = (v * width + u) * 4;
          r += data[o]!;
          g += data[o + 1]!;
          b += data[o + 2]!;
        }
      const k = 1 / ((right - x * cell) * (below - y * cell));
      const er = encode(r * k);
      const eb = encode(b * k);
      const luma = 0.299 * er + 0.587 * encode(g * k) + 0.114 * eb;
      planes.luma[i] = luma;
      planes.red[i] = er - luma;
      planes.blue[i] = eb - luma;
    }
  return planes;
}

/** What the kernels of blocks do to a picture whose blocks' px are `cell` of its own, plainly. */
export function blocksTwin(picture: Picture, cell: number, quality: number): Picture {
  const { width, height, data } = picture;
  const { width: w, height: h, luma, red, blue } = planesOf(picture, cell);
  const block = new Float64Array(N * N);
  const steps = [stepsOf(quality, false), stepsOf(quality, true), stepsOf(quality, true)];
  for (let by = 0; by < h; by += N) {
    for (let bx = 0; bx < w; bx += N)
      for (const [k, plane] of [luma, red, blue].entries()) {
        for (let y = 0; y < N; y++) {
          const row = Math.min(h - 1, by + y) * w;
          for (let x = 0; x < N; x++) block[y * N + x] = plane[row + Math.min(w - 1, bx + x)]!;
        }
        roundedBlock(block, steps[k]!);
        for (let y = 0; y < Math.min(N, h - by); y++) for (let x = 0; x < Math.min(N, w - bx); x++) plane[(by + y) * w + bx + x] = block[y * N + x]!;
      }
  }
  const out = newPicture(width, height);
  const { decode } = quickCurves();
  for (let y = 0, o = 0; y < height; y++) {
    const row = Math.floor(y / cell) * w;
    for (let x = 0; x < width; x++, o += 4) {
      const i = row + (cell === 1 ? x : Math.floor(x / cell));
      const r = luma[i]! + red[i]!;
      const b = luma[i]! + blue[i]!;
      out.data[o] = decode(r);
      out.data[o + 1] = decode((luma[i]! - 0.299 * r - 0.114 * b) / 0.587);
      out.data[o + 2] = decode(b);
      out.data[o + 3] = data[o + 3]!;
    }
  }
  return out;
}
