import { rootsOf } from '../kernels/behindHost';
import { newFloats, newInts, type Picture, type Plane } from '../picture';
import { hiddenFromBackdrop, hiddenFromBesides } from './hiddenColours';
import { HAS_RIM, type Backdrop, type BorderFill, type LayeredPlate, type PathExtent, type SparseSurface } from './layered';
import { cleanFarSide } from './mixedPixels';
import { takeApart, withHidden, type PlateShape } from './plateShape';

/** Names differ between workers too: a plate is sent to those that lend a hand. */
const newName = (): string => `${Date.now().toString(36)}-${Math.random().toString(36).slice(2)}`;

const mirrored = (v: number, size: number): number => {
  const m = v < 0 ? -1 - v : v >= size ? 2 * size - 1 - v : v;
  return m < 0 ? 0 : m >= size ? size - 1 : m;
};

/** Roots of a plate's light, its border continued. */
function paddedRoots(picture: Picture, pad: number, border: BorderFill, shared: boolean): Float32Array {
  const { width: w, height: h } = picture;
  const [width, height] = [w + 2 * pad, h + 2 * pad];
  const colour = newFloats(width * height * 4, shared);
  const rowAt = (y: number): Float32Array => colour.subarray(y * width * 4, (y + 1) * width * 4);
  const beyond = border === 'mirrored' ? mirrored : (v: number, size: number): number => Math.min(size - 1, Math.max(0, v));
  const across = Int32Array.from({ length: width }, (_, x) => pad + beyond(x - pad, w));
  for (let y = 0; y < h; y++) {
    const row = rowAt(y + pad);
    rootsOf(picture.data.subarray(y * w * 4, (y + 1) * w * 4), row.subarray(pad * 4, (pad + w) * 4));
    for (let x = 0; x < width; x = x === pad - 1 ? pad + w : x + 1) row.copyWithin(x * 4, across[x]! * 4, across[x]! * 4 + 4);
  }
  for (let y = 0; y < height; y = y === pad - 1 ? pad + h : y + 1) rowAt(y).set(rowAt(pad + beyond(y - pad, h)));
  if (border === 'smooth' && pad > 1) smoothBorder(colour, width, height, pad);
  return colour;
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

/** What colours a plate that is taken apart: where its border is continued, and what a person gave for what lies behind. */
export interface Colouring {
  readonly picture: Picture;
  readonly border: BorderFill;
  readonly backdrop?: Backdrop | null;
}

/** Gives a plate that is taken apart its colours: cleans the mixed pixels on the far side of the cuts, and fills what they hide. */
export function colourPlate(
  shape: PlateShape,
  { picture, border, backdrop = null }: Colouring,
  shared = false,
  checkpoint: (share: number) => void = () => undefined,
): LayeredPlate {
  const { width, height, pad, q, tau, hiddenAt } = shape;
  const colour = paddedRoots(picture, pad, border, shared);
  checkpoint(0.4);
  const rims = cleanFarSide(shape, shape.mixed, colour);
  checkpoint(0.6);
  const behind = shape.hidden && (backdrop ? hiddenFromBackdrop(shape, shape.hidden, backdrop) : hiddenFromBesides(shape.hidden, colour));
  const flags = withHidden(shape, behind?.q ?? new Float32Array(0), shared);
  const hidden = sparse(shape.hidden?.pixels.length ?? 0, height, shared);
  if (shape.hidden && behind) {
    hidden.pixel.set(shape.hidden.pixels);
    hidden.q.set(behind.q);
    hidden.colour.set(behind.colour);
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
  rowRange.set(shape.rowRange);
  for (let y = 0; y < height; y++)
    for (const s of [hidden, rim])
      for (let k = s.rowStart[y]!; k < s.rowStart[y + 1]!; k++) {
        rowRange[y * 2] = Math.min(rowRange[y * 2]!, s.q[k]!);
        rowRange[y * 2 + 1] = Math.max(rowRange[y * 2 + 1]!, s.q[k]!);
      }
  checkpoint(1);
  const bytes = width * height * 17 + (hidden.pixel.length + rims.length) * 28;
  return { name: newName(), width, height, pad, colour, q, flags, hidden, hiddenAt, rim, rimCover, tau, rowRange, data: { byteLength: bytes } };
}

/** A plate taken apart, its distances and its colours at once (see takeApart and colourPlate). */
export function layPlate(
  picture: Picture,
  distance: Plane,
  extent: PathExtent,
  backdrop: Backdrop | null = null,
  shared = false,
  checkpoint: (share: number) => void = () => undefined,
): LayeredPlate {
  const shape = takeApart(distance, extent, shared, (s) => checkpoint(0.6 * s));
  return colourPlate(shape, { picture, border: extent.border, backdrop }, shared, (s) => checkpoint(0.6 + 0.4 * s));
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
