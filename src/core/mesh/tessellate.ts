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

/**
 * Makes triangles of a sheet. Each cell between four samples is two triangles where they are of one surface; where it is cut, each surface reaches
 * half way to the next sample, so that seen from where the plate was taken no gap is left, and half a px beyond the picture's border samples.
 * `under`: 1 where another surface lies under a sample; there it does not reach under what is nearer. `xs`, `ys`: the columns and rows of the picture that the samples lie at; all of them where not given. `checkpoint` hears the share done and may throw.
 */
export function tessellate(
  sheet: Sheet & { readonly xs?: Int32Array; readonly ys?: Int32Array; readonly under?: Uint8Array },
  checkpoint: (share: number) => void = () => undefined,
): FlatMesh {
  const { width: w, height: h, q, joins } = sheet;
  const xs = sheet.xs ?? Int32Array.from({ length: w }, (_, i) => i);
  const ys = sheet.ys ?? Int32Array.from({ length: h }, (_, i) => i);
  const [X, Y, Q] = [new Growing(new Float32Array(w * h)), new Growing(new Float32Array(w * h)), new Growing(new Float32Array(w * h))];
  const T = new Growing(new Uint32Array(w * h * 6));
  const add = (x: number, y: number, v: number): number => {
    X.push(x);
    Y.push(y);
    Q.push(v);
    return X.length - 1;
  };
  const cornerAt = new Int32Array(w * h).fill(-1);
  // half way to the neighbour right of a sample and left of it, below and above it, where it is cut off from that
  const halfAt = [new Map<number, number>(), new Map<number, number>(), new Map<number, number>(), new Map<number, number>()];
  const placeX = (x: number): number => (x < 0 ? -0.5 : x >= w ? xs[w - 1]! + 1.5 : xs[x]! + 0.5);
  const placeY = (y: number): number => (y < 0 ? -0.5 : y >= h ? ys[h - 1]! + 1.5 : ys[y]! + 0.5);
  const corner = (x: number, y: number): number => {
    const i = y * w + x;
    if (cornerAt[i]! < 0) cornerAt[i] = add(placeX(x), placeY(y), q[i]!);
    return cornerAt[i]!;
  };
  /** what is cut off by something nearer stops where it is, if there is something under it: half of what lies there has the other's colour */
  const isShort = (x: number, y: number, dx: number, dy: number): boolean => {
    const i = y * w + x;
    return sheet.under !== undefined && sheet.under[i] === 1 && there(x + dx, y + dy) && q[i + dy * w + dx]! > q[i]!;
  };
  const half = (x: number, y: number, dx: number, dy: number): number => {
    const i = y * w + x;
    const found = halfAt[dx > 0 ? 0 : dx < 0 ? 1 : dy > 0 ? 2 : 3]!;
    let k = found.get(i);
    if (k === undefined) {
      const far = isShort(x, y, dx, dy) ? SHORT : 0.5;
      k = add(placeX(x) + far * (placeX(x + dx) - placeX(x)), placeY(y) + far * (placeY(y + dy) - placeY(y)), q[i]!);
      found.set(i, k);
    }
    return k;
  };
  const there = (x: number, y: number): boolean => x >= 0 && y >= 0 && x < w && y < h && q[y * w + x]! >= 0;
  /** whether a corner of a cell is of one surface with the next one, clockwise */
  const joined = (x: number, y: number, k: number): boolean => {
    const [ax, ay] = CORNERS[k]!;
    const [bx, by] = CORNERS[(k + 1) % 4]!;
    const [cx, cy] = [x + Math.min(ax, bx), y + Math.min(ay, by)];
    if (!there(x + ax, y + ay) || !there(x + bx, y + by)) return false;
    return (joins[cy * w + cx]! & (ay === by ? RIGHT : BELOW)) !== 0;
  };
  const triangle = (a: number, b: number, c: number): void => {
    T.push(a);
    T.push(c);
    T.push(b);
  };
  /** the surface that begins at corner `k` of a cell and goes on over the next `count` joined ones: a fan about the middle of the cell */
  const patch = (x: number, y: number, k: number, count: number): void => {
    let mean = 0;
    for (let c = k; c <= k + count; c++) {
      const [dx, dy] = CORNERS[c % 4]!;
      mean += q[(y + dy) * w + x + dx]! / (count + 1);
    }
    const halfOf = (from: number, to: number): number => {
      const [fx, fy] = CORNERS[from % 4]!;
      const [tx, ty] = CORNERS[to % 4]!;
      return half(x + fx, y + fy, tx - fx, ty - fy);
    };
    const shortened = (from: number, to: number): boolean => {
      const [fx, fy] = CORNERS[from % 4]!;
      const [tx, ty] = CORNERS[to % 4]!;
      return isShort(x + fx, y + fy, tx - fx, ty - fy);
    };
    const [first, end] = [halfOf(k, k + 3), halfOf(k + count, k + count + 1)];
    const middle =
      shortened(k, k + 3) || shortened(k + count, k + count + 1)
        ? add((X.at(first) + X.at(end)) / 2, (Y.at(first) + Y.at(end)) / 2, mean)
        : add((placeX(x) + placeX(x + 1)) / 2, (placeY(y) + placeY(y + 1)) / 2, mean);
    let last = first;
    for (let c = k; c <= k + count; c++) {
      const [dx, dy] = CORNERS[c % 4]!;
      const here = corner(x + dx, y + dy);
      triangle(middle, last, here);
      last = here;
    }
    triangle(middle, last, end);
  };
  /** two triangles between four samples, along the diagonal whose ends are more alike */
  const square = (x: number, y: number): void => {
    const [a, b, c, d] = [corner(x, y), corner(x + 1, y), corner(x + 1, y + 1), corner(x, y + 1)];
    const i = y * w + x;
    if (Math.abs(q[i]! - q[i + w + 1]!) <= Math.abs(q[i + 1]! - q[i + w]!)) {
      triangle(a, b, c);
      triangle(a, c, d);
    } else {
      triangle(b, c, d);
      triangle(b, d, a);
    }
  };
  const cell = (x: number, y: number): void => {
    const i = y * w + x;
    // most of a picture is of one piece
    if (x >= 0 && y >= 0 && x + 1 < w && y + 1 < h && (joins[i]! & joins[i + w]! & RIGHT) !== 0 && (joins[i]! & joins[i + 1]! & BELOW) !== 0)
      return square(x, y);
    let links = 0;
    for (let k = 0; k < 4; k++) if (joined(x, y, k)) links |= 1 << k;
    // joined along three sides is joined
    if (links === 15 || links === 7 || links === 11 || links === 13 || links === 14) return square(x, y);
    for (let k = 0; k < 4; k++) {
      const [dx, dy] = CORNERS[k]!;
      // where the one before is joined with it, it is laid with that
      if (!there(x + dx, y + dy) || links & (1 << ((k + 3) % 4))) continue;
      let count = 0;
      while (links & (1 << ((k + count) % 4))) count++;
      patch(x, y, k, count);
    }
  };
  for (let y = -1; y < h; y++) {
    if ((y & 63) === 0) checkpoint(y / h);
    for (let x = -1; x < w; x++) cell(x, y);
  }
  checkpoint(1);
  return { x: X.done(), y: Y.done(), q: Q.done(), triangles: T.done() };
}
