import { newFloats } from '../picture';
import type { CueInput, CueResult } from './cue';
import { patchMeans, UNITS } from './superpixels';

/** Colour difference (OKLab) and border contrast at which two patches are half joined. */
const JOIN = 0.055;
/** Rounds of the solver. */
const ROUNDS = 220;

/**
 * Fuses cues over superpixels: least squares of every cue weighed by its confidence, and of differences between touching
 * patches weighed by likeness. Things that stand on the ground so take the nearness of their foot, because the ground is
 * sure of itself and they are not. Solved by Gauss-Seidel with over-relaxation (Young 1954).
 */
export function fuseCues(input: CueInput, results: readonly CueResult[]): Float32Array {
  const { width, height, patches: parts } = input;
  const n = parts.count;
  const weight = newFloats(n);
  const target = newFloats(n);
  for (const { nearness, confidence } of results) {
    const c = patchMeans(parts, confidence);
    const v = patchMeans(parts, nearness, confidence);
    for (let s = 0; s < n; s++) {
      // a cue speaks for an area: cutting it into more patches must not make it louder against their ties
      const share = (UNITS * parts.size[s]!) / (width * height);
      weight[s]! += c[s]! * share;
      target[s]! += c[s]! * share * v[s]!;
    }
  }
  const usualBorder = Math.sqrt((width * height) / n);
  // the ground rises towards the camera from patch to patch; upright things do not
  const upright = patchMeans(parts, input.layout.standing);
  const span = height - input.layout.horizon;
  const lying = upright.map((u, s) => (parts.y[s]! > input.layout.horizon ? 1 - u : 0));
  const ramp = upright.map((_, s) => Math.max(0, (parts.y[s]! - input.layout.horizon) / span));
  const neighbours: { to: number; w: number; rise: number }[][] = Array.from({ length: n }, () => []);
  for (const e of input.edges) {
    let d = 0;
    for (let k = 0; k < 3; k++) d += (parts.colour[e.from * 3 + k]! - parts.colour[e.to * 3 + k]!) ** 2;
    const unlike = d / JOIN ** 2 + (e.contrast / (0.8 * JOIN)) ** 2;
    const w = (2.5 * Math.exp(-unlike) + 0.02) * Math.min(2, e.length / usualBorder);
    const rise = Math.min(lying[e.from]!, lying[e.to]!) * (ramp[e.from]! - ramp[e.to]!);
    neighbours[e.from]!.push({ to: e.to, w, rise });
    neighbours[e.to]!.push({ to: e.from, w, rise: -rise });
  }
  const value = newFloats(n);
  for (let s = 0; s < n; s++) value[s] = weight[s]! > 0 ? target[s]! / weight[s]! : 0.5;
  for (let round = 0; round < ROUNDS; round++)
    for (let k = 0; k < n; k++) {
      const s = round % 2 ? n - 1 - k : k;
      let sum = target[s]!;
      let total = weight[s]!;
      for (const { to, w, rise } of neighbours[s]!) {
        sum += w * (value[to]! + rise);
        total += w;
      }
      if (total > 0) value[s] = value[s]! + 1.6 * (sum / total - value[s]!);
    }
  const out = newFloats(width * height);
  for (let i = 0; i < out.length; i++) {
    const s = parts.labels[i]!;
    out[i] = value[s]! + (lying[s]! * (Math.floor(i / width) - parts.y[s]!)) / span;
  }
  return out;
}
