import type { Plane } from '../picture';
import { kernels, type Kernels } from './loader';

/** Vectors of a picture's pixels, px of that size. */
export interface Field {
  readonly width: number;
  readonly height: number;
  readonly u: Float32Array;
  readonly v: Float32Array;
}

/** Where each pixel of a frame is on another, and 1 where it is seen on both. The vectors may be those of a size that was halved once or more. */
export interface Way {
  readonly vectors: Field;
  readonly seen: Uint8Array;
}

/** Which lines of a long row or column each place of a shorter one covers: the first, and the shares of `most` from there on, 0 where it covers fewer. */
export interface Coverage {
  readonly first: Int32Array;
  readonly most: number;
  readonly shares: Float32Array;
}

const putBytes = (k: Kernels, bytes: Uint8Array | Uint8ClampedArray): number => {
  const at = k.take(bytes.length);
  k.bytes(at, bytes.length).set(bytes);
  return at;
};

const putInts = (k: Kernels, values: Int32Array): number => {
  const at = k.take(values.byteLength);
  k.ints(at, values.length).set(values);
  return at;
};

/** A copy of numbers, with room behind it for a kernel that takes four at a time. */
const putRoomy = (k: Kernels, values: Float32Array): number => {
  const at = k.room(values.length);
  k.floats(at, values.length).set(values);
  return at;
};

/** Vectors at their full size. */
function putField(k: Kernels, field: Field, width: number, height: number): readonly [number, number] {
  if (field.width === width && field.height === height) return [k.put(field.u), k.put(field.v)];
  const [fromWidth, fromHeight] = [width >> 1, height >> 1];
  const [from, also] = putField(k, field, fromWidth, fromHeight);
  const grown = [from, also].map((at) => {
    const [out, room] = [k.take(width * height * 4), k.room(fromWidth + 1)];
    k.run.enlargeField(at, fromWidth, fromHeight, out, width, height, room);
    return out;
  });
  return grown as [number, number];
}

/** A picture of 4 bytes a pixel made small: means over what each pixel covers, as 8-bit red, green and blue, and as luma 0..255. */
export function shrunkBytes(
  pixels: Uint8Array | Uint8ClampedArray,
  w: number,
  across: Coverage,
  down: Coverage,
): { readonly rgb: Uint8Array; readonly luma: Float32Array } {
  const k = kernels();
  k.reset();
  const [width, height] = [across.first.length, down.first.length];
  const [from, columns, rows] = [putBytes(k, pixels), putInts(k, across.first), putInts(k, down.first)];
  const [shares, lines] = [k.put(across.shares), k.put(down.shares)];
  const [line, sums, luma, rgb] = [k.take(width * 16), k.take(width * 16), k.take(width * height * 4), k.take(width * height * 3)];
  k.run.shrinkBytes(from, w, columns, shares, across.most, rows, lines, down.most, width, height, line, sums, rgb, luma);
  return { rgb: k.bytes(rgb, width * height * 3).slice(), luma: k.floats(luma, width * height).slice() };
}

/** One way after another, from the frame where the first begins to that where the second ends, at a size. */
export function chainedWay(first: Way, second: Way, width: number, height: number): Way {
  const k = kernels();
  k.reset();
  const n = width * height;
  const [u, v] = putField(k, first.vectors, width, height);
  const [thenU, thenV] = putField(k, second.vectors, width, height);
  const [seen, thenSeen] = [putBytes(k, first.seen), putBytes(k, second.seen)];
  k.run.chainWays(u, v, seen, thenU, thenV, thenSeen, width, height);
  return { vectors: { width, height, u: k.floats(u, n).slice(), v: k.floats(v, n).slice() }, seen: k.bytes(seen, n).slice() };
}

/** What a frame is told by a map on another one. */
export interface Told {
  readonly way: Way;
  readonly map: Plane;
  /** luma 0..255 of the frame the map is of, and of this one */
  readonly there: Plane;
  readonly here: Plane;
  /** how much the map counts */
  readonly near: number;
  /** how much pixels count that are hidden on the way */
  readonly hidden: number;
  /** spread of luma within which two views of a point are taken for the same */
  readonly like: number;
}

/** Adds to sums what maps on other frames tell, each pixel with its weight, and to `total` the weights. */
export function addTold({ way, map, there, here, near, hidden, like }: Told, sum: Float32Array, total: Float32Array): void {
  const k = kernels();
  k.reset();
  const { width, height } = here;
  const [u, v] = putField(k, way.vectors, width, height);
  const [seen, values, from, own] = [putBytes(k, way.seen), k.put(map.data), k.put(there.data), putRoomy(k, here.data)];
  const [sums, totals] = [putRoomy(k, sum), putRoomy(k, total)];
  k.run.addAlong(u, v, seen, values, from, own, width, height, near, hidden, like, sums, totals);
  sum.set(k.floats(sums, sum.length));
  total.set(k.floats(totals, total.length));
}

/** A running mean along flow, and for how many frames each of its pixels stands. */
export interface Mean {
  readonly value: Float32Array;
  readonly count: Float32Array;
}

/** How a running mean takes what was before. */
export interface MeanHow {
  /** so many frames it may stand for */
  readonly memory: number;
  /** an earlier value counts a quarter where it differs by so much */
  readonly soft: number;
  /** variance of luma between two views of a point, and of where it is, px² */
  readonly noise: number;
  readonly miss: number;
}

/** A running mean carried on by a frame's map, along the way to where the mean is of: `last` and its luma. */
export function carriedMean(map: Plane, luma: Plane, way: Way, last: Mean, lumaLast: Plane, { memory, soft, noise, miss }: MeanHow): Mean {
  const k = kernels();
  k.reset();
  const { width: w, height: h } = map;
  const n = w * h;
  const [u, v] = putField(k, way.vectors, w, h);
  const [seen, values, own, woven] = [putBytes(k, way.seen), putRoomy(k, map.data), putRoomy(k, luma.data), k.take(n * 16)];
  k.run.weave(k.put(last.value), k.put(last.count), k.put(lumaLast.data), n, woven);
  const [old, share, off, value, count] = [k.room(w), k.room(w), k.room(w), k.room(n), k.room(n)];
  k.run.carryMean(values, own, u, v, seen, woven, w, h, memory, soft, noise, miss, old, share, off, value, count);
  return { value: k.floats(value, n).slice(), count: k.floats(count, n).slice() };
}

/** Box means of planes of one size, radius px, windows cut off at the border: as boxMean, to the bit. */
export function boxMeans(planes: readonly Float32Array[], width: number, height: number, radius: number): Float32Array<ArrayBuffer>[] {
  const k = kernels();
  k.reset();
  const n = width * height;
  const [rows, sums, out, plane] = [k.room(n), k.take((width + 1) * 8), k.room(n), k.room(n)];
  return planes.map((data) => {
    k.floats(plane, n).set(data);
    k.run.boxPlane(plane, width, height, radius, rows, sums, out);
    return k.floats(out, n).slice();
  });
}
