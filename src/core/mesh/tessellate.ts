import { BELOW, RIGHT, type Sheet } from './sheet';

/** Triangles over a picture: corners at places of it, px (pixel centres at +½), with their inverse distances. */
export interface FlatMesh {
  readonly x: Float32Array;
  readonly y: Float32Array;
  /** 1/m; 0 at infinity */
  readonly q: Float32Array;
  /** three corners each, counter-clockwise as they are seen from where the plate was taken */
  readonly triangles: Uint32Array;
}

/** Numbers that are added one by one. */
class Growing<A extends Float32Array | Uint32Array> {
  private used = 0;
  constructor(private array: A) {}
  get length(): number {
    return this.used;
  }
  at(index: number): number {
    return this.array[index]!;
  }
  push(value: number): void {
    if (this.used === this.array.length) {
      const larger = new (this.array.constructor as new (length: number) => A)(Math.ceil(this.array.length * 1.5) + 64);
      larger.set(this.array);
      this.array = larger;
    }
    this.array[this.used++] = value;
  }
  done(): A {
    return this.array.slice(0, this.used) as A;
  }
}

/** What stops beside something nearer still goes on so far, as a share of the way to it: no triangle is without area. */
const SHORT = 0.02;

/** The corners of a cell, clockwise from its upper left one: how far right and down. */
const CORNERS = [
  [0, 0],
  [1, 0],
  [1, 1],
  [0, 1],
] as const;

type TessellatedSheet = Sheet & { readonly xs?: Int32Array; readonly ys?: Int32Array; readonly under?: Uint8Array };

/** The triangles of a sheet while they are made. */
class Tessellation {
  private readonly w: number;
  private readonly h: number;
  private readonly q: Float32Array;
  private readonly xs: Int32Array;
  private readonly ys: Int32Array;
  private readonly X: Growing<Float32Array>;
  private readonly Y: Growing<Float32Array>;
  private readonly Q: Growing<Float32Array>;
  private readonly T: Growing<Uint32Array>;
  private readonly cornerAt: Int32Array;
  /** half way to the neighbour right of a sample and left of it, below and above it, where it is cut off from that */
  private readonly halfAt = [new Map<number, number>(), new Map<number, number>(), new Map<number, number>(), new Map<number, number>()];

  constructor(private readonly sheet: TessellatedSheet) {
    const { width: w, height: h, q } = sheet;
    [this.w, this.h, this.q] = [w, h, q];
    this.xs = sheet.xs ?? Int32Array.from({ length: w }, (_, i) => i);
    this.ys = sheet.ys ?? Int32Array.from({ length: h }, (_, i) => i);
    [this.X, this.Y, this.Q] = [new Growing(new Float32Array(w * h)), new Growing(new Float32Array(w * h)), new Growing(new Float32Array(w * h))];
    this.T = new Growing(new Uint32Array(w * h * 6));
    this.cornerAt = new Int32Array(w * h).fill(-1);
  }

  private add(x: number, y: number, v: number): number {
    this.X.push(x);
    this.Y.push(y);
    this.Q.push(v);
    return this.X.length - 1;
  }

  private placeX(x: number): number {
    return x < 0 ? -0.5 : x >= this.w ? this.xs[this.w - 1]! + 1.5 : this.xs[x]! + 0.5;
  }

  private placeY(y: number): number {
    return y < 0 ? -0.5 : y >= this.h ? this.ys[this.h - 1]! + 1.5 : this.ys[y]! + 0.5;
  }

  private corner(x: number, y: number): number {
    const i = y * this.w + x;
    if (this.cornerAt[i]! < 0) this.cornerAt[i] = this.add(this.placeX(x), this.placeY(y), this.q[i]!);
    return this.cornerAt[i]!;
  }

  private there(x: number, y: number): boolean {
    return x >= 0 && y >= 0 && x < this.w && y < this.h && this.q[y * this.w + x]! >= 0;
  }

  /** what is cut off by something nearer stops where it is, if there is something under it: half of what lies there has the other's colour */
  private isShort(x: number, y: number, dx: number, dy: number): boolean {
    const { w, q } = this;
    const i = y * w + x;
    return this.sheet.under !== undefined && this.sheet.under[i] === 1 && this.there(x + dx, y + dy) && q[i + dy * w + dx]! > q[i]!;
  }

  private half(x: number, y: number, dx: number, dy: number): number {
    const i = y * this.w + x;
    const found = this.halfAt[dx > 0 ? 0 : dx < 0 ? 1 : dy > 0 ? 2 : 3]!;
    let k = found.get(i);
    if (k === undefined) {
      const far = this.isShort(x, y, dx, dy) ? SHORT : 0.5;
      const [px, py] = [this.placeX(x), this.placeY(y)];
      k = this.add(px + far * (this.placeX(x + dx) - px), py + far * (this.placeY(y + dy) - py), this.q[i]!);
      found.set(i, k);
    }
    return k;
  }

  /** whether a corner of a cell is of one surface with the next one, clockwise */
  private joined(x: number, y: number, k: number): boolean {
    const [ax, ay] = CORNERS[k]!;
    const [bx, by] = CORNERS[(k + 1) % 4]!;
    const [cx, cy] = [x + Math.min(ax, bx), y + Math.min(ay, by)];
    if (!this.there(x + ax, y + ay) || !this.there(x + bx, y + by)) return false;
    return (this.sheet.joins[cy * this.w + cx]! & (ay === by ? RIGHT : BELOW)) !== 0;
  }

  private triangle(a: number, b: number, c: number): void {
    this.T.push(a);
    this.T.push(c);
    this.T.push(b);
  }

  /** the surface that begins at corner `k` of a cell and goes on over the next `count` joined ones: a fan about the middle of the cell */
  private patch(x: number, y: number, k: number, count: number): void {
    let mean = 0;
    for (let c = k; c <= k + count; c++) {
      const [dx, dy] = CORNERS[c % 4]!;
      mean += this.q[(y + dy) * this.w + x + dx]! / (count + 1);
    }
    /** a corner, and the way to another one */
    const way = (from: number, to: number): [number, number, number, number] => {
      const [fx, fy] = CORNERS[from % 4]!;
      const [tx, ty] = CORNERS[to % 4]!;
      return [x + fx, y + fy, tx - fx, ty - fy];
    };
    const [before, after] = [way(k, k + 3), way(k + count, k + count + 1)];
    const [first, end] = [this.half(...before), this.half(...after)];
    const { X, Y } = this;
    const middle =
      this.isShort(...before) || this.isShort(...after)
        ? this.add((X.at(first) + X.at(end)) / 2, (Y.at(first) + Y.at(end)) / 2, mean)
        : this.add((this.placeX(x) + this.placeX(x + 1)) / 2, (this.placeY(y) + this.placeY(y + 1)) / 2, mean);
    let last = first;
    for (let c = k; c <= k + count; c++) {
      const [dx, dy] = CORNERS[c % 4]!;
      const here = this.corner(x + dx, y + dy);
      this.triangle(middle, last, here);
      last = here;
    }
    this.triangle(middle, last, end);
  }

  /** two triangles between four samples, along the diagonal whose ends are more alike */
  private square(x: number, y: number): void {
    const { q, w } = this;
    const [a, b, c, d] = [this.corner(x, y), this.corner(x + 1, y), this.corner(x + 1, y + 1), this.corner(x, y + 1)];
    const i = y * w + x;
    if (Math.abs(q[i]! - q[i + w + 1]!) <= Math.abs(q[i + 1]! - q[i + w]!)) {
      this.triangle(a, b, c);
      this.triangle(a, c, d);
    } else {
      this.triangle(b, c, d);
      this.triangle(b, d, a);
    }
  }

  private cell(x: number, y: number): void {
    const { w, h } = this;
    const { joins } = this.sheet;
    const i = y * w + x;
    // most of a picture is of one piece
    if (x >= 0 && y >= 0 && x + 1 < w && y + 1 < h && (joins[i]! & joins[i + w]! & RIGHT) !== 0 && (joins[i]! & joins[i + 1]! & BELOW) !== 0)
      return this.square(x, y);
    let links = 0;
    for (let k = 0; k < 4; k++) if (this.joined(x, y, k)) links |= 1 << k;
    // joined along three sides is joined
    if (links === 15 || links === 7 || links === 11 || links === 13 || links === 14) return this.square(x, y);
    for (let k = 0; k < 4; k++) {
      const [dx, dy] = CORNERS[k]!;
      // where the one before is joined with it, it is laid with that
      if (!this.there(x + dx, y + dy) || links & (1 << ((k + 3) % 4))) continue;
      let count = 0;
      while (links & (1 << ((k + count) % 4))) count++;
      this.patch(x, y, k, count);
    }
  }

  mesh(checkpoint: (share: number) => void): FlatMesh {
    const { w, h } = this;
    for (let y = -1; y < h; y++) {
      if ((y & 63) === 0) checkpoint(y / h);
      for (let x = -1; x < w; x++) this.cell(x, y);
    }
    checkpoint(1);
    return { x: this.X.done(), y: this.Y.done(), q: this.Q.done(), triangles: this.T.done() };
  }
}

/**
 * Makes triangles of a sheet. Each cell between four samples is two triangles where they are of one surface; where it is cut, each surface reaches
 * half way to the next sample, so that seen from where the plate was taken no gap is left, and half a px beyond the picture's border samples.
 * `under`: 1 where another surface lies under a sample; there it does not reach under what is nearer. `xs`, `ys`: the columns and rows of the picture that the samples lie at; all of them where not given. `checkpoint` hears the share done and may throw.
 */
export const tessellate = (sheet: TessellatedSheet, checkpoint: (share: number) => void = () => undefined): FlatMesh =>
  new Tessellation(sheet).mesh(checkpoint);
