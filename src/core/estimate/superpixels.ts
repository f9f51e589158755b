import { newFloats, type Plane } from '../picture';

/** Areas are measured so that a whole picture is this many: what is decided about patches then does not depend on their number. */
export const UNITS = 250;

/** A partition of the picture into patches of similar colour. */
export interface Superpixels {
  readonly width: number;
  readonly height: number;
  /** patch of every pixel */
  readonly labels: Int32Array;
  readonly count: number;
  readonly size: Float32Array;
  readonly x: Float32Array;
  readonly y: Float32Array;
  /** mean OKLab */
  readonly colour: Float32Array;
}

/** Weight of place against colour: OKLab differences of this much count as one grid step. */
const COMPACTNESS = 0.08;
const ROUNDS = 6;

/**
 * SLIC superpixels (Achanta et al. 2012) in OKLab; every patch is then made connected: pieces smaller than a quarter of
 * a grid cell join a neighbour.
 */
export function superpixels(planes: readonly [Plane, Plane, Plane], wanted: number): Superpixels {
  const { width, height } = planes[0];
  const n = width * height;
  const step = Math.max(2, Math.sqrt(n / wanted));
  const columns = Math.max(1, Math.round(width / step));
  const rows = Math.max(1, Math.round(height / step));
  const k = columns * rows;
  const centre = new Float64Array(k * 5);
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const x = Math.min(width - 1, Math.floor(((i + 0.5) * width) / columns));
      const y = Math.min(height - 1, Math.floor(((j + 0.5) * height) / rows));
      const c = (j * columns + i) * 5;
      centre[c] = x;
      centre[c + 1] = y;
      for (let p = 0; p < 3; p++) centre[c + 2 + p] = planes[p]!.data[y * width + x]!;
    }
  const labels = new Int32Array(n);
  const best = new Float32Array(n);
  const radius = Math.ceil(step * 1.5);
  const placeWeight = (COMPACTNESS / step) ** 2;
  const [p0, p1, p2] = planes.map((p) => p.data) as [Float32Array, Float32Array, Float32Array];
  for (let round = 0; round < ROUNDS; round++) {
    best.fill(Infinity);
    for (let s = 0; s < k; s++) {
      const c = s * 5;
      const cx = centre[c]!;
      const cy = centre[c + 1]!;
      const [l, a, b] = [centre[c + 2]!, centre[c + 3]!, centre[c + 4]!];
      const x1 = Math.min(width - 1, Math.ceil(cx + radius));
      const y1 = Math.min(height - 1, Math.ceil(cy + radius));
      for (let y = Math.max(0, Math.floor(cy - radius)); y <= y1; y++)
        for (let x = Math.max(0, Math.floor(cx - radius)); x <= x1; x++) {
          const i = y * width + x;
          const d = (p0[i]! - l) ** 2 + (p1[i]! - a) ** 2 + (p2[i]! - b) ** 2 + placeWeight * ((x - cx) * (x - cx) + (y - cy) * (y - cy));
          if (d < best[i]!) {
            best[i] = d;
            labels[i] = s;
          }
        }
    }
    const sums = new Float64Array(k * 6);
    for (let i = 0; i < n; i++) {
      const o = labels[i]! * 6;
      sums[o]! += i % width;
      sums[o + 1]! += (i / width) | 0;
      sums[o + 2]! += p0[i]!;
      sums[o + 3]! += p1[i]!;
      sums[o + 4]! += p2[i]!;
      sums[o + 5]!++;
    }
    for (let s = 0; s < k; s++) {
      const m = sums[s * 6 + 5]!;
      if (m > 0) for (let q = 0; q < 5; q++) centre[s * 5 + q] = sums[s * 6 + q]! / m;
    }
  }
  return describe(connect(labels, width, height, (step * step) / 4), planes);
}

/** Makes every patch one connected piece, numbered from 0; small pieces join the patch met before them. */
function connect(
  labels: Int32Array,
  width: number,
  height: number,
  smallest: number,
): { labels: Int32Array; width: number; height: number; count: number } {
  const out = new Int32Array(labels.length).fill(-1);
  const stack: number[] = [];
  let count = 0;
  for (let start = 0; start < labels.length; start++) {
    if (out[start] !== -1) continue;
    const label = labels[start]!;
    const piece: number[] = [];
    let neighbour = -1;
    stack.push(start);
    out[start] = count;
    while (stack.length > 0) {
      const i = stack.pop()!;
      piece.push(i);
      const x = i % width;
      for (const j of [x > 0 ? i - 1 : -1, x < width - 1 ? i + 1 : -1, i - width, i + width]) {
        if (j < 0 || j >= labels.length) continue;
        if (out[j] === -1 && labels[j] === label) {
          out[j] = count;
          stack.push(j);
        } else if (out[j] !== -1 && out[j] !== count) neighbour = out[j]!;
      }
    }
    if (piece.length < smallest && neighbour >= 0) for (const i of piece) out[i] = neighbour;
    else count++;
  }
  return { labels: out, width, height, count };
}

function describe(
  { labels, width, height, count }: { labels: Int32Array; width: number; height: number; count: number },
  planes: readonly [Plane, Plane, Plane],
): Superpixels {
  const size = newFloats(count);
  const x = newFloats(count);
  const y = newFloats(count);
  const colour = newFloats(count * 3);
  for (let i = 0; i < labels.length; i++) {
    const s = labels[i]!;
    size[s]!++;
    x[s]! += i % width;
    y[s]! += Math.floor(i / width);
    for (let p = 0; p < 3; p++) colour[s * 3 + p]! += planes[p]!.data[i]!;
  }
  for (let s = 0; s < count; s++) {
    x[s]! /= size[s]!;
    y[s]! /= size[s]!;
    for (let p = 0; p < 3; p++) colour[s * 3 + p]! /= size[s]!;
  }
  return { width, height, labels, count, size, x, y, colour };
}

/** Weighted mean of a plane over every patch. */
export function patchMeans(patches: Superpixels, plane: Plane, weight?: Plane): Float32Array {
  const sum = newFloats(patches.count);
  const total = newFloats(patches.count);
  for (let i = 0; i < patches.labels.length; i++) {
    const w = weight ? weight.data[i]! : 1;
    sum[patches.labels[i]!]! += w * plane.data[i]!;
    total[patches.labels[i]!]! += w;
  }
  return sum.map((v, s) => (total[s]! > 0 ? v / total[s]! : 0));
}

export interface PatchEdge {
  readonly from: number;
  readonly to: number;
  /** px of common border, and the mean lightness gradient along it */
  readonly length: number;
  readonly contrast: number;
  /** share of the border that runs level: one patch stands above the other */
  readonly level: number;
}

/** Pairs of patches that touch. */
export function patchEdges(patches: Superpixels, edge: Plane): PatchEdge[] {
  const { width, height, labels, count } = patches;
  const found = new Map<number, { length: number; contrast: number; level: number }>();
  const note = (i: number, j: number, level: number): void => {
    const a = labels[i]!;
    const b = labels[j]!;
    if (a === b) return;
    const key = Math.min(a, b) * count + Math.max(a, b);
    const e = found.get(key) ?? { length: 0, contrast: 0, level: 0 };
    e.length++;
    e.contrast += Math.max(edge.data[i]!, edge.data[j]!);
    e.level += level;
    found.set(key, e);
  };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (x + 1 < width) note(i, i + 1, 0);
      if (y + 1 < height) note(i, i + width, 1);
    }
  return [...found].map(([key, e]) => ({
    from: Math.floor(key / count),
    to: key % count,
    length: e.length,
    contrast: e.contrast / e.length,
    level: e.level / e.length,
  }));
}
