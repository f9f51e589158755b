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

/** The edge of a matte, found once for all bands about it. A side is more or less than one half. */
export class MatteEdge {
  private readonly side: Uint8Array;
  /** pixels beside the other side, in order */
  private readonly edge: Int32Array;
  private inverse: Float32Array | null = null;

  constructor(
    private readonly matte: Plane,
    private readonly distance: Plane,
  ) {
    const { data } = matte;
    const side = new Uint8Array(data.length);
    for (let i = 0; i < side.length; i++) side[i] = data[i]! > 0.5 ? 1 : 0;
    this.side = side;
    this.edge = edgeOf(side, matte.width, matte.height);
  }

  /** Inverse distances, 1/m. */
  private get q(): Float32Array {
    return (this.inverse ??= this.distance.data.map((z) => 1 / z));
  }

  /** Pixels within so many px of the edge, rising (2: those within 1.6 px of it; 3 and more: so many px), and for every pixel how far it is from the other side. */
  within(radius: number): Pick<Band, 'pixels' | 'apart'> {
    const { width: w, height: h } = this.matte;
    const { side } = this;
    const apart = new Uint8Array(w * h);
    const marked = new Uint8Array(w * h);
    const found: number[] = [];
    const marks = offsetsOf(radius);
    for (const i of this.edge) {
      const own = side[i]!;
      const [x, y] = [i % w, Math.floor(i / w)];
      for (const { dx, dy, class: c } of marks) {
        const [u, v] = [x + dx, y + dy];
        if (u < 0 || v < 0 || u >= w || v >= h) continue;
        const j = v * w + u;
        if (side[j] === own) continue;
        if (c > apart[j]!) apart[j] = c;
        if (marked[j]) continue;
        marked[j] = 1;
        found.push(j);
      }
    }
    return { pixels: Int32Array.from(found).sort(), apart };
  }

  /** The band within so many px of the edge. `blur`: how soft the map's edges are, px; what rises over so few pixels is a jump still. */
  band(radius: number, blur = 0): Band {
    const { pixels, apart } = this.within(radius);
    const r = Math.max(2, Math.ceil(radius));
    const far = r + Math.ceil(4 * blur);
    const { width, height } = this.matte;
    const inverse = { width, height, data: this.q };
    return { pixels, jump: Float32Array.from(pixels, (i) => jumpAt(inverse, i, r, far)), apart };
  }
}

/** The band within `radius` px of the edge of a matte (see MatteEdge). */
export const findBand = (matte: Plane, distance: Plane, radius: number, blur = 0): Band => new MatteEdge(matte, distance).band(radius, blur);

/** Pixels that have one of the other side beside them, in order. */
function edgeOf(side: Uint8Array, w: number, h: number): Int32Array {
  const found: number[] = [];
  // eight pixels at a time where all about them are on one side
  const alike = new DataView(side.buffer);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w;) {
      const i = y * w + x;
      const own = side[i]!;
      if (x > 0 && y > 0 && y < h - 1 && x + 8 < w && side[i - 1] === own && side[i + 8] === own) {
        const all = own * 0x01010101;
        if (sameEight(alike, i, all) && sameEight(alike, i - w, all) && sameEight(alike, i + w, all)) {
          x += 8;
          continue;
        }
      }
      if (
        (x > 0 && side[i - 1] !== own) ||
        (x < w - 1 && side[i + 1] !== own) ||
        (y > 0 && side[i - w] !== own) ||
        (y < h - 1 && side[i + w] !== own)
      )
        found.push(i);
      x++;
    }
  return Int32Array.from(found);
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
 * How much of a jump there is around a pixel of a plane of inverse depths: the range of inverse depths in a window, less what a plane through it would have. In inverse
 * depth a plane is affine, so that ground seen at a grazing angle is none. The plane's slope is
 * told by pixels `far` away: a soft edge ends before.
 */
function jumpAt({ width: w, height: h, data }: Plane, i: number, r: number, far: number): number {
  const [x, y] = [i % w, Math.floor(i / w)];
  const at = (u: number, v: number): number => data[Math.min(h - 1, Math.max(0, v)) * w + Math.min(w - 1, Math.max(0, u))]!;
  let [low, high] = [Infinity, 0];
  const [left, right] = [Math.max(0, x - r), Math.min(w - 1, x + r)];
  for (let v = Math.max(0, y - r); v <= Math.min(h - 1, y + r); v++)
    for (let p = v * w + left; p <= v * w + right; p++) {
      const q = data[p]!;
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
