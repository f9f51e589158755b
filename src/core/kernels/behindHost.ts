import type { Size } from '../picture';
import { kernels } from './loader';

/** Which neighbours of a plate are one surface (flags of camera/layered.ts), and which pixels touch a cut. */
export interface Links {
  readonly flags: Uint8Array;
  readonly cut: Uint8Array;
}

/** Per pixel the one where its nearest farther surface lies, −1 where there is none, how far off that is in px, and how many have one. */
export interface Seeds {
  readonly seed: Int32Array;
  readonly away: Float32Array;
  readonly found: number;
}

/** Joins neighbours whose inverse distances `q` (1/m, row by row) differ by at most `tau`, or lie on one plane. */
export function linkPlate(q: Float32Array, { width, height }: Size, tau: number): Links {
  const k = kernels();
  k.reset();
  const n = width * height;
  const at = k.put(q);
  const [flags, cut] = [k.take(n), k.take(n)];
  k.run.linkPlate(at, flags, cut, width, height, tau);
  return { flags: k.bytes(flags, n).slice(), cut: k.bytes(cut, n).slice() };
}

/** Finds what lies behind each pixel, as far in as the widest gap can open: `gain` px for each 1/m. `flags`: as linkPlate gives them. */
export function seedBehind(q: Float32Array, flags: Uint8Array, { width, height }: Size, tau: number, gain: number): Seeds {
  const k = kernels();
  k.reset();
  const n = width * height;
  const inverse = k.put(q);
  const joined = k.take(n);
  k.bytes(joined, n).set(flags);
  const [seed, away, waiting, queue] = [k.take(n * 4), k.take(n * 4), k.take(n), k.take((n + 1) * 4)];
  const plan = k.take(64);
  // words as in assembly/behind.ts
  k.ints(plan, 12).set([inverse, joined, seed, away, waiting, queue, width, height, 0, 0, 0, 0]);
  new Float64Array(k.floats(plan, 16).buffer, plan + 48, 2).set([tau, gain]);
  k.run.seedBehind(plan);
  return { seed: k.ints(seed, n).slice(), away: k.floats(away, n).slice(), found: k.ints(plan + 40, 1)[0]! };
}

/** Hidden pixels in order: where they are, how far they lie (1/m), and which of them lies at a place of the plate, −1 where none does. */
export interface HiddenPlaces extends Size {
  readonly pixels: Int32Array;
  readonly behind: Float32Array;
  readonly hiddenAt: Int32Array;
}

/** Smooths how far hidden pixels lie, held by what is seen of the same surface: `behind` in place. Gives for each sweep and pixel which neighbours counted. */
export function smoothBehind(q: Float32Array, { width, height, pixels, behind, hiddenAt }: HiddenPlaces, sweeps: number, within: number): Uint8Array {
  const k = kernels();
  k.reset();
  const count = pixels.length;
  const inverse = k.put(q);
  const places = k.take(hiddenAt.byteLength);
  k.ints(places, hiddenAt.length).set(hiddenAt);
  const list = k.take(pixels.byteLength);
  k.ints(list, count).set(pixels);
  const whole = k.take(q.byteLength);
  const depths = k.floats(whole, q.length).fill(-1);
  for (let m = 0; m < count; m++) depths[pixels[m]!] = behind[m]!;
  const masks = k.take(count * sweeps);
  k.run.smoothBehind(inverse, whole, places, list, count, masks, sweeps, width, height, within);
  const smoothed = k.floats(whole, q.length);
  for (let m = 0; m < count; m++) behind[m] = smoothed[pixels[m]!]!;
  return k.bytes(masks, count * sweeps).slice();
}

/**
 * Smooths colours of hidden pixels (RGBA) in place, as smoothBehind found. `links`: for each pixel and neighbour which hidden pixel, and which of
 * the colours that are `seen`, it is; −1 where it is none.
 */
export function smoothHidden(colours: Float32Array, seen: Float32Array, links: Int32Array, masks: Uint8Array, sweeps: number): void {
  const k = kernels();
  k.reset();
  const [own, others] = [k.put(colours), k.put(seen)];
  const joined = k.take(links.byteLength);
  k.ints(joined, links.length).set(links);
  const which = k.take(masks.byteLength);
  k.bytes(which, masks.length).set(masks);
  k.run.smoothHidden(own, others, joined, which, colours.length / 4, sweeps);
  colours.set(k.floats(own, colours.length));
}

const PIXELS_AT_A_TIME = 16384;

/** Square roots of light, RGBA, into `out`. */
export function rootsOf(light: Float32Array, out: Float32Array): void {
  const k = kernels();
  k.reset();
  const room = k.take(PIXELS_AT_A_TIME * 16);
  for (let i = 0; i < light.length; i += PIXELS_AT_A_TIME * 4) {
    const part = light.subarray(i, i + PIXELS_AT_A_TIME * 4);
    const values = k.floats(room, part.length);
    values.set(part);
    k.run.rootPixels(room, part.length / 4, room);
    out.set(values, i);
  }
}
