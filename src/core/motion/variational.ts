import type { Plane } from '../picture';
import { bilinear } from './bilinear';

/** Weights of brightness constancy, gradient constancy and smoothness. */
const BRIGHTNESS = 5;
const GRADIENT = 10;
const SMOOTHNESS = 20;
/** Where the robust penalties √(e² + ε²) turn from square to straight, squared. */
const EPSILON2 = 1e-6;
/** Over-relaxation, and sweeps over both colours of the board a round. */
const OMEGA = 1.6;
const SWEEPS = 5;
/** Keeps the data terms' normalisation finite where there is no gradient. */
const FLAT = 0.01;

function acrossX(data: Float32Array, w: number, h: number): Float32Array {
  const out = new Float32Array(w * h);
  for (let y = 0, i = 0; y < h; y++) for (let x = 0; x < w; x++, i++) out[i] = 0.5 * (data[x + 1 < w ? i + 1 : i]! - data[x > 0 ? i - 1 : i]!);
  return out;
}

function acrossY(data: Float32Array, w: number, h: number): Float32Array {
  const out = new Float32Array(w * h);
  for (let y = 0, i = 0; y < h; y++) for (let x = 0; x < w; x++, i++) out[i] = 0.5 * (data[y + 1 < h ? i + w : i]! - data[y > 0 ? i - w : i]!);
  return out;
}

/**
 * The readable twin of `refineFlow` in kernels/assembly/flowRefine.ts: betters a flow in place: brightness and gradient constancy and smoothness under robust penalties, linearised once, solved by red-black
 * over-relaxation (Brox, Bruhn, Papenberg & Weickert 2004); data terms are normalised by their gradients, so that strong edges do not outvote
 * the rest (Zimmer et al. 2009, sec. 3.1). Planes of luma 0..255.
 */
export function refineFlow(first: Plane, second: Plane, u: Float32Array, v: Float32Array, rounds: number): void {
  const { width: w, height: h, data: a } = first;
  const n = w * h;
  const it = new Float32Array(n);
  const mean = new Float32Array(n);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const b = bilinear(second.data, w, h, x + u[i]!, y + v[i]!);
      it[i] = b - a[i]!;
      mean[i] = 0.5 * (a[i]! + b);
    }
  const ix = acrossX(mean, w, h);
  const iy = acrossY(mean, w, h);
  const ixx = acrossX(ix, w, h);
  const ixy = acrossY(ix, w, h);
  const iyy = acrossY(iy, w, h);
  const ixt = acrossX(it, w, h);
  const iyt = acrossY(it, w, h);
  const make = (): Float32Array => new Float32Array(n);
  const system = { du: make(), dv: make(), a11: make(), a12: make(), a22: make(), b1: make(), b2: make(), smooth: make() };
  const { du, dv, a11, a12, a22, b1, b2, smooth } = system;
  for (let round = 0; round < rounds; round++) {
    for (let y = 0, i = 0; y < h; y++)
      for (let x = 0; x < w; x++, i++) {
        const [p, q] = [du[i]!, dv[i]!];
        const [gx, gy] = [ix[i]!, iy[i]!];
        const gxx = ixx[i]!;
        const gxy = ixy[i]!;
        const gyy = iyy[i]!;
        const n0 = 1 / (gx * gx + gy * gy + FLAT);
        const nx = 1 / (gxx * gxx + gxy * gxy + FLAT);
        const ny = 1 / (gxy * gxy + gyy * gyy + FLAT);
        const e0 = it[i]! + gx * p + gy * q;
        const ex = ixt[i]! + gxx * p + gxy * q;
        const ey = iyt[i]! + gxy * p + gyy * q;
        const k0 = (BRIGHTNESS * n0) / Math.sqrt(e0 * e0 * n0 + EPSILON2);
        const k1 = GRADIENT / Math.sqrt(ex * ex * nx + ey * ey * ny + EPSILON2);
        const kx = k1 * nx;
        const ky = k1 * ny;
        a11[i] = k0 * gx * gx + kx * gxx * gxx + ky * gxy * gxy;
        a12[i] = k0 * gx * gy + kx * gxx * gxy + ky * gxy * gyy;
        a22[i] = k0 * gy * gy + kx * gxy * gxy + ky * gyy * gyy;
        b1[i] = -(k0 * gx * it[i]! + kx * gxx * ixt[i]! + ky * gxy * iyt[i]!);
        b2[i] = -(k0 * gy * it[i]! + kx * gxy * ixt[i]! + ky * gyy * iyt[i]!);
        const right = x + 1 < w ? i + 1 : i;
        const down = y + 1 < h ? i + w : i;
        const ux = u[right]! + du[right]! - u[i]! - p;
        const uy = u[down]! + du[down]! - u[i]! - p;
        const vx = v[right]! + dv[right]! - v[i]! - q;
        const vy = v[down]! + dv[down]! - v[i]! - q;
        smooth[i] = SMOOTHNESS / Math.sqrt(ux * ux + uy * uy + vx * vx + vy * vy + EPSILON2);
      }
    for (let sweep = 0; sweep < 2 * SWEEPS; sweep++) relax(w, h, u, v, system, sweep & 1);
  }
  for (let i = 0; i < n; i++) {
    u[i]! += du[i]!;
    v[i]! += dv[i]!;
  }
}

/** One sweep over the pixels of one colour of the board. */
function relax(
  w: number,
  h: number,
  u: Float32Array,
  v: Float32Array,
  { du, dv, a11, a12, a22, b1, b2, smooth }: Record<'du' | 'dv' | 'a11' | 'a12' | 'a22' | 'b1' | 'b2' | 'smooth', Float32Array>,
  colour: number,
): void {
  for (let y = 0; y < h; y++)
    for (let x = (y + colour) & 1; x < w; x += 2) {
      const i = y * w + x;
      const here = smooth[i]!;
      let weight = 0;
      let su = 0;
      let sv = 0;
      if (x > 0) {
        const k = smooth[i - 1]!;
        weight += k;
        su += k * (u[i - 1]! + du[i - 1]!);
        sv += k * (v[i - 1]! + dv[i - 1]!);
      }
      if (y > 0) {
        const k = smooth[i - w]!;
        weight += k;
        su += k * (u[i - w]! + du[i - w]!);
        sv += k * (v[i - w]! + dv[i - w]!);
      }
      if (x + 1 < w) {
        weight += here;
        su += here * (u[i + 1]! + du[i + 1]!);
        sv += here * (v[i + 1]! + dv[i + 1]!);
      }
      if (y + 1 < h) {
        weight += here;
        su += here * (u[i + w]! + du[i + w]!);
        sv += here * (v[i + w]! + dv[i + w]!);
      }
      const p = (b1[i]! + su - weight * u[i]! - a12[i]! * dv[i]!) / (a11[i]! + weight);
      du[i]! += OMEGA * (p - du[i]!);
      const q = (b2[i]! + sv - weight * v[i]! - a12[i]! * du[i]!) / (a22[i]! + weight);
      dv[i]! += OMEGA * (q - dv[i]!);
    }
}
