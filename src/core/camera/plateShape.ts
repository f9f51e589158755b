import { plateParts, type PlateParts } from '../kernels/behindHost';
import { newBytes, newFloats, newInts, type Plane } from '../picture';
import { HIDDEN_BELOW, HIDDEN_RIGHT, type PathExtent, type PlateGrid } from './layered';

/** Things closer than this count as being this close, m. */
const CLOSEST = 1e-3;
/** The difference of places, px, from which neighbours are cut. */
const CUT_PX = 0.75;
/** How often what is hidden is smoothed. */
export const SWEEPS = 16;
/** Neighbours whose inverse distances differ by less than so many tau are smoothed together. */
const TOGETHER = 3;

/**
 * A plate's distances taken apart for a camera that moves, whatever its colours: made once for all pictures of the same scene. See LayeredPlate.
 */
export interface PlateShape extends PlateGrid, PlateParts {
  readonly pad: number;
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
  const parts = plateParts(q, size, { tau, gain: extent.hidden ? gain : null, sweeps: SWEEPS, together: TOGETHER }, checkpoint);
  const { mixed, hidden } = parts;
  const hiddenAt = newInts(width * height, shared);
  hiddenAt.set(parts.hiddenAt);
  const { flags } = parts;
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
