import { newPlane, type Plane, type Raster, type Size } from '../../picture';
import { sampleRaster } from '../../raster/resample';
import { FACE_POINTS, FACE_SIDE, type FaceMesh } from './faceMesh';
import type { FaceOnMap, Person } from './person';

/** A face is believed from this on. */
const SURE = 0.6;
/** From this on it need not be looked for any more. */
const PLAIN = 0.95;
/** It is looked for where a head would be: sides of the square, shares of the person's longer side. */
const HEADS = [0.22, 0.36, 0.6, 0.9] as const;
/** The square about a face that is known, as a multiple of its longer side; looked at so often again. */
const ABOUT = 1.5;
const AGAIN = 2;
/** A face smaller than so many px of the map has no relief. */
const SMALLEST = 18;

interface Square {
  readonly x: number;
  readonly y: number;
  readonly side: number;
  /** radians by which the face leans to its left in the picture */
  readonly turn: number;
}

/** The outer corners of the eyes. */
const EYES = [33, 263] as const;

/** Where points lie, px of the raster, of a square that was shown. */
function placed({ points }: FaceMesh, { x, y, side, turn }: Square): FaceOnMap {
  const scale = side / FACE_SIDE;
  const [c, s] = [Math.cos(turn), Math.sin(turn)];
  const out = { x: new Float32Array(FACE_POINTS), y: new Float32Array(FACE_POINTS), depth: new Float32Array(FACE_POINTS) };
  for (let k = 0; k < FACE_POINTS; k++) {
    const [u, v] = [(points[3 * k]! - FACE_SIDE / 2) * scale, (points[3 * k + 1]! - FACE_SIDE / 2) * scale];
    out.x[k] = x + u * c - v * s;
    out.y[k] = y + u * s + v * c;
    out.depth[k] = points[3 * k + 2]! * scale;
  }
  return out;
}

/** The square in which a face that was seen would be looked at next. */
function about({ x, y }: FaceOnMap): Square {
  let [left, right, top, bottom] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let k = 0; k < FACE_POINTS; k++) {
    left = Math.min(left, x[k]!);
    right = Math.max(right, x[k]!);
    top = Math.min(top, y[k]!);
    bottom = Math.max(bottom, y[k]!);
  }
  const turn = Math.atan2(y[EYES[1]]! - y[EYES[0]]!, x[EYES[1]]! - x[EYES[0]]!);
  return { x: (left + right) / 2, y: (top + bottom) / 2, side: ABOUT * Math.max(right - left, bottom - top), turn };
}

/** What a square of the raster shows, turned upright; beyond the picture nothing. */
function shown(raster: Raster, { x, y, side, turn }: Square) {
  const k = side / FACE_SIDE;
  const [c, s] = [Math.cos(turn) * k, Math.sin(turn) * k];
  const half = FACE_SIDE / 2;
  return sampleRaster(raster, { a: c, b: -s, c: x - c * half + s * half, d: s, e: c, f: y - s * half - c * half }, FACE_SIDE, FACE_SIDE);
}

/** The middle of the upper rows of a mask, px of it; null where there are none. */
function topOf({ width, height, data }: Plane): { x: number; y: number } | null {
  for (let y = 0; y < height; y++) {
    let [sum, n] = [0, 0];
    for (let x = 0; x < width; x++)
      if (data[y * width + x]! > 0.5) {
        sum += x + 0.5;
        n++;
      }
    if (n > 0.006 * width) return { x: sum / n, y };
  }
  return null;
}

/**
 * The face of a person, on the map of their mask; null where none is seen: from behind, too small, too far aside. `mesh` answers to a square picture. It is looked for at the top of the
 * mask in squares of several sizes, and then again where it was seen, upright.
 */
export function faceOf(raster: Raster, { box, mask }: Person, mesh: (picture: ReturnType<typeof shown>) => FaceMesh): FaceOnMap | null {
  const top = topOf(mask);
  if (!top) return null;
  const scale = raster.width / mask.width;
  const long = Math.max((box.right - box.left) * raster.width, (box.bottom - box.top) * raster.height);
  let best: { readonly square: Square; readonly seen: FaceMesh } | null = null;
  for (const share of HEADS) {
    const side = share * long;
    const square = { x: top.x * scale, y: top.y * scale + 0.42 * side, side, turn: 0 };
    const seen = mesh(shown(raster, square));
    if (!best || seen.score > best.seen.score) best = { square, seen };
    if (seen.score > PLAIN) break;
  }
  for (let k = 0; k < AGAIN && best!.seen.score > SURE / 2; k++) {
    const square = about(placed(best!.seen, best!.square));
    const seen = mesh(shown(raster, square));
    best = { square, seen };
  }
  if (!best || best.seen.score < SURE) return null;
  const face = placed(best.seen, best.square);
  const on = (v: Float32Array): Float32Array => v.map((p) => p / scale);
  return best.square.side / ABOUT / scale < SMALLEST ? null : { x: on(face.x), y: on(face.y), depth: on(face.depth) };
}

/** The hull of points, in order (Andrew 1979). */
export function hullOf(x: Float32Array, y: Float32Array): number[] {
  const order = Array.from(x, (_, k) => k).sort((a, b) => x[a]! - x[b]! || y[a]! - y[b]!);
  const turns = (a: number, b: number, c: number): number => (x[b]! - x[a]!) * (y[c]! - y[a]!) - (y[b]! - y[a]!) * (x[c]! - x[a]!);
  const half = (points: readonly number[]): number[] => {
    const out: number[] = [];
    for (const p of points) {
      while (out.length > 1 && turns(out.at(-2)!, out.at(-1)!, p) <= 0) out.pop();
      out.push(p);
    }
    return out.slice(0, -1);
  };
  return [...half(order), ...half([...order].reverse())];
}

/** How deep inside a hull, px, a pixel's middle lies; below 0 outside. */
export function insideHull(hull: readonly number[], x: Float32Array, y: Float32Array, px: number, py: number): number {
  let least = Infinity;
  for (const [k, a] of hull.entries()) {
    const b = hull[(k + 1) % hull.length]!;
    const [ex, ey] = [x[b]! - x[a]!, y[b]! - y[a]!];
    least = Math.min(least, (ex * (py - y[a]!) - ey * (px - x[a]!)) / Math.max(1e-6, Math.hypot(ex, ey)));
  }
  return least;
}

/** Depths of a face at each pixel within its hull, px of the map, NaN elsewhere; and how much of each pixel is the face's: it ends gradually. */
export function faceSurface({ x, y, depth }: FaceOnMap, { width, height }: Size, fill: (plane: Plane) => Plane): { depth: Plane; share: Plane } {
  const sums = newPlane(width, height);
  const counts = newPlane(width, height);
  for (let k = 0; k < FACE_POINTS; k++) {
    const [u, v] = [Math.floor(x[k]!), Math.floor(y[k]!)];
    if (u < 0 || v < 0 || u >= width || v >= height) continue;
    sums.data[v * width + u]! += depth[k]!;
    counts.data[v * width + u]! += 1;
  }
  const known = { width, height, data: sums.data.map((s, i) => (counts.data[i]! > 0 ? s / counts.data[i]! : NaN)) };
  const hull = hullOf(x, y);
  const [left, right] = [Math.min(...hull.map((k) => x[k]!)), Math.max(...hull.map((k) => x[k]!))];
  const feather = Math.max(1, 0.08 * (right - left));
  const share = newPlane(width, height);
  for (let v = 0, i = 0; v < height; v++)
    for (let u = 0; u < width; u++, i++) share.data[i] = Math.min(1, Math.max(0, insideHull(hull, x, y, u + 0.5, v + 0.5) / feather));
  return { depth: fill(known), share };
}
