import type { Picture } from '../picture';
import { clampUnit } from '../scalar';
import { invertSymmetric } from './colours';
import type { Statistics } from './statistics';

const ROUNDS = 3;

/** Inverse of the covariance of a mixture: α²·Σ_F + (1−α)²·Σ_B + noise. Six numbers of a symmetric matrix. */
function inverse(alpha: number, f: Float64Array, b: Float64Array, noise: number, out: Float64Array): void {
  const [p, q] = [alpha * alpha, (1 - alpha) * (1 - alpha)];
  const a0 = p * f[3]! + q * b[3]! + noise;
  const a1 = p * f[4]! + q * b[4]!;
  const a2 = p * f[5]! + q * b[5]!;
  const a3 = p * f[6]! + q * b[6]! + noise;
  const a4 = p * f[7]! + q * b[7]!;
  const a5 = p * f[8]! + q * b[8]! + noise;
  invertSymmetric(a0, a1, a2, a3, a4, a5, out, 0);
}

/**
 * Coverage of single pixels from the colour statistics of both sides (Chuang, Curless, Salesin & Szeliski 2001), with what the depth says
 * as a prior of given variance: where the sides look alike the prior speaks, where they differ the picture does. `s0`: noise of the picture.
 * `told`: how much the colours told, as the inverse of a variance.
 */
export function unmix(
  { data }: Picture,
  pixels: Int32Array,
  statistics: Statistics,
  prior: Float32Array,
  variance: Float32Array,
  s0: number,
): { readonly values: Float32Array; readonly told: Float32Array } {
  const [f, b, c] = [new Float64Array(9), new Float64Array(9), new Float64Array(6)];
  const out = new Float32Array(pixels.length);
  const told = new Float32Array(pixels.length);
  for (let k = 0; k < pixels.length; k++) {
    const i = pixels[k]! * 4;
    statistics.at(pixels[k]!, f, b);
    const [d0, d1, d2] = [f[0]! - b[0]!, f[1]! - b[1]!, f[2]! - b[2]!];
    const [e0, e1, e2] = [clampUnit(data[i]!) - b[0]!, clampUnit(data[i + 1]!) - b[1]!, clampUnit(data[i + 2]!) - b[2]!];
    const trust = 1 / variance[k]!;
    let alpha = prior[k]!;
    let information = 0;
    for (let round = 0; round < ROUNDS; round++) {
      inverse(alpha, f, b, s0 * s0, c);
      const [c0, c1, c2] = [c[0]! * d0 + c[1]! * d1 + c[2]! * d2, c[1]! * d0 + c[3]! * d1 + c[4]! * d2, c[2]! * d0 + c[4]! * d1 + c[5]! * d2];
      information = c0 * d0 + c1 * d1 + c2 * d2;
      alpha = clampUnit((c0 * e0 + c1 * e1 + c2 * e2 + prior[k]! * trust) / (information + trust));
    }
    out[k] = alpha;
    told[k] = information;
  }
  return { values: out, told };
}

/**
 * The most probable front colour of single pixels for a given coverage, straight (not premultiplied), limited to display white; the noise
 * is shared by both sides, so that α·F + (1−α)·B gives the picture back. Three numbers a pixel.
 */
export function frontColours({ data }: Picture, pixels: Int32Array, statistics: Statistics, alpha: Float32Array, s0: number): Float32Array {
  const [f, b, c] = [new Float64Array(9), new Float64Array(9), new Float64Array(6)];
  const noise = s0 * s0;
  const out = new Float32Array(pixels.length * 3);
  for (let k = 0; k < pixels.length; k++) {
    const i = pixels[k]! * 4;
    const a = alpha[k]!;
    statistics.at(pixels[k]!, f, b);
    inverse(a, f, b, noise, c);
    const rest = (j: number): number => clampUnit(data[i + j]!) - a * f[j]! - (1 - a) * b[j]!;
    const [r0, r1, r2] = [rest(0), rest(1), rest(2)];
    const x = c[0]! * r0 + c[1]! * r1 + c[2]! * r2;
    const y = c[1]! * r0 + c[3]! * r1 + c[4]! * r2;
    const z = c[2]! * r0 + c[4]! * r1 + c[5]! * r2;
    const own = noise / 2;
    out[k * 3] = clampUnit(f[0]! + a * ((f[3]! + own) * x + f[4]! * y + f[5]! * z));
    out[k * 3 + 1] = clampUnit(f[1]! + a * (f[4]! * x + (f[6]! + own) * y + f[7]! * z));
    out[k * 3 + 2] = clampUnit(f[2]! + a * (f[5]! * x + f[7]! * y + (f[8]! + own) * z));
  }
  return out;
}
