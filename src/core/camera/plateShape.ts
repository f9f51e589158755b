import { linkPlate, seedBehind, smoothBehind } from '../kernels/behindHost';
import { newBytes, newFloats, newInts, type Plane, type Size } from '../picture';
import { HIDDEN_BELOW, HIDDEN_RIGHT, type PathExtent, type PlateGrid } from './layered';
import { mixedPixels, type MixedPixels } from './mixedPixels';

/** Things closer than this count as being this close, m. */
const CLOSEST = 1e-3;
/** The difference of places, px, from which neighbours are cut. */
const CUT_PX = 0.75;
/** How often what is hidden is smoothed. */
export const SWEEPS = 16;
/** Neighbours whose inverse distances differ by less than so many tau are smoothed together. */
const TOGETHER = 3;

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

/**
 * A plate's distances taken apart for a camera that moves, whatever its colours: made once for all pictures of the same scene. See LayeredPlate.
 */
export interface PlateShape extends PlateGrid {
  readonly pad: number;
  /** of surfaces and edges; those of hidden pixels and rims are added with the colours */
  readonly flags: Uint8Array;
  readonly mixed: MixedPixels;
  readonly hidden: HiddenShape | null;
  /** which of the hidden pixels lies at a pixel, or −1 */
  readonly hiddenAt: Int32Array;
  /** least and largest inverse distance of each row in front */
  readonly rowRange: Float32Array;
  /** for a cache that counts bytes */
  readonly data: { readonly byteLength: number };
}

/** The distances of a plate as inverse ones, continued beyond its border. */
function paddedInverse(distance: Plane, pad: number, shared: boolean): Float32Array {
  const { width: w, height: h, data } = distance;
  const width = w + 2 * pad;
  const q = newFloats(width * (h + 2 * pad), shared);
  for (let y = 0; y < h; y++) {
    const row = (y + pad) * width;
    for (let x = 0; x < w; x++) q[row + pad + x] = 1 / Math.max(CLOSEST, data[y * w + x]!);
    q.fill(q[row + pad]!, row, row + pad);
    q.fill(q[row + pad + w - 1]!, row + pad + w, row + width);
  }
  const rowAt = (y: number): Float32Array => q.subarray(y * width, (y + 1) * width);
  for (let y = 0; y < pad; y++) {
    rowAt(y).set(rowAt(pad));
    rowAt(h + 2 * pad - 1 - y).set(rowAt(pad + h - 1));
  }
  return q;
}

/**
 * Takes the distances of a plate apart: cuts it where depth jumps (layered depth images: Shade, Gortler, He & Szeliski 1998) and finds what lies
 * behind the cuts. `checkpoint` hears the share done and may throw.
 */
export function takeApart(distance: Plane, extent: Omit<PathExtent, 'border'>, shared: boolean, checkpoint: (share: number) => void): PlateShape {
  const { pad, gain } = extent;
  const q = paddedInverse(distance, pad, shared);
  const size = { width: distance.width + 2 * pad, height: distance.height + 2 * pad };
  const { width, height } = size;
  const tau = CUT_PX / Math.max(1e-6, gain);
  const grid = { ...size, q, tau };
  const { flags, cut } = linkPlate(q, size, tau);
  checkpoint(0.2);
  const mixed = mixedPixels(grid, cut);
  checkpoint(0.3);
  const hiddenAt = newInts(width * height, shared).fill(-1);
  const hidden = extent.hidden ? hiddenShape(grid, flags, cut, gain, hiddenAt, checkpoint) : null;
  const rowRange = new Float32Array(height * 2);
  for (let y = 0; y < height; y++) {
    let [least, most] = [Infinity, 0];
    for (let i = y * width; i < (y + 1) * width; i++) {
      const v = q[i]!;
      if (v < least) least = v;
      if (v > most) most = v;
    }
    rowRange[y * 2] = least;
    rowRange[y * 2 + 1] = most;
  }
  const arrays = [q, flags, hiddenAt, rowRange, mixed.pixels, mixed.candidates, ...(hidden ? Object.values(hidden) : [])];
  return { ...grid, pad, flags, mixed, hidden, hiddenAt, rowRange, data: { byteLength: arrays.reduce((s, a) => s + a.byteLength, 0) } };
}

function hiddenShape(
  grid: PlateGrid,
  flags: Uint8Array,
  cut: Uint8Array,
  gain: number,
  hiddenAt: Int32Array,
  checkpoint: (share: number) => void,
): HiddenShape {
  const { width: w, height: h, q, tau } = grid;
  const { seed, away, found } = seedBehind(q, flags, grid, tau, gain);
  checkpoint(0.6);
  const pixels = new Int32Array(found);
  const seeded = new Float32Array(found);
  const from = new Int32Array(found);
  const off = new Float32Array(found);
  for (let i = 0, k = 0; k < found; i++) {
    const s = seed[i]!;
    if (s < 0) continue;
    pixels[k] = i;
    hiddenAt[i] = k;
    seeded[k] = q[s]!;
    off[k] = away[i]!;
    from[k] = mirroredPlace(grid, i, s, away[i]!, cut);
    k++;
  }
  const smoothed = seeded.slice();
  const masks = smoothBehind(q, { width: w, height: h, pixels, behind: smoothed, hiddenAt }, SWEEPS, TOGETHER * tau);
  checkpoint(0.9);
  // the seen pixels that are smoothed with, each once
  const links = new Int32Array(found * 8).fill(-1);
  const seenAt = new Map<number, number>();
  for (const [k, i] of pixels.entries())
    for (const [n, step] of [-1, 1, -w, w].entries()) {
      const j = i + step;
      const other = hiddenAt[j] ?? -1;
      links[k * 8 + n * 2] = other;
      let counts = false;
      for (let sweep = 0; sweep < SWEEPS && !counts; sweep++) counts = ((masks[sweep * found + k]! >> (2 * n)) & 2) !== 0;
      if (!counts) continue;
      if (!seenAt.has(j)) seenAt.set(j, seenAt.size);
      links[k * 8 + n * 2 + 1] = seenAt.get(j)!;
    }
  return { pixels, seeded, smoothed, away: off, from, masks, links, seen: Int32Array.from(seenAt.keys()) };
}

/** The pixel mirrored about the edge, one px beyond the mixed pixel, drawn in until it lies on the surface that goes on there. */
function mirroredPlace({ width: w, height: h, q, tau }: PlateGrid, i: number, s: number, away: number, cut: Uint8Array): number {
  const [sx, sy] = [s % w, Math.floor(s / w)];
  const [dx, dy] = [sx - (i % w), sy - Math.floor(i / w)];
  for (const share of [1 + 1 / away, 0.6, 0.3, 1 / away]) {
    const x = sx + Math.round(dx * share);
    const y = sy + Math.round(dy * share);
    if (x < 0 || y < 0 || x >= w || y >= h) continue;
    const j = y * w + x;
    if (Math.abs(q[j]! - q[s]!) < 6 * tau && !(share > 0.3 && cut[j])) return j;
  }
  return s;
}

/** The flags of a plate with those of its hidden pixels, which lie at inverse distances `depth`. */
export function withHidden(shape: PlateShape, depth: Float32Array, shared: boolean): Uint8Array {
  const flags = newBytes(shape.flags.length, shared);
  flags.set(shape.flags);
  const { hidden, hiddenAt, width, tau } = shape;
  for (const [k, i] of hidden?.pixels.entries() ?? []) {
    const [right, below] = [hiddenAt[i + 1] ?? -1, hiddenAt[i + width] ?? -1];
    if (right >= 0 && Math.abs(depth[k]! - depth[right]!) <= tau) flags[i]! |= HIDDEN_RIGHT;
    if (below >= 0 && Math.abs(depth[k]! - depth[below]!) <= tau) flags[i]! |= HIDDEN_BELOW;
  }
  return flags;
}
