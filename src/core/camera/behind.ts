import { newBytes, newFloats, newInts, type Picture, type Plane } from '../picture';
import { cleanFarSide } from './cleanEdges';
import { fillHidden } from './hiddenParts';
import { HAS_RIM, type Backdrop, type LayeredPlate, type PathExtent, type SparseSurface } from './layered';
import { findLinks } from './links';

/** Things closer than this count as being this close, m. */
const CLOSEST = 1e-3;

/** The difference of places, px, from which neighbours are cut. */
const CUT_PX = 0.75;

/** Names differ between workers too: a plate is sent to those that lend a hand. */
const newName = (): string => `${Date.now().toString(36)}-${Math.random().toString(36).slice(2)}`;

const mirrored = (v: number, size: number): number => {
  const m = v < 0 ? -1 - v : v >= size ? 2 * size - 1 - v : v;
  return m < 0 ? 0 : m >= size ? size - 1 : m;
};

/** The plate with its border continued: roots of its light, and inverse distances. */
function padded(picture: Picture, distance: Plane, { pad, border }: PathExtent, shared: boolean): { colour: Float32Array; q: Float32Array } {
  const { width: w, height: h } = picture;
  const [width, height] = [w + 2 * pad, h + 2 * pad];
  const colour = newFloats(width * height * 4, shared);
  const q = newFloats(width * height, shared);
  for (let y = 0; y < height; y++) {
    const sy = mirrored(y - pad, h);
    const ny = Math.min(h - 1, Math.max(0, y - pad));
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const nx = Math.min(w - 1, Math.max(0, x - pad));
      const from = border === 'mirrored' ? (sy * w + mirrored(x - pad, w)) * 4 : (ny * w + nx) * 4;
      for (let k = 0; k < 4; k++) colour[i * 4 + k] = Math.sqrt(Math.max(0, picture.data[from + k]!));
      q[i] = 1 / Math.max(CLOSEST, distance.data[ny * w + nx]!);
    }
  }
  if (border === 'smooth' && pad > 1) smoothBorder(colour, width, height, pad);
  return { colour, q };
}

/** Softens what was drawn out of the border, the more the farther out, along the border. */
function smoothBorder(colour: Float32Array, width: number, height: number, pad: number): void {
  const copy = colour.slice();
  const mean = (i: number, step: number, margin: number, lowest: number, highest: number, at: number): void => {
    const from = Math.max(lowest, at - margin);
    const to = Math.min(highest, at + margin);
    for (let k = 0; k < 4; k++) {
      let sum = 0;
      for (let p = from; p <= to; p++) sum += copy[(i + (p - at) * step) * 4 + k]!;
      colour[i * 4 + k] = sum / (to - from + 1);
    }
  };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const across = Math.max(pad - x, x - (width - 1 - pad));
      const down = Math.max(pad - y, y - (height - 1 - pad));
      const out = Math.max(across, down);
      if (out <= 0) continue;
      const i = y * width + x;
      if (down >= across) mean(i, 1, out, 0, width - 1, x);
      else mean(i, width, out, 0, height - 1, y);
    }
}

/**
 * Takes a plate apart, once for all frames of a move: cuts it where depth jumps (layered depth images: Shade, Gortler, He & Szeliski 1998),
 * cleans the mixed pixels on the far side of the cuts, and fills what they hide. `checkpoint` hears the share done and may throw.
 */
export function layPlate(
  picture: Picture,
  distance: Plane,
  extent: PathExtent,
  backdrop: Backdrop | null = null,
  shared = false,
  checkpoint: (share: number) => void = () => undefined,
): LayeredPlate {
  const { pad, gain } = extent;
  const [width, height] = [picture.width + 2 * pad, picture.height + 2 * pad];
  const n = width * height;
  const { colour, q } = padded(picture, distance, extent, shared);
  checkpoint(0.1);
  const flags = newBytes(n, shared);
  const tau = CUT_PX / Math.max(1e-6, gain);
  const grid = { width, height, colour, q, flags, tau, gain };
  const cuts = findLinks(grid);
  checkpoint(0.2);
  const rims = cleanFarSide(grid, cuts);
  checkpoint(0.35);
  const filled = extent.hidden ? fillHidden(grid, cuts, backdrop && { ...backdrop, pad }, (s) => checkpoint(0.35 + 0.6 * s)) : null;

  const count = filled?.pixels.length ?? 0;
  const hiddenAt = newInts(n, shared).fill(-1);
  const hidden = sparse(count, height, shared);
  for (let k = 0; k < count; k++) {
    const i = filled!.pixels[k]!;
    hiddenAt[i] = k;
    hidden.pixel[k] = i;
    hidden.q[k] = filled!.q[i]!;
    hidden.colour.set(filled!.colour.subarray(k * 4, k * 4 + 4), k * 4);
  }
  fillRowStarts(hidden, width, height);
  const rim = sparse(rims.length, height, shared);
  const rimCover = newFloats(rims.length, shared);
  for (const [k, r] of rims.entries()) {
    rim.pixel[k] = r.pixel;
    rim.q[k] = r.q;
    rim.colour.set(r.colour, k * 4);
    rimCover[k] = r.cover;
    flags[r.pixel]! |= HAS_RIM;
  }
  fillRowStarts(rim, width, height);

  const rowRange = newFloats(height * 2, shared);
  for (let y = 0; y < height; y++) {
    let [least, most] = [Infinity, 0];
    for (let i = y * width; i < (y + 1) * width; i++) {
      const v = q[i]!;
      if (v < least) least = v;
      if (v > most) most = v;
    }
    for (const s of [hidden, rim])
      for (let k = s.rowStart[y]!; k < s.rowStart[y + 1]!; k++) {
        least = Math.min(least, s.q[k]!);
        most = Math.max(most, s.q[k]!);
      }
    rowRange[y * 2] = least;
    rowRange[y * 2 + 1] = most;
  }
  checkpoint(1);
  const bytes = n * 4 * 6 + n + (count + rims.length) * 28;
  return { name: newName(), width, height, pad, colour, q, flags, hidden, hiddenAt, rim, rimCover, tau, rowRange, data: { byteLength: bytes } };
}

const sparse = (count: number, height: number, shared: boolean): SparseSurface => ({
  pixel: newInts(Math.max(1, count), shared).subarray(0, count),
  q: newFloats(Math.max(1, count), shared).subarray(0, count),
  colour: newFloats(Math.max(1, count) * 4, shared).subarray(0, count * 4),
  rowStart: newInts(height + 1, shared),
});

function fillRowStarts({ pixel, rowStart }: SparseSurface, width: number, height: number): void {
  let k = 0;
  for (let y = 0; y <= height; y++) {
    while (k < pixel.length && pixel[k]! < y * width) k++;
    rowStart[y] = k;
  }
}
