import type { Mesh } from './mesh';

export interface Hit {
  /** distance along the ray, metres; Infinity where nothing was hit */
  t: number;
  triangle: number;
  u: number;
  v: number;
}

const LEAF_SIZE = 3;
const BINS = 12;

/** Bounding volume hierarchy over a mesh, split by the binned surface area heuristic (Wald 2007). */
export class Bvh {
  private readonly bounds: Float32Array;
  /** per node: first child or first triangle; count (0 for an inner node) */
  private readonly first: Int32Array;
  private readonly count: Int32Array;
  private readonly order: Uint32Array;
  /** vertex a and the two edges of every triangle, in `order` */
  private readonly packed: Float32Array;
  private nodes = 1;
  private readonly stack = new Int32Array(128);

  constructor(mesh: Mesh) {
    const n = mesh.triangles.length / 3;
    this.bounds = new Float32Array(n * 12 + 12);
    this.first = new Int32Array(2 * n + 2);
    this.count = new Int32Array(2 * n + 2);
    this.order = Uint32Array.from({ length: n }, (_, i) => i);
    const lo = new Float32Array(n * 3);
    const hi = new Float32Array(n * 3);
    for (let i = 0; i < n; i++)
      for (let k = 0; k < 3; k++) {
        const a = mesh.positions[mesh.triangles[i * 3]! * 3 + k]!;
        const b = mesh.positions[mesh.triangles[i * 3 + 1]! * 3 + k]!;
        const c = mesh.positions[mesh.triangles[i * 3 + 2]! * 3 + k]!;
        lo[i * 3 + k] = Math.min(a, b, c);
        hi[i * 3 + k] = Math.max(a, b, c);
      }
    this.split(0, 0, n, lo, hi);
    this.packed = new Float32Array(n * 9);
    for (let i = 0; i < n; i++) {
      const t = this.order[i]! * 3;
      for (let k = 0; k < 3; k++) {
        const a = mesh.positions[mesh.triangles[t]! * 3 + k]!;
        this.packed[i * 9 + k] = a;
        this.packed[i * 9 + 3 + k] = mesh.positions[mesh.triangles[t + 1]! * 3 + k]! - a;
        this.packed[i * 9 + 6 + k] = mesh.positions[mesh.triangles[t + 2]! * 3 + k]! - a;
      }
    }
  }

  private split(node: number, from: number, to: number, lo: Float32Array, hi: Float32Array): void {
    const { bounds, order } = this;
    const low = [Infinity, Infinity, Infinity];
    const high = [-Infinity, -Infinity, -Infinity];
    const cLow = [Infinity, Infinity, Infinity];
    const cHigh = [-Infinity, -Infinity, -Infinity];
    for (let i = from; i < to; i++) {
      const t = order[i]! * 3;
      for (let k = 0; k < 3; k++) {
        low[k] = Math.min(low[k]!, lo[t + k]!);
        high[k] = Math.max(high[k]!, hi[t + k]!);
        const c = lo[t + k]! + hi[t + k]!;
        cLow[k] = Math.min(cLow[k]!, c);
        cHigh[k] = Math.max(cHigh[k]!, c);
      }
    }
    for (let k = 0; k < 3; k++) {
      bounds[node * 6 + k] = low[k]! - 1e-5;
      bounds[node * 6 + 3 + k] = high[k]! + 1e-5;
    }
    const n = to - from;
    this.first[node] = from;
    this.count[node] = n;
    if (n <= LEAF_SIZE) return;
    let best = Infinity;
    let bestAxis = -1;
    let bestBin = 0;
    for (let axis = 0; axis < 3; axis++) {
      const width = cHigh[axis]! - cLow[axis]!;
      if (width < 1e-9) continue;
      const binLow = new Float64Array(BINS * 3).fill(Infinity);
      const binHigh = new Float64Array(BINS * 3).fill(-Infinity);
      const binCount = new Int32Array(BINS);
      for (let i = from; i < to; i++) {
        const t = order[i]! * 3;
        const b = Math.min(BINS - 1, Math.floor(((lo[t + axis]! + hi[t + axis]! - cLow[axis]!) / width) * BINS));
        binCount[b]!++;
        for (let k = 0; k < 3; k++) {
          if (lo[t + k]! < binLow[b * 3 + k]!) binLow[b * 3 + k] = lo[t + k]!;
          if (hi[t + k]! > binHigh[b * 3 + k]!) binHigh[b * 3 + k] = hi[t + k]!;
        }
      }
      const sweep = (start: number, step: number): Float64Array => {
        const cost = new Float64Array(BINS);
        const l = [Infinity, Infinity, Infinity];
        const h = [-Infinity, -Infinity, -Infinity];
        let c = 0;
        for (let b = start; b >= 0 && b < BINS; b += step) {
          c += binCount[b]!;
          for (let k = 0; k < 3; k++) {
            l[k] = Math.min(l[k]!, binLow[b * 3 + k]!);
            h[k] = Math.max(h[k]!, binHigh[b * 3 + k]!);
          }
          const dx = h[0]! - l[0]!;
          const dy = h[1]! - l[1]!;
          const dz = h[2]! - l[2]!;
          cost[b] = c === 0 ? 0 : c * (dx * dy + dy * dz + dz * dx);
        }
        return cost;
      };
      const left = sweep(0, 1);
      const right = sweep(BINS - 1, -1);
      for (let b = 0; b < BINS - 1; b++) {
        const cost = left[b]! + right[b + 1]!;
        if (cost < best) {
          best = cost;
          bestAxis = axis;
          bestBin = b;
        }
      }
    }
    if (bestAxis < 0) return;
    const width = cHigh[bestAxis]! - cLow[bestAxis]!;
    let i = from;
    let j = to - 1;
    while (i <= j) {
      const t = order[i]! * 3 + bestAxis;
      const b = Math.min(BINS - 1, Math.floor(((lo[t]! + hi[t]! - cLow[bestAxis]!) / width) * BINS));
      if (b <= bestBin) i++;
      else {
        const swap = order[i]!;
        order[i] = order[j]!;
        order[j] = swap;
        j--;
      }
    }
    if (i === from || i === to) return;
    const child = this.nodes;
    this.nodes += 2;
    this.first[node] = child;
    this.count[node] = 0;
    this.split(child, from, i, lo, hi);
    this.split(child + 1, i, to, lo, hi);
  }

  /**
   * Nearest hit within (0, limit); with `any`, the first found. Möller and Trumbore 1997 for the triangles.
   * Returns whether something was hit; `hit` is written.
   */
  intersect(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, limit: number, hit: Hit, any = false): boolean {
    const { bounds, first, count, packed, stack } = this;
    const ix = 1 / dx;
    const iy = 1 / dy;
    const iz = 1 / dz;
    let best = limit;
    let found = -1;
    let hitU = 0;
    let hitV = 0;
    let top = 0;
    let node = 0;
    for (;;) {
      const n = count[node]!;
      if (n > 0) {
        const start = first[node]!;
        for (let i = start; i < start + n; i++) {
          const p = i * 9;
          const e1x = packed[p + 3]!;
          const e1y = packed[p + 4]!;
          const e1z = packed[p + 5]!;
          const e2x = packed[p + 6]!;
          const e2y = packed[p + 7]!;
          const e2z = packed[p + 8]!;
          const px = dy * e2z - dz * e2y;
          const py = dz * e2x - dx * e2z;
          const pz = dx * e2y - dy * e2x;
          const det = e1x * px + e1y * py + e1z * pz;
          if (det > -1e-14 && det < 1e-14) continue;
          const inv = 1 / det;
          const tx = ox - packed[p]!;
          const ty = oy - packed[p + 1]!;
          const tz = oz - packed[p + 2]!;
          const u = (tx * px + ty * py + tz * pz) * inv;
          if (u < 0 || u > 1) continue;
          const qx = ty * e1z - tz * e1y;
          const qy = tz * e1x - tx * e1z;
          const qz = tx * e1y - ty * e1x;
          const v = (dx * qx + dy * qy + dz * qz) * inv;
          if (v < 0 || u + v > 1) continue;
          const t = (e2x * qx + e2y * qy + e2z * qz) * inv;
          if (t > 0 && t < best) {
            best = t;
            found = i;
            hitU = u;
            hitV = v;
            if (any) return true;
          }
        }
        if (top === 0) break;
        node = stack[--top]!;
        continue;
      }
      const a = first[node]!;
      const ta = slab(bounds, a * 6, ox, oy, oz, ix, iy, iz, best);
      const tb = slab(bounds, a * 6 + 6, ox, oy, oz, ix, iy, iz, best);
      if (ta < tb) {
        if (tb < Infinity) stack[top++] = a + 1;
        node = a;
      } else if (tb < Infinity) {
        if (ta < Infinity) stack[top++] = a;
        node = a + 1;
      } else {
        if (top === 0) break;
        node = stack[--top]!;
      }
    }
    if (found < 0) {
      hit.t = Infinity;
      return false;
    }
    hit.t = best;
    hit.triangle = this.order[found]!;
    hit.u = hitU;
    hit.v = hitV;
    return true;
  }
}

function slab(b: Float32Array, i: number, ox: number, oy: number, oz: number, ix: number, iy: number, iz: number, limit: number): number {
  const x0 = (b[i]! - ox) * ix;
  const x1 = (b[i + 3]! - ox) * ix;
  let lo = x0 < x1 ? x0 : x1;
  let hi = x0 < x1 ? x1 : x0;
  const y0 = (b[i + 1]! - oy) * iy;
  const y1 = (b[i + 4]! - oy) * iy;
  const yl = y0 < y1 ? y0 : y1;
  const yh = y0 < y1 ? y1 : y0;
  if (yl > lo) lo = yl;
  if (yh < hi) hi = yh;
  const z0 = (b[i + 2]! - oz) * iz;
  const z1 = (b[i + 5]! - oz) * iz;
  const zl = z0 < z1 ? z0 : z1;
  const zh = z0 < z1 ? z1 : z0;
  if (zl > lo) lo = zl;
  if (zh < hi) hi = zh;
  return hi >= lo && hi > 0 && lo < limit ? lo : Infinity;
}
