import type { Size } from '../picture';
import { kernels } from './loader';

/** Pixels on the far side of cuts, and five others for each: the near neighbour, the surface's nearest pure pixel, and three that may be the near side's. */
export interface MixedPixels {
  readonly pixels: Int32Array;
  /** five a pixel; −1 where there is none */
  readonly candidates: Int32Array;
}

/** Where something lies behind a near pixel. Flat arrays, one entry for each, in the order of the pixels. */
export interface HiddenShape {
  readonly pixels: Int32Array;
  /** inverse distance of the surface that goes on there, before and after smoothing, 1/m */
  readonly seeded: Float32Array;
  readonly smoothed: Float32Array;
  /** how far off that surface is seen, px; and which pixel its texture is taken from */
  readonly away: Float32Array;
  readonly from: Int32Array;
  /** of each sweep of smoothing, which neighbours counted; of each pixel and neighbour which hidden and which seen one that is */
  readonly masks: Uint8Array;
  readonly links: Int32Array;
  /** pixels whose colours are seen */
  readonly seen: Int32Array;
}

/** What is found in a plate's inverse distances. */
export interface PlateParts {
  /** of surfaces and edges, as camera/layered.ts says */
  readonly flags: Uint8Array;
  readonly mixed: MixedPixels;
  readonly hidden: HiddenShape | null;
  /** which of the hidden pixels lies at a pixel, or −1 */
  readonly hiddenAt: Int32Array;
}

/** How a plate is taken apart. */
export interface Apart {
  /** inverse distances that differ by at most this, or lie on one plane, are one surface, 1/m */
  readonly tau: number;
  /** as far in as the widest gap can open, px for each 1/m, what lies behind is found; null: nothing is */
  readonly gain: number | null;
  /** how often what is hidden is smoothed, and how much inverse distances differ at most there, in tau */
  readonly sweeps: number;
  readonly together: number;
}

/** Finds the surfaces of a plate whose inverse distances are `q` (1/m, row by row), and what lies behind their edges. `checkpoint` may throw. */
export function plateParts(
  q: Float32Array,
  { width, height }: Size,
  { tau, gain, sweeps, together }: Apart,
  checkpoint: (share: number) => void,
): PlateParts {
  const k = kernels();
  k.reset();
  const n = width * height;
  const words = (address: number, length: number): Int32Array => k.ints(address, length).slice();
  const numbers = (address: number, length: number): Float32Array => k.floats(address, length).slice();
  const inverse = k.put(q);
  const [joined, cut] = [k.take(n), k.take(n)];
  k.run.linkPlate(inverse, joined, cut, width, height, tau);
  const flags = k.bytes(joined, n).slice();
  checkpoint(0.15);
  const bookmark = k.bookmark();
  const cuts = k.bytes(cut, n).reduce((sum, v) => sum + v, 0);
  const [mixedAt, candidatesAt] = [k.take(cuts * 4), k.take(cuts * 20)];
  const mixedCount = k.run.mixedPlaces(inverse, cut, width, height, tau, mixedAt, candidatesAt);
  const mixed = { pixels: words(mixedAt, mixedCount), candidates: words(candidatesAt, mixedCount * 5) };
  k.back(bookmark);
  checkpoint(0.3);
  if (gain === null) return { flags, mixed, hidden: null, hiddenAt: new Int32Array(n).fill(-1) };

  const hiddenAt = k.take(n * 4);
  const plan = k.take(64);
  const [seed, away, waiting, queue] = [k.take(n * 4), k.take(n * 4), k.take(n), k.take((n + 1) * 4)];
  // words as in assembly/behind.ts
  k.ints(plan, 12).set([inverse, joined, seed, away, waiting, queue, width, height, 0, 0, 0, 0]);
  new Float64Array(k.floats(plan, 16).buffer, plan + 48, 2).set([tau, gain]);
  k.run.seedBehind(plan);
  checkpoint(0.6);
  const count = k.ints(plan + 40, 1)[0]!;
  const [pixels, off, seeded, from] = [k.take(count * 4), k.take(count * 4), k.take(count * 4), k.take(count * 4)];
  k.run.listHidden(plan, cut, pixels, off, seeded, from, hiddenAt);
  const places = words(pixels, count);
  // the search is over: its queue becomes the plane of what is smoothed, its seeds where seen pixels are listed
  const depths = k.floats(queue, n).fill(-1);
  const first = numbers(seeded, count);
  for (let m = 0; m < count; m++) depths[places[m]!] = first[m]!;
  const masks = k.take(count * sweeps);
  k.run.smoothBehind(inverse, queue, hiddenAt, pixels, count, masks, sweeps, width, height, together * tau);
  const plane = k.floats(queue, n);
  const smoothed = Float32Array.from(places, (i) => plane[i]!);
  const [links, seen] = [k.take(count * 32), k.take(count * 16)];
  const seenCount = k.run.linkHidden(masks, sweeps, count, pixels, hiddenAt, seed, width, height, links, seen);
  const hidden: HiddenShape = {
    pixels: places,
    seeded: first,
    smoothed,
    away: numbers(off, count),
    from: words(from, count),
    masks: k.bytes(masks, count * sweeps).slice(),
    links: words(links, count * 8),
    seen: words(seen, seenCount),
  };
  return { flags, mixed, hidden, hiddenAt: words(hiddenAt, n) };
}

/**
 * Smooths colours of hidden pixels (RGBA) in place, as plateParts found. `links`: for each pixel and neighbour which hidden pixel, and which of
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
