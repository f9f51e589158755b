import { clampUnit } from '../scalar';

/** Display light of a channel: what outshines white would outshout everything. Its square root is the guide of the Laplacian and of fits. */
export const rootOf = (v: number): number => Math.sqrt(clampUnit(v));

/** Inverse of the symmetric matrix (a b c; b d e; c e f), written to `out` from `at` on in the same order. */
export function invertSymmetric(
  a: number,
  b: number,
  c: number,
  d: number,
  e: number,
  f: number,
  out: Float32Array | Float64Array,
  at: number,
): void {
  const [i0, i1, i2] = [d * f - e * e, c * e - b * f, b * e - c * d];
  const k = 1 / (a * i0 + b * i1 + c * i2);
  out[at] = i0 * k;
  out[at + 1] = i1 * k;
  out[at + 2] = i2 * k;
  out[at + 3] = (a * f - c * c) * k;
  out[at + 4] = (b * c - a * e) * k;
  out[at + 5] = (a * d - b * b) * k;
}
