import type { Plane } from '../picture';
import { bilinear } from './bilinear';

/** Side of a patch, the way from one to the next, px, and how often its place is bettered. */
const PATCH = 8;
const STRIDE = 4;
const STEPS = 8;
const PIXELS = PATCH * PATCH;
/** Squared gradient a pixel, in luma: a patch with less texture keeps where it began. */
const DAMPING = 0.5;
/** Shorter steps end the search, px². */
const SHORT = 0.0004;

/** A plane with its border repeated outwards: patches may look beyond the edge. */
function padded({ width: w, height: h, data }: Plane): Plane {
  const width = w + 2 * PATCH;
  const height = h + 2 * PATCH;
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    const from = Math.min(h - 1, Math.max(0, y - PATCH)) * w;
    for (let x = 0; x < width; x++) out[y * width + x] = data[from + Math.min(w - 1, Math.max(0, x - PATCH))]!;
  }
  return { width, height, data: out };
}

function slopes({ width: w, height: h, data }: Plane): { readonly gx: Float32Array; readonly gy: Float32Array } {
  const gx = new Float32Array(w * h);
  const gy = new Float32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      gx[i] = 0.5 * (data[x + 1 < w ? i + 1 : i]! - data[x > 0 ? i - 1 : i]!);
      gy[i] = 0.5 * (data[y + 1 < h ? i + w : i]! - data[y > 0 ? i - w : i]!);
    }
  return { gx, gy };
}

/** What a patch at (x0, y0) finds displaced by (u, v) in the padded second picture: differences squared with means removed, their sum, and their sums with the slopes. */
class Residual {
  squares = 0;
  sum = 0;
  alongX = 0;
  alongY = 0;

  constructor(
    private readonly first: Plane,
    private readonly second: Plane,
    private readonly gx: Float32Array,
    private readonly gy: Float32Array,
  ) {}

  compare(x0: number, y0: number, u: number, v: number): void {
    const { width: w, data: a } = this.first;
    const { width: bw, height: bh, data: b } = this.second;
    const { gx, gy } = this;
    const bx = x0 + u + PATCH;
    const by = y0 + v + PATCH;
    if (!(bx >= 0 && by >= 0 && bx < bw - PATCH - 1 && by < bh - PATCH - 1)) {
      // beyond the padding: no match
      this.squares = Infinity;
      this.sum = this.alongX = this.alongY = 0;
      return;
    }
    const xi = bx | 0;
    const yi = by | 0;
    const fx = bx - xi;
    const fy = by - yi;
    // one set of weights serves the whole patch
    const w00 = (1 - fx) * (1 - fy);
    const w10 = fx * (1 - fy);
    const w01 = (1 - fx) * fy;
    const w11 = fx * fy;
    let sum = 0;
    let squares = 0;
    let alongX = 0;
    let alongY = 0;
    for (let y = 0; y < PATCH; y++) {
      let i = (y0 + y) * w + x0;
      let j = (yi + y) * bw + xi;
      for (let x = 0; x < PATCH; x++, i++, j++) {
        const d = w00 * b[j]! + w10 * b[j + 1]! + w01 * b[j + bw]! + w11 * b[j + bw + 1]! - a[i]!;
        sum += d;
        squares += d * d;
        alongX += d * gx[i]!;
        alongY += d * gy[i]!;
      }
    }
    this.squares = squares - (sum * sum) / PIXELS;
    this.sum = sum;
    this.alongX = alongX;
    this.alongY = alongY;
  }
}

/**
 * The readable twin of `searchFlow` in kernels/assembly/flow.ts: one level of dense inverse search (Kroeger, Timofte, Dai & Van Gool 2016): patches are matched by inverse-compositional steps (Baker &
 * Matthews 2004), then every pixel takes the mean of the patches over it, each weighed by how well it explains that pixel. `u` and `v` hold
 * where to begin, and then the answer. Planes of luma 0..255, at least 8 px each way.
 */
export function searchLevel(first: Plane, second: Plane, u: Float32Array, v: Float32Array): void {
  const { width: w, height: h } = first;
  const { gx, gy } = slopes(first);
  const residual = new Residual(first, padded(second), gx, gy);
  const columns = Math.floor((w - PATCH) / STRIDE) + 1;
  const rows = Math.floor((h - PATCH) / STRIDE) + 1;
  // the last of a row ends at the border
  const xOf = (k: number): number => (k === columns - 1 ? w - PATCH : k * STRIDE);
  const yOf = (k: number): number => (k === rows - 1 ? h - PATCH : k * STRIDE);
  const pu = new Float32Array(columns * rows);
  const pv = new Float32Array(columns * rows);
  for (let ky = 0; ky < rows; ky++)
    for (let kx = 0; kx < columns; kx++) {
      const centre = (yOf(ky) + PATCH / 2) * w + xOf(kx) + PATCH / 2;
      matchPatch(residual, w, gx, gy, xOf(kx), yOf(ky), u[centre]!, v[centre]!, (bu, bv) => {
        pu[ky * columns + kx] = bu;
        pv[ky * columns + kx] = bv;
      });
    }
  const total = new Float32Array(w * h);
  u.fill(0);
  v.fill(0);
  for (let ky = 0; ky < rows; ky++)
    for (let kx = 0; kx < columns; kx++) {
      const k = ky * columns + kx;
      const x0 = xOf(kx);
      const y0 = yOf(ky);
      residual.compare(x0, y0, pu[k]!, pv[k]!);
      const mean = residual.sum / PIXELS;
      for (let y = y0; y < y0 + PATCH; y++)
        for (let x = x0; x < x0 + PATCH; x++) {
          const i = y * w + x;
          const off = Math.abs(bilinear(second.data, w, h, x + pu[k]!, y + pv[k]!) - first.data[i]! - mean);
          const weight = 1 / Math.max(1, off);
          total[i]! += weight;
          u[i]! += weight * pu[k]!;
          v[i]! += weight * pv[k]!;
        }
    }
  for (let i = 0; i < total.length; i++) {
    u[i]! /= total[i]!;
    v[i]! /= total[i]!;
  }
}

function matchPatch(
  residual: Residual,
  w: number,
  gx: Float32Array,
  gy: Float32Array,
  x0: number,
  y0: number,
  u0: number,
  v0: number,
  found: (u: number, v: number) => void,
): void {
  let hxx = 0;
  let hxy = 0;
  let hyy = 0;
  let sx = 0;
  let sy = 0;
  for (let y = y0; y < y0 + PATCH; y++)
    for (let x = x0; x < x0 + PATCH; x++) {
      const dx = gx[y * w + x]!;
      const dy = gy[y * w + x]!;
      hxx += dx * dx;
      hxy += dx * dy;
      hyy += dy * dy;
      sx += dx;
      sy += dy;
    }
  hxx += DAMPING * PIXELS - (sx * sx) / PIXELS;
  hyy += DAMPING * PIXELS - (sy * sy) / PIXELS;
  hxy -= (sx * sy) / PIXELS;
  const det = hxx * hyy - hxy * hxy;
  let u = u0;
  let v = v0;
  let bestU = u0;
  let bestV = v0;
  let best = Infinity;
  for (let step = 0; step < STEPS; step++) {
    residual.compare(x0, y0, u, v);
    if (residual.squares <= best) {
      best = residual.squares;
      bestU = u;
      bestV = v;
    } else if (step > 1) break;
    const ex = residual.alongX - (residual.sum * sx) / PIXELS;
    const ey = residual.alongY - (residual.sum * sy) / PIXELS;
    const du = (hyy * ex - hxy * ey) / det;
    const dv = (hxx * ey - hxy * ex) / det;
    u -= du;
    v -= dv;
    if (du * du + dv * dv < SHORT || Math.abs(u - u0) > PATCH || Math.abs(v - v0) > PATCH) break;
  }
  found(bestU, bestV);
}
