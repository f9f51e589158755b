import type { Plane } from '../picture';
import { breaksOf } from './breaks';
import { ViewGeometry, type CameraPose, type Placed, type PlateLens } from './pose';

/** What of a distance map decides how far a camera may move: its depth edges and the ends of its depth, in all and along each side. */
export interface Relief {
  /**
   * depth edges, EDGE numbers each: the place between two neighbours, shares of the picture; inverse distance left of it or above it, and
   * right of it or below it, 1/m; 1 where they stand side by side, 0 where one lies above the other
   */
  readonly edges: Float32Array;
  /** farthest and nearest inverse distance, 1/m, but for strays */
  readonly ends: readonly [least: number, most: number];
  /** farthest and nearest along the left, right, top and bottom side */
  readonly sides: readonly (readonly [least: number, most: number])[];
  /** how well the scene may be cut in two at distances: see breaks.ts */
  readonly breaks: Float32Array;
  /** for a cache that counts bytes */
  readonly data: { readonly byteLength: number };
}

export const EDGE = 5;

/** Edges are kept by cells of this share of the width: the strongest one each way in each. */
const CELL = 1 / 64;
/** Share of pixels at either end that are left out of the ends of depth. */
const STRAY = 0.002;

/** Surveys a distance map for the meters of a move. */
export function survey({ width: w, height: h, data }: Plane): Relief {
  const q = (i: number): number => 1 / Math.max(1e-3, data[i]!);
  const columns = Math.ceil(1 / CELL);
  const cell = Math.max(1, w * CELL);
  const rows = Math.ceil(h / cell);
  // four kinds each: upright or level, opening one way or the other
  const best: (readonly number[] | undefined)[] = new Array<readonly number[] | undefined>(columns * rows * 4);
  const take = (x: number, y: number, a: number, b: number, upright: boolean): void => {
    const kind = (upright ? 0 : 2) + (a > b ? 0 : 1);
    const at = (Math.min(rows - 1, Math.floor(y / cell)) * columns + Math.min(columns - 1, Math.floor(x / cell))) * 4 + kind;
    const old = best[at];
    if (!old || Math.abs(a - b) > Math.abs(old[2]! - old[3]!)) best[at] = [x / w, y / h, a, b, upright ? 1 : 0];
  };
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const here = q(i);
      if (x + 1 < w) take(x + 1, y + 0.5, here, q(i + 1), true);
      if (y + 1 < h) take(x + 0.5, y + 1, here, q(i + w), false);
    }
  const sorted = Float32Array.from({ length: data.length }, (_, i) => q(i)).sort();
  const endsOf = (from: number, step: number, count: number): [number, number] => {
    let [least, most] = [Infinity, 0];
    for (let k = 0; k < count; k++) {
      const v = q(from + k * step);
      least = Math.min(least, v);
      most = Math.max(most, v);
    }
    return [least, most];
  };
  const edges = Float32Array.from(best.flatMap((e) => (e && Math.abs(e[2]! - e[3]!) > 1e-7 ? e : [])));
  const at = (share: number): number => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]!;
  const ends = [at(STRAY), at(1 - STRAY)] as const;
  const breaks = breaksOf({ width: w, height: h, data }, ends);
  return {
    edges,
    ends,
    breaks,
    sides: [endsOf(0, w, h), endsOf(w - 1, w, h), endsOf(0, 1, w), endsOf((h - 1) * w, 1, w)],
    data: { byteLength: edges.byteLength + breaks.byteLength },
  };
}

/** How wide a move tears the picture open, at the most: px, and where, shares of the picture. */
export interface Stretch {
  readonly px: number;
  readonly x: number;
  readonly y: number;
}

/** The widest gap that a pose opens at a depth edge, px of the output: between neighbours a and b it is x'(b) − x'(a). */
export function stretchAt(lens: PlateLens, pose: CameraPose, { edges }: Relief): Stretch {
  const g = new ViewGeometry(lens, pose);
  const [first, second]: [Placed, Placed] = [
    { x: 0, y: 0, q: 0 },
    { x: 0, y: 0, q: 0 },
  ];
  let worst: Stretch = { px: 0, x: 0.5, y: 0.5 };
  for (let k = 0; k < edges.length; k += EDGE) {
    const [x, y] = [edges[k]! * lens.width, edges[k + 1]! * lens.height];
    const seen = g.forward(x, y, edges[k + 2]!, first) && g.forward(x, y, edges[k + 3]!, second);
    const px = !seen ? Infinity : edges[k + 4] === 1 ? second.x - first.x : second.y - first.y;
    if (px > worst.px) worst = { px, x: edges[k]!, y: edges[k + 1]! };
  }
  return worst;
}

/**
 * How much the picture must be enlarged so that no pose looks beyond its border: the largest of (w/2)/|x' − cx| over poses and sides, for
 * the nearest and the farthest depth along each side, between which x' is monotone. At least 1. Turns and shifts are met by all corners
 * of the frame, looked up backward.
 */
export function overscanFor(lens: PlateLens, poses: readonly CameraPose[], relief: Relief): number {
  let scale = 1;
  for (const pose of poses) scale = Math.max(scale, overscanOf(lens, pose, relief));
  return scale;
}

const MOST_OVERSCAN = 8;

function overscanOf(lens: PlateLens, pose: CameraPose, { sides }: Relief): number {
  const { width: w, height: h } = lens;
  const g = new ViewGeometry(lens, pose);
  const place: Placed = { x: 0, y: 0, q: 0 };
  // each side of the plate is a line of the view; every corner of the frame must lie within it
  const lines: (readonly [number, number, number, number])[] = [
    [0, 0, 0, 1],
    [1, 0, 1, 1],
    [0, 0, 1, 0],
    [0, 1, 1, 1],
  ];
  let scale = 1;
  for (const [k, [x0, y0, x1, y1]] of lines.entries())
    for (const q of sides[k]!) {
      if (!g.forward(x0 * w, y0 * h, q, place)) return MOST_OVERSCAN;
      const [ax, ay] = [place.x - w / 2, place.y - h / 2];
      if (!g.forward(x1 * w, y1 * h, q, place)) return MOST_OVERSCAN;
      const [bx, by] = [place.x - w / 2, place.y - h / 2];
      // distance of the line from the middle, along its outward normal, against how far the frame reaches that way
      const length = Math.hypot(bx - ax, by - ay) || 1;
      const turned = k === 0 || k === 3 ? 1 : -1;
      const nx = (turned * (ay - by)) / length;
      const ny = (turned * (bx - ax)) / length;
      const away = ax * nx + ay * ny;
      const halfExtent = Math.abs(nx) * (w / 2) + Math.abs(ny) * (h / 2);
      scale = Math.max(scale, away > halfExtent / MOST_OVERSCAN ? halfExtent / away : MOST_OVERSCAN);
    }
  return scale;
}
