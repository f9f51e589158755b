import type { Picture } from '../raster/picture';
import { clampUnit } from '../scalar';

/** Moments of a side: weight, three means, six products. */
export const MOMENTS = 10;
/** Both sides beside each other: front, back. */
const CELL = 2 * MOMENTS;
/** How much less a coarser level of the pyramid says: weights fall with the square of distance. */
const KAPPA = 0.25;

/** Weight of every pixel for the front and for the back. */
export interface Speakers {
  /** a code for each pixel … */
  readonly codes: Uint8Array;
  /** … and the weights of each code */
  readonly front: Float32Array;
  readonly back: Float32Array;
}

interface Level {
  readonly width: number;
  readonly height: number;
  /** CELL numbers for each cell */
  readonly data: Float32Array;
}

/**
 * Colour statistics of front and back around every pixel that is asked for: means and covariances in linear light, gathered coarse to fine
 * over a mean pyramid, A_l = M_l + ¼·up(A_{l+1}), which is an inverse-distance average (cf. Shepard 1968) without a search and without
 * holes. Light is limited to display white: a lamp would outshout everything. The two finest levels are made only where they are read.
 */
export class Statistics {
  private readonly coarse: Level;
  private readonly cells: Int32Array;
  private readonly values: Float32Array;
  private readonly w1: number;
  private readonly h1: number;

  /** `pixels`: those that will be asked for */
  constructor(
    private readonly picture: Picture,
    private readonly speakers: Speakers,
    pixels: Int32Array,
  ) {
    const { width, height } = picture;
    this.coarse = gathered(firstLevel(picture, speakers));
    this.w1 = (width + 1) >> 1;
    this.h1 = (height + 1) >> 1;
    this.cells = new Int32Array(this.w1 * this.h1).fill(-1);
    const wanted: number[] = [];
    for (const i of pixels)
      for (const c of this.around(i))
        if (this.cells[c]! < 0) {
          this.cells[c] = wanted.length;
          wanted.push(c);
        }
    this.values = new Float32Array(wanted.length * CELL);
    wanted.forEach((c, k) => this.fill(c, k));
  }

  /** The four half-size cells around a pixel. */
  private around(i: number): readonly [number, number, number, number] {
    const { width } = this.picture;
    const fx = Math.min(this.w1 - 1, Math.max(0, ((i % width) + 0.5) / 2 - 0.5));
    const fy = Math.min(this.h1 - 1, Math.max(0, (Math.floor(i / width) + 0.5) / 2 - 0.5));
    const [x0, y0] = [Math.floor(fx), Math.floor(fy)];
    const [x1, y1] = [Math.min(this.w1 - 1, x0 + 1), Math.min(this.h1 - 1, y0 + 1)];
    return [y0 * this.w1 + x0, y0 * this.w1 + x1, y1 * this.w1 + x0, y1 * this.w1 + x1];
  }

  private fill(cell: number, k: number): void {
    const { width, height, data } = this.picture;
    const { codes, front, back } = this.speakers;
    const out = this.values;
    const o = k * CELL;
    const [cx, cy] = [cell % this.w1, Math.floor(cell / this.w1)];
    for (let y = 2 * cy; y < Math.min(height, 2 * cy + 2); y++) {
      const [from, end] = [y * width + 2 * cx, y * width + Math.min(width, 2 * cx + 2)];
      add(out, o, 0.25, front, codes, data, from, end);
      add(out, o + MOMENTS, 0.25, back, codes, data, from, end);
    }
    addUp(out, o, this.coarse, cx, cy);
  }

  /** Writes means and covariances of the front and of the back at one of the pixels asked for: for each side 3 means, then RR RG RB GG GB BB. */
  at(i: number, front: Float64Array, back: Float64Array): void {
    const { width } = this.picture;
    const fx = Math.min(this.w1 - 1, Math.max(0, ((i % width) + 0.5) / 2 - 0.5));
    const fy = Math.min(this.h1 - 1, Math.max(0, (Math.floor(i / width) + 0.5) / 2 - 0.5));
    const [u, v] = [fx - Math.floor(fx), fy - Math.floor(fy)];
    const [a, b, c, d] = this.around(i);
    const [p, q, r, s] = [this.cells[a]! * CELL, this.cells[b]! * CELL, this.cells[c]! * CELL, this.cells[d]! * CELL];
    const [k0, k1, k2, k3] = [(1 - u) * (1 - v), u * (1 - v), (1 - u) * v, u * v];
    const m = this.values;
    for (const [out, first] of [
      [front, 0],
      [back, MOMENTS],
    ] as const) {
      const weight = k0 * m[p + first]! + k1 * m[q + first]! + k2 * m[r + first]! + k3 * m[s + first]!;
      const k = 1 / (weight + 1e-20);
      for (let j = 1; j < MOMENTS; j++)
        out[j - 1] = (k0 * m[p + first + j]! + k1 * m[q + first + j]! + k2 * m[r + first + j]! + k3 * m[s + first + j]!) * k;
      const [mr, mg, mb] = [out[0]!, out[1]!, out[2]!];
      out[3]! -= mr * mr;
      out[4]! -= mr * mg;
      out[5]! -= mr * mb;
      out[6]! -= mg * mg;
      out[7]! -= mg * mb;
      out[8]! -= mb * mb;
    }
  }
}

/** Adds κ times what the next coarser level has around a cell. */
function addUp(out: Float32Array, o: number, { width, height, data }: Level, cx: number, cy: number): void {
  const fx = Math.min(width - 1, Math.max(0, (cx + 0.5) / 2 - 0.5));
  const fy = Math.min(height - 1, Math.max(0, (cy + 0.5) / 2 - 0.5));
  const [x0, y0] = [Math.floor(fx), Math.floor(fy)];
  const [x1, y1] = [Math.min(width - 1, x0 + 1), Math.min(height - 1, y0 + 1)];
  const [u, v] = [fx - x0, fy - y0];
  const [k0, k1, k2, k3] = [KAPPA * (1 - u) * (1 - v), KAPPA * u * (1 - v), KAPPA * (1 - u) * v, KAPPA * u * v];
  const [p, q] = [(y0 * width + x0) * CELL, (y0 * width + x1) * CELL];
  const [r, s] = [(y1 * width + x0) * CELL, (y1 * width + x1) * CELL];
  for (let j = 0; j < CELL; j++) out[o + j]! += k0 * data[p + j]! + k1 * data[q + j]! + k2 * data[r + j]! + k3 * data[s + j]!;
}

/** Moments of blocks of 4x4 pixels. */
function firstLevel({ width, height, data }: Picture, { codes, front, back }: Speakers): Level {
  const [w, h] = [(width + 3) >> 2, (height + 3) >> 2];
  const out = new Float32Array(w * h * CELL);
  for (let y = 0; y < height; y++)
    for (let x = 0, o = (y >> 2) * w * CELL; x < width; x += 4, o += CELL) {
      const i = y * width + x;
      const end = Math.min(i + 4, (y + 1) * width);
      add(out, o, 1 / 16, front, codes, data, i, end);
      add(out, o + MOMENTS, 1 / 16, back, codes, data, i, end);
    }
  return { width: w, height: h, data: out };
}

/** Adds the moments of one side of some pixels that follow each other, each of which counts for `share` of a cell. */
function add(
  out: Float32Array,
  o: number,
  share: number,
  weights: Float32Array,
  codes: Uint8Array,
  data: Float32Array,
  from: number,
  end: number,
): void {
  // variables of their own: taken apart from one list they cost more than twice the time
  let n = 0;
  let mr = 0;
  let mg = 0;
  let mb = 0;
  let rr = 0;
  let rg = 0;
  let rb = 0;
  let gg = 0;
  let gb = 0;
  let bb = 0;
  for (let i = from; i < end; i++) {
    const w = share * weights[codes[i]!]!;
    if (w === 0) continue;
    const r = clampUnit(data[i * 4]!);
    const g = clampUnit(data[i * 4 + 1]!);
    const b = clampUnit(data[i * 4 + 2]!);
    const wr = w * r;
    const wg = w * g;
    const wb = w * b;
    n += w;
    mr += wr;
    mg += wg;
    mb += wb;
    rr += wr * r;
    rg += wr * g;
    rb += wr * b;
    gg += wg * g;
    gb += wg * b;
    bb += wb * b;
  }
  if (n === 0) return;
  out[o]! += n;
  out[o + 1]! += mr;
  out[o + 2]! += mg;
  out[o + 3]! += mb;
  out[o + 4]! += rr;
  out[o + 5]! += rg;
  out[o + 6]! += rb;
  out[o + 7]! += gg;
  out[o + 8]! += gb;
  out[o + 9]! += bb;
}

/** The level with all coarser ones added to it, coarse to fine. */
function gathered(first: Level): Level {
  const levels = [first];
  for (let { width, height, data } = first; width > 2 || height > 2;) {
    const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
    const next = new Float32Array(w * h * CELL);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const [o, s] = [((y >> 1) * w + (x >> 1)) * CELL, (y * width + x) * CELL];
        for (let j = 0; j < CELL; j++) next[o + j]! += 0.25 * data[s + j]!;
      }
    ({ width, height, data } = { width: w, height: h, data: next });
    levels.push({ width, height, data });
  }
  for (let l = levels.length - 2; l >= 0; l--) {
    const { width, height, data } = levels[l]!;
    for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) addUp(data, (y * width + x) * CELL, levels[l + 1]!, x, y);
  }
  return first;
}
