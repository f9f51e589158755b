import { footprints, sampleGrid } from '../kernels/lightHost';
import { decodeTable } from './colour';
import { fullScale, newPicture, newPlane, type Picture, type Plane, type Raster } from '../picture';

/** Maps an output pixel position to a source position: x = a·u + b·v + c, y = d·u + e·v + f, both in pixels. */
export interface Affine {
  readonly a: number;
  readonly b: number;
  readonly c: number;
  readonly d: number;
  readonly e: number;
  readonly f: number;
}

/** The map the other way round. */
export function invertAffine(m: Affine): Affine {
  const det = m.a * m.e - m.b * m.d;
  const a = m.e / det;
  const b = -m.b / det;
  const d = -m.d / det;
  const e = m.a / det;
  return { a, b, c: -(a * m.c + b * m.f), d, e, f: -(d * m.c + e * m.f) };
}

export const applyAffine = (m: Affine, x: number, y: number): { x: number; y: number } => ({
  x: m.a * x + m.b * y + m.c,
  y: m.d * x + m.e * y + m.f,
});

/** Hears how far a computation is, row by row; what it throws ends it. */
export type RowProgress = (row: number, rows: number) => void;

/** Which of a pixel's samples is its alpha, or -1. */
const alphaSample = ({ opaque, channels }: Raster): number => (opaque ? -1 : channels === 2 ? 1 : channels === 4 ? 3 : -1);

/**
 * Samples a decoded still into a linear premultiplied picture through an affine map (output centre to source position).
 * Minification averages the exact box footprint in linear light; magnification is bilinear. Outside is transparent. What is not turned
 * goes through the kernel (lightHost), whose readable twin is the loop below.
 */
export function sampleRaster(raster: Raster, map: Affine, width: number, height: number, shared = false, onProgress?: RowProgress): Picture {
  const out = newPicture(width, height, shared);
  const { channels, data } = raster;
  const top = fullScale(raster) as 255 | 65535;
  const linear = decodeTable(top);
  const grey = channels < 3;
  const alphaAt = alphaSample(raster);
  const fx = Math.max(1, Math.abs(map.a) + Math.abs(map.b));
  const fy = Math.max(1, Math.abs(map.d) + Math.abs(map.e));
  if (map.b === 0 && map.d === 0) {
    const columns = footprints(width, map.a, map.c, raster.width);
    sampleGrid(raster, linear, alphaAt, columns, footprints(height, map.e, map.f, raster.height), 1 / (fx * fy), out.data, onProgress);
    return out;
  }
  for (let v = 0; v < height; v++) {
    if (v % 16 === 0) onProgress?.(v, height);
    for (let u = 0; u < width; u++) {
      const x = map.a * (u + 0.5) + map.b * (v + 0.5) + map.c;
      const y = map.d * (u + 0.5) + map.e * (v + 0.5) + map.f;
      const x0 = x - fx / 2;
      const x1 = x + fx / 2;
      const y0 = y - fy / 2;
      const y1 = y + fy / 2;
      let r = 0;
      let g = 0;
      let b = 0;
      let alpha = 0;
      const i0 = Math.max(0, Math.floor(x0));
      const i1 = Math.min(raster.width, Math.ceil(x1));
      const j0 = Math.max(0, Math.floor(y0));
      const j1 = Math.min(raster.height, Math.ceil(y1));
      let total = 0;
      for (let j = j0; j < j1; j++) {
        const wy = Math.min(j + 1, y1) - Math.max(j, y0);
        for (let i = i0; i < i1; i++) {
          const w = wy * (Math.min(i + 1, x1) - Math.max(i, x0));
          if (w <= 0) continue;
          const p = (j * raster.width + i) * channels;
          const a = alphaAt < 0 ? w : (w * data[p + alphaAt]!) / top;
          alpha += a;
          total += w;
          r += a * linear[data[p]!]!;
          if (grey) continue;
          g += a * linear[data[p + 1]!]!;
          b += a * linear[data[p + 2]!]!;
        }
      }
      // borders keep full weight: the picture is not faded by half a pixel of nothing
      const inside = x >= 0 && y >= 0 && x < raster.width && y < raster.height;
      const scale = inside && total > 0 ? 1 / total : 1 / (fx * fy);
      const o = (v * width + u) * 4;
      out.data[o] = r * scale;
      out.data[o + 1] = (grey ? r : g) * scale;
      out.data[o + 2] = (grey ? r : b) * scale;
      out.data[o + 3] = alpha * scale;
    }
  }
  return out;
}

/** Row y of a still as linear premultiplied RGBA. */
export function rasterRow(raster: Raster, y: number, out: Float32Array): void {
  const { channels, data, width } = raster;
  const top = fullScale(raster) as 255 | 65535;
  const linear = decodeTable(top);
  const alphaAt = alphaSample(raster);
  const [green, blue] = channels < 3 ? [0, 0] : [1, 2];
  for (let x = 0, p = y * width * channels; x < width; x++, p += channels) {
    const alpha = alphaAt < 0 ? 1 : data[p + alphaAt]! / top;
    out[x * 4] = alpha * linear[data[p]!]!;
    out[x * 4 + 1] = alpha * linear[data[p + green]!]!;
    out[x * 4 + 2] = alpha * linear[data[p + blue]!]!;
    out[x * 4 + 3] = alpha;
  }
}

/** Nearest sample of a plane through an affine map; the border is repeated outside. Depth must not be averaged across edges. */
export function samplePlaneNearest(plane: Plane, map: Affine, width: number, height: number, shared = false): Plane {
  const out = newPlane(width, height, shared);
  if (map.b === 0 && map.d === 0) {
    // what is not turned reads the same columns in every row
    const columns = Int32Array.from({ length: width }, (_, u) => Math.min(plane.width - 1, Math.max(0, Math.floor(map.a * (u + 0.5) + map.c))));
    for (let v = 0, o = 0; v < height; v++) {
      const row = plane.width * Math.min(plane.height - 1, Math.max(0, Math.floor(map.e * (v + 0.5) + map.f)));
      for (let u = 0; u < width; u++) out.data[o++] = plane.data[row + columns[u]!]!;
    }
    return out;
  }
  for (let v = 0; v < height; v++)
    for (let u = 0; u < width; u++) {
      const x = Math.floor(map.a * (u + 0.5) + map.b * (v + 0.5) + map.c);
      const y = Math.floor(map.d * (u + 0.5) + map.e * (v + 0.5) + map.f);
      const i = x < 0 ? 0 : x >= plane.width ? plane.width - 1 : x;
      const j = y < 0 ? 0 : y >= plane.height ? plane.height - 1 : y;
      out.data[v * width + u] = plane.data[j * plane.width + i]!;
    }
  return out;
}

/** Bilinear samples of a plane through an affine map; the border is repeated outside. */
export function samplePlaneLinear(plane: Plane, map: Affine, width: number, height: number, shared = false): Plane {
  const out = newPlane(width, height, shared);
  const { data } = plane;
  const right = plane.width - 1;
  const bottom = plane.height - 1;
  for (let v = 0; v < height; v++)
    for (let u = 0; u < width; u++) {
      const x = Math.min(right, Math.max(0, map.a * (u + 0.5) + map.b * (v + 0.5) + map.c - 0.5));
      const y = Math.min(bottom, Math.max(0, map.d * (u + 0.5) + map.e * (v + 0.5) + map.f - 0.5));
      const i = x | 0;
      const j = y | 0;
      const i1 = i < right ? i + 1 : i;
      const j1 = j < bottom ? j + 1 : j;
      const tx = x - i;
      const ty = y - j;
      const a = data[j * plane.width + i]!;
      const b = data[j * plane.width + i1]!;
      const c = data[j1 * plane.width + i]!;
      const d = data[j1 * plane.width + i1]!;
      out.data[v * width + u] = (a + (b - a) * tx) * (1 - ty) + (c + (d - c) * tx) * ty;
    }
  return out;
}

/** Weights of the four samples about a place between two, t = 0..1 of the way (uniform cubic B-spline: Unser 1999, eq. 8). */
function splineWeights(t: number, to: Float32Array, at: number): void {
  const u = 1 - t;
  to[at] = (u * u * u) / 6;
  to[at + 1] = 2 / 3 - t * t * (1 - t / 2);
  to[at + 2] = 2 / 3 - u * u * (1 - u / 2);
  to[at + 3] = (t * t * t) / 6;
}

/** Enlarges a plane so that its slopes are continuous as well: between samples, never beyond them; the border's samples go on outside. For what was found on a coarse grid that must not show. */
export function enlargeSmoothly(plane: Plane, width: number, height: number): Plane {
  const { data } = plane;
  const axis = (from: number, to: number): { readonly at: Int32Array; readonly weights: Float32Array } => {
    const [at, weights] = [new Int32Array(4 * to), new Float32Array(4 * to)];
    for (let u = 0; u < to; u++) {
      const x = ((u + 0.5) * from) / to - 0.5;
      const i = Math.floor(x);
      splineWeights(x - i, weights, 4 * u);
      for (let k = 0; k < 4; k++) at[4 * u + k] = Math.min(from - 1, Math.max(0, i - 1 + k));
    }
    return { at, weights };
  };
  const [across, down] = [axis(plane.width, width), axis(plane.height, height)];
  const rows = new Float32Array(width * plane.height);
  for (let j = 0; j < plane.height; j++)
    for (let u = 0; u < width; u++) {
      let sum = 0;
      for (let k = 0; k < 4; k++) sum += across.weights[4 * u + k]! * data[j * plane.width + across.at[4 * u + k]!]!;
      rows[j * width + u] = sum;
    }
  const out = newPlane(width, height);
  for (let v = 0; v < height; v++)
    for (let k = 0; k < 4; k++) {
      const [from, weight] = [down.at[4 * v + k]! * width, down.weights[4 * v + k]!];
      for (let u = 0; u < width; u++) out.data[v * width + u]! += weight * rows[from + u]!;
    }
  return out;
}

/** Scales the whole of a source onto an output size. */
export const stretch = (from: { width: number; height: number }, width: number, height: number): Affine => ({
  a: from.width / width,
  b: 0,
  c: 0,
  d: 0,
  e: from.height / height,
  f: 0,
});

/** Size with the given long side, aspect kept, never larger than the source, at least 1 px. */
export function fitLongSide(size: { width: number; height: number }, longSide: number): { width: number; height: number } {
  const scale = Math.min(1, longSide / Math.max(size.width, size.height));
  return { width: Math.max(1, Math.round(size.width * scale)), height: Math.max(1, Math.round(size.height * scale)) };
}

/** Every skip-th pixel of a still, for quick looks. */
export function thinRaster(raster: Raster, skip: number): Raster {
  if (skip <= 1) return raster;
  const width = Math.max(1, Math.floor(raster.width / skip));
  const height = Math.max(1, Math.floor(raster.height / skip));
  const { channels } = raster;
  const data = raster.data instanceof Uint16Array ? new Uint16Array(width * height * channels) : new Uint8Array(width * height * channels);
  const half = skip >> 1;
  for (let y = 0, o = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = ((y * skip + half) * raster.width + x * skip + half) * channels;
      for (let c = 0; c < channels; c++) data[o++] = raster.data[p + c]!;
    }
  return { width, height, channels, data };
}

/** For each of `to` equal spans of a row of `from` px: the first px it touches and how much of it each px it touches makes up. */
function spansOf(from: number, to: number): { first: number; weights: number[] }[] {
  const step = from / to;
  return Array.from({ length: to }, (_, k) => {
    const [start, end] = [k * step, (k + 1) * step];
    const first = Math.min(from - 1, Math.floor(start + 1e-9));
    const last = Math.min(from - 1, Math.max(first, Math.ceil(end - 1e-9) - 1));
    const weights = Array.from({ length: last - first + 1 }, (__, i) => (Math.min(end, first + i + 1) - Math.max(start, first + i)) / step);
    return { first, weights };
  });
}

/** A smaller copy of a picture, each px the mean of the area that it covers, to a fraction of a px. */
export function shrinkPicture(picture: Picture, width: number, height: number): Picture {
  const columns = spansOf(picture.width, width);
  const out = newPicture(width, height);
  // one row of the output before it is made narrower
  const row = new Float32Array(picture.width * 4);
  for (const [y, { first, weights }] of spansOf(picture.height, height).entries()) {
    row.fill(0);
    for (let i = 0; i < weights.length; i++) {
      const start = (first + i) * picture.width * 4;
      const weight = weights[i]!;
      for (let x = 0; x < row.length; x++) row[x]! += weight * picture.data[start + x]!;
    }
    for (let x = 0; x < width; x++) {
      const span = columns[x]!;
      let [r, g, b, a] = [0, 0, 0, 0];
      for (let i = 0, p = span.first * 4; i < span.weights.length; i++, p += 4) {
        const weight = span.weights[i]!;
        r += weight * row[p]!;
        g += weight * row[p + 1]!;
        b += weight * row[p + 2]!;
        a += weight * row[p + 3]!;
      }
      const o = (y * width + x) * 4;
      out.data[o] = r;
      out.data[o + 1] = g;
      out.data[o + 2] = b;
      out.data[o + 3] = a;
    }
  }
  return out;
}
