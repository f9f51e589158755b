import type { Plane } from '../picture';
import { smoothstep } from '../scalar';

/** Ratio of inverse depths, within the window, at which a jump begins to count as one, and from which it is one. */
const JUMP_FROM = 0.06;
const JUMP_TO = 0.14;

/** How far a pixel is from the other side of a matte, as far as it matters for who speaks for a side. */
export const APART = { far: 0, near: 1, beside: 2 } as const;

/** The pixels along the edges of a matte, and what the depth says of each. */
export interface Band {
  /** indices of the pixels in question, rising */
  readonly pixels: Int32Array;
  /** for each of them: 1 where the depth jumps (colour may speak), 0 where a continuous surface crosses the edge */
  readonly jump: Float32Array;
  /** for every pixel of the picture: APART */
  readonly apart: Uint8Array;
}

/**
 * Finds the pixels within `reach` px of the edge of a matte (2: those within 1.6 px of it; 3 and more: so many px). A side is more or less
 * than one half. `blur`: how soft the map's edges are, px; what rises over so few pixels is a jump still.
 */
export function findBand(matte: Plane, distance: Plane, radius: number, blur = 0): Band {
  const { width: w, height: h, data } = matte;
  const n = w * h;
  const apart = new Uint8Array(n);
  const inBand = new Uint8Array(n);
  const side = new Uint8Array(n);
  for (let i = 0; i < n; i++) side[i] = data[i]! > 0.5 ? 1 : 0;
  const marks = offsetsOf(radius);
  const mark = (i: number, x: number, y: number): void => {
    const own = side[i]!;
    for (const { dx, dy, class: c } of marks) {
      const [u, v] = [x + dx, y + dy];
      if (u < 0 || v < 0 || u >= w || v >= h) continue;
      const j = v * w + u;
      if (side[j] === own) continue;
      if (c > apart[j]!) apart[j] = c;
      inBand[j] = 1;
    }
  };
  const edge = (x: number, y: number): void => {
    const i = y * w + x;
    const own = side[i]!;
    // only pixels beside the other side mark it
    if ((x > 0 && side[i - 1] !== own) || (x < w - 1 && side[i + 1] !== own) || (y > 0 && side[i - w] !== own) || (y < h - 1 && side[i + w] !== own))
      mark(i, x, y);
  };
  // eight pixels at a time where all about them are on one side
  const alike = new DataView(side.buffer);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w;) {
      const i = y * w + x;
      if (x > 0 && y > 0 && y < h - 1 && x + 8 < w) {
        const own = side[i]! * 0x01010101;
        if (
          side[i - 1] === side[i] &&
          side[i + 8] === side[i] &&
          sameEight(alike, i, own) &&
          sameEight(alike, i - w, own) &&
          sameEight(alike, i + w, own)
        ) {
          x += 8;
          continue;
        }
      }
      edge(x++, y);
    }
  let count = 0;
  for (let i = 0; i < n; i++) count += inBand[i]!;
  const pixels = new Int32Array(count);
  for (let i = 0, k = 0; k < count; i++) if (inBand[i]) pixels[k++] = i;
  const r = Math.max(2, Math.ceil(radius));
  const far = r + Math.ceil(4 * blur);
  const jump = Float32Array.from(pixels, (i) => jumpAt(distance, i, r, far));
  return { pixels, jump, apart };
}

/** Whether the eight bytes from `at` on are four of `all` twice. */
const sameEight = (bytes: DataView, at: number, all: number): boolean => bytes.getUint32(at) === all && bytes.getUint32(at + 4) === all;

interface Mark {
  readonly dx: number;
  readonly dy: number;
  readonly class: number;
}

/** Where a pixel on an edge marks the other side, by chamfer distance (Borgefors 1986: 1 along, √2 across). */
function offsetsOf(radius: number): readonly Mark[] {
  const within = radius <= 2 ? 2.1 : radius + 0.5;
  const found: Mark[] = [];
  const r = Math.ceil(within);
  for (let dy = -r; dy <= r; dy++)
    for (let dx = -r; dx <= r; dx++) {
      const [long, short] = [Math.max(Math.abs(dx), Math.abs(dy)), Math.min(Math.abs(dx), Math.abs(dy))];
      const d = long - short + Math.SQRT2 * short;
      if (d > 0 && d < within) found.push({ dx, dy, class: d <= 1.01 ? APART.beside : d <= 2.01 ? APART.near : APART.far });
    }
  return found;
}

/**
 * How much of a jump there is around a pixel: the range of inverse depths in a window, less what a plane through it would have. In inverse
 * depth a plane is affine, so that ground seen at a grazing angle is none. The plane's slope is
 * told by pixels `far` away: a soft edge ends before.
 */
function jumpAt({ width: w, height: h, data }: Plane, i: number, r: number, far: number): number {
  const [x, y] = [i % w, Math.floor(i / w)];
  const at = (u: number, v: number): number => 1 / data[Math.min(h - 1, Math.max(0, v)) * w + Math.min(w - 1, Math.max(0, u))]!;
  let [low, high] = [Infinity, 0];
  for (let v = y - r; v <= y + r; v++)
    for (let u = x - r; u <= x + r; u++) {
      const q = at(u, v);
      if (q < low) low = q;
      if (q > high) high = q;
    }
  if (!(high > 0)) return 0;
  const own = at(x, y);
  // a slope goes on in the same direction on both sides; a strand and a jump do not
  const slope = (a: number, b: number): number => {
    const [before, after] = [own - a, b - own];
    return before * after > 0 ? ((2 * r) / far) * Math.min(Math.abs(before), Math.abs(after)) : 0;
  };
  const plane = slope(at(x - far, y), at(x + far, y)) + slope(at(x, y - far), at(x, y + far));
  return smoothstep(JUMP_FROM, JUMP_TO, (high - low - plane) / high);
}
