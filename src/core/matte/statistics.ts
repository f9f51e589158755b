import { kernels } from '../kernels/loader';
import type { Picture } from '../picture';
import { clampUnit } from '../scalar';

/** Moments of a side: weight, three means, six products. */
export const MOMENTS = 10;
/** Both sides beside each other: front, back. */
export const CELL = 2 * MOMENTS;
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

export interface Level {
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
    this.coarse = gathered(picture, speakers);
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
export function addUp(out: Float32Array, o: number, { width, height, data }: Level, cx: number, cy: number): void {
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

/** Moments of blocks of 4x4 pixels with all coarser ones added to them, coarse to fine. By kernels, whose readable twin is gatheredTwin. */
export function gathered({ width, height, data }: Picture, { codes, front, back }: Speakers): Level {
  const k = kernels();
  const bookmark = k.bookmark();
  const sizes = [{ width: (width + 3) >> 2, height: (height + 3) >> 2 }];
  for (let { width: w, height: h } = sizes[0]!; w > 2 || h > 2; sizes.push({ width: w, height: h })) [w, h] = [(w + 1) >> 1, (h + 1) >> 1];
  const levels = sizes.map((size) => ({ ...size, at: k.room(size.width * size.height * CELL) }));
  const [light, row, ahead, behind] = [k.take(width * 16), k.take(width), k.put(front), k.put(back)];
  const [pixels, told] = [k.floats(light, width * 4), k.bytes(row, width)];
  const [finest] = levels as [(typeof levels)[number]];
  for (let y = 0; y < height; y++) {
    pixels.set(data.subarray(y * width * 4, (y + 1) * width * 4));
    told.set(codes.subarray(y * width, (y + 1) * width));
    k.run.momentRow(light, row, ahead, behind, width, 1 / 16, finest.at + (y >> 2) * finest.width * CELL * 4);
  }
  for (let n = 1; n < levels.length; n++) k.run.halveCells(levels[n - 1]!.at, levels[n - 1]!.width, levels[n - 1]!.height, levels[n]!.at);
  for (let n = levels.length - 2; n >= 0; n--) k.run.addCells(levels[n]!.at, levels[n]!.width, levels[n]!.height, levels[n + 1]!.at);
  const out = k.floats(finest.at, finest.width * finest.height * CELL).slice();
  k.back(bookmark);
  return { width: finest.width, height: finest.height, data: out };
}

/** Adds the moments of one side of some pixels that follow each other, each of which counts for `share` of a cell. */
export function add(
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
