import type { MixedPixels } from '../kernels/behindHost';
import type { PlateGrid } from './layered';

/** A pixel of far depth and near colour: the share of it that moves with what is near. */
export interface Rim {
  readonly pixel: number;
  readonly q: number;
  readonly colour: Float32Array;
  readonly cover: number;
}

/** Squared distance from the line between two colours up to which a colour counts as their mix, in units of their squared difference. */
const OFF_LINE = 0.03;
/** Colours closer than this (squared, root light) cannot be told apart. */
const ALIKE = 0.005;
/** From this share of near colour on, the whole pixel moves with what is near: clipped lights, depth edges that lie one pixel off. */
const MOSTLY_NEAR = 0.6;
/**
 * Cleans mixed pixels in place: C = a·F + (1−a)·B with B the surface's nearest pure pixel and F the candidate of the near side that explains the
 * mix best; the pixel becomes B's share of it. The near side stays as it is: its mixed pixels are its smooth edge. Answers the rims: pixels that are
 * mostly of near colour and move with it.
 */
export function cleanFarSide({ q }: PlateGrid, { pixels, candidates }: MixedPixels, colour: Float32Array): Rim[] {
  const rims: Rim[] = [];
  const changed: number[] = [];
  const becomes: number[] = [];
  for (const [n, i] of pixels.entries()) {
    const [near, back] = [candidates[n * 5]!, candidates[n * 5 + 1]!];
    let front = -1;
    let share = 0;
    let least = OFF_LINE;
    for (let m = 2; m < 5; m++) {
      const f = candidates[n * 5 + m]!;
      if (f < 0) continue;
      let along = 0;
      let length = 0;
      let whole = 0;
      for (let k = 0; k < 3; k++) {
        const b = Math.min(1, colour[back * 4 + k]!);
        const d = Math.min(1, colour[f * 4 + k]!) - b;
        const p = Math.min(1, colour[i * 4 + k]!) - b;
        along += p * d;
        length += d * d;
        whole += p * p;
      }
      if (length < ALIKE) continue;
      const a = along / length;
      const off = (whole - a * along) / length;
      if (a > 0.03 && a < 1.1 && off < least) {
        front = f;
        share = Math.min(1, a);
        least = off;
      }
    }
    if (front < 0) continue;
    if (share > MOSTLY_NEAR) rims.push({ pixel: i, q: q[near]!, colour: colour.slice(front * 4, front * 4 + 4), cover: share });
    changed.push(i);
    for (let k = 0; k < 4; k++) {
      const b = colour[back * 4 + k]!;
      const left = (colour[i * 4 + k]! - share * colour[front * 4 + k]!) / Math.max(0.1, 1 - share);
      becomes.push(share > 0.5 ? b : Math.max(0, left));
    }
  }
  for (const [n, i] of changed.entries()) for (let k = 0; k < 4; k++) colour[i * 4 + k] = becomes[n * 4 + k]!;
  return rims;
}
