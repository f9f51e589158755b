import { EDGE } from './depthField';

/** What is forgiven, so that a surface does not shade itself: a share of W, and of its change along the line. */
const BIAS = 0.0005;
const SLOPE_BIAS = 0.25;
/** So many hidden intervals are kept on a line; then the narrowest is forgotten. */
export const INTERVALS = 192;

/** What a sweep works on: inverse distances, the backs of what is seen, and what it adds to. */
export interface Sweep {
  readonly width: number;
  readonly height: number;
  readonly inverse: Float32Array;
  readonly backs: Float32Array;
  /** one more for each crossing that sees the lamp, and one more for each crossing */
  readonly sum: Float32Array;
  readonly crossings: Float32Array;
  readonly low: Float32Array;
  readonly high: Float32Array;
}

/**
 * One line of a sweep, from the lamp's image `from` (px, inverse distance) to a pixel of the border: the readable twin of
 * kernels/assembly/shadow.ts, the same to the bit. On such a line a ray to the lamp is a constant slope m = (W − w)/t, t px from its image.
 */
export function sweepLineTwin(sweep: Sweep, from: { readonly x: number; readonly y: number; readonly q: number }, bx: number, by: number): void {
  const { width: w, height: h, inverse, backs, sum, crossings, low, high } = sweep;
  const outward = from.q > 0;
  const dx = bx + 0.5 - from.x;
  const dy = by + 0.5 - from.y;
  const n = Math.max(Math.abs(dx), Math.abs(dy));
  if (n < 0.5) return;
  // the main axis goes pixel by pixel, through their middles; the other one is read between two
  const level = Math.abs(dx) >= Math.abs(dy);
  const slope = (level ? dy : dx) / n;
  const direction = (level ? dx : dy) > 0 ? 1 : -1;
  const [mainFrom, otherFrom] = level ? [from.x, from.y] : [from.y, from.x];
  const [mainSize, otherSize] = level ? [w, h] : [h, w];
  const [mainStep, otherStep] = level ? [1, w] : [w, 1];
  let first = Math.max(0.5, direction > 0 ? 0.5 - mainFrom : mainFrom - mainSize + 0.5);
  let last = n;
  if (slope !== 0) {
    const a = (0.5 - otherFrom) / slope;
    const b = (otherSize - 0.5 - otherFrom) / slope;
    first = Math.max(first, Math.min(a, b));
    last = Math.min(last, Math.max(a, b) + 1e-6);
  } else if (otherFrom < 0.5 || otherFrom > otherSize - 0.5) return;
  // it leaves the frame before this pixel of the border
  if (last < n - 1e-3) return;
  const steps = Math.floor(n - first + 1e-6);
  const end = level ? bx : by;
  let count = 0;
  let [beforeLow, beforeHigh, before, beforeBack] = [0, 0, 0, 0];
  for (let c = 0; c <= steps; c++) {
    const back = outward ? steps - c : c;
    const t = n - back;
    const main = end - direction * back;
    if (main < 0 || main >= mainSize) continue;
    const place = otherFrom + slope * t - 0.5;
    let j = Math.floor(place);
    if (j < 0) j = 0;
    else if (j > otherSize - 2) j = otherSize - 2;
    const share = place - j;
    const i0 = main * mainStep + j * otherStep;
    const i = share < 0.5 ? i0 : i0 + otherStep;
    const [e0, e1] = [inverse[i0]!, inverse[i0 + otherStep]!];
    const q = Math.abs(e0 - e1) > EDGE * (e0 > e1 ? e0 : e1) ? inverse[i]! : e0 + (e1 - e0) * (share < 0 ? 0 : share > 1 ? 1 : share);
    crossings[i]!++;
    if (!(q > 0)) {
      before = 0;
      sum[i]!++;
      continue;
    }
    const m = (q - from.q) / t;
    const change = Math.abs(q - before);
    const forgiven = (BIAS * q + (change < EDGE * q ? SLOPE_BIAS * change : 0)) / t;
    // how many intervals begin below m
    let [p, e] = [0, count];
    while (p < e) {
      const k = (p + e) >> 1;
      if (low[k]! < m) p = k + 1;
      else e = k;
    }
    if (!(p > 0 && m < high[p - 1]! - forgiven)) sum[i]!++;
    // what this hides from what comes later: the slopes from its back to its front, with those of the one before where they touch
    const own = backs[i]! < q ? backs[i]! : q;
    let [a, b] = [(own - from.q) / t, m];
    const [ownLow, ownHigh] = [a, b];
    if (before > 0 && own <= before && beforeBack <= q) {
      if (beforeLow < a) a = beforeLow;
      if (beforeHigh > b) b = beforeHigh;
    }
    [beforeLow, beforeHigh, before, beforeBack] = [ownLow, ownHigh, q, own];
    count = hide(low, high, count, a, b);
  }
}

/**
 * Slopes `a` to `b` are hidden from now on: joined with the intervals that they touch, or put in as one of their own, in the place of the narrowest
 * where there is no room. How many there are then.
 */
function hide(low: Float32Array, high: Float32Array, held: number, a: number, b: number): number {
  let count = held;
  let p0 = 0;
  let e = count;
  while (p0 < e) {
    const k = (p0 + e) >> 1;
    if (high[k]! < a) p0 = k + 1;
    else e = k;
  }
  let p1 = p0;
  while (p1 < count && low[p1]! <= b) p1++;
  if (p1 > p0) {
    low[p0] = Math.min(a, low[p0]!);
    high[p0] = Math.max(b, high[p1 - 1]!);
    if (p1 - p0 > 1) {
      low.copyWithin(p0 + 1, p1, count);
      high.copyWithin(p0 + 1, p1, count);
      count -= p1 - p0 - 1;
    }
    return count;
  }
  if (count === INTERVALS) {
    let narrowest = 0;
    for (let k = 1; k < count; k++) if (high[k]! - low[k]! < high[narrowest]! - low[narrowest]!) narrowest = k;
    if (b - a <= high[narrowest]! - low[narrowest]!) return count;
    low.copyWithin(narrowest, narrowest + 1, count);
    high.copyWithin(narrowest, narrowest + 1, count);
    count--;
    if (narrowest < p0) p0--;
  }
  low.copyWithin(p0 + 1, p0, count);
  high.copyWithin(p0 + 1, p0, count);
  low[p0] = a;
  high[p0] = b;
  return count + 1;
}
