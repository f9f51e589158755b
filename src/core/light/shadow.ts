import { EDGE, type DepthField } from './depthField';

export type Point = readonly [number, number, number];

/** What is forgiven, so that a surface does not shade itself: a share of W, and of its change along the line. */
const BIAS = 0.0005;
const SLOPE_BIAS = 0.25;
/** A solid is no thicker than this share of its way to the lamp: it would swallow it. */
const GAP = 0.25;
/** A surface is as deep as half its width on screen, and no deeper than this share of its distance. */
const AS_DEEP = 0.5;
const DEEPEST = 0.1;
/** Runs of a surface that the frame cuts off count as at least so many px. */
const CUT_RUN = 40;
/** So many hidden intervals are kept on a line; then the narrowest is forgotten. */
const INTERVALS = 192;

/** How deep each pixel's solid goes, metres: what is seen is as deep as it is wide. */
export function thicknessOf({ width: w, height: h, focalPx, inverse }: DepthField): Float32Array {
  const run = new Float32Array(w * h).fill(1e6);
  const scan = (start: number, step: number, n: number): void => {
    for (let a = 0; a < n;) {
      let b = a + 1;
      while (b < n && Math.abs(inverse[start + b * step]! - inverse[start + (b - 1) * step]!) < EDGE * inverse[start + b * step]!) b++;
      const r = a === 0 || b === n ? Math.max(b - a, CUT_RUN) : b - a;
      for (let k = a; k < b; k++) {
        const i = start + k * step;
        if (r < run[i]!) run[i] = r;
      }
      a = b;
    }
  };
  for (let y = 0; y < h; y++) scan(y * w, 1, w);
  for (let x = 0; x < w; x++) scan(x, w, h);
  return Float32Array.from(inverse, (q, i) => (q > 0 ? Math.min(DEEPEST / q, (AS_DEEP * run[i]!) / (q * focalPx)) : 0));
}

/** The lamp on screen, px, and its inverse distance. Beside the camera it is very far away on screen, which is as good. */
function project([x, y, z]: Point, { width, height, focalPx }: DepthField): { x: number; y: number; q: number } {
  const depth = Math.abs(z) < 1e-3 ? (z < 0 ? -1e-3 : 1e-3) : z;
  return { x: width / 2 + (focalPx * x) / depth, y: height / 2 + (focalPx * y) / depth, q: 1 / depth };
}

/** Inverse distances of the backs of all solids, as one lamp meets them. */
function backsOf({ width: w, height: h, focalPx: f, inverse }: DepthField, thickness: Float32Array, [lx, ly, lz]: Point): Float32Array {
  const out = new Float32Array(w * h);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const q = inverse[i]!;
      if (!(q > 0)) continue;
      const z = 1 / q;
      const way = Math.hypot(((x + 0.5 - w / 2) / f) * z - lx, ((y + 0.5 - h / 2) / f) * z - ly, z - lz);
      out[i] = 1 / (z + Math.min(thickness[i]!, GAP * way));
    }
  return out;
}

/**
 * Who sees a lamp, 0..1 a pixel. On a line of the screen through the lamp's image a ray to it is a constant slope m = (W − w)/t, t px from
 * there: a pixel is hidden where something nearer the lamp covers its slope. One line is aimed at each pixel of the border; along it a sorted
 * list of hidden intervals is kept (line sweeps over height fields: Timonen & Westerholm 2010; thickness: Therrien, Levesque & Gilet 2023).
 * `look` is called now and then and may throw.
 */
export function seesLamp(field: DepthField, thickness: Float32Array, lamp: Point, look: () => void = () => undefined): Float32Array {
  const { width: w, height: h, inverse } = field;
  const from = project(lamp, field);
  const backs = backsOf(field, thickness, lamp);
  const sum = new Float32Array(w * h);
  const crossings = new Uint16Array(w * h);
  const low = new Float32Array(INTERVALS);
  const high = new Float32Array(INTERVALS);
  const outward = from.q > 0;

  const line = (bx: number, by: number): void => {
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
      let p0 = 0;
      e = count;
      while (p0 < e) {
        const k = (p0 + e) >> 1;
        if (high[k]! < a) p0 = k + 1;
        else e = k;
      }
      let p1 = p0;
      while (p1 < count && low[p1]! <= b) p1++;
      if (p1 > p0) {
        if (low[p0]! < a) a = low[p0]!;
        if (high[p1 - 1]! > b) b = high[p1 - 1]!;
        if (p1 - p0 > 1) {
          low.copyWithin(p0 + 1, p1, count);
          high.copyWithin(p0 + 1, p1, count);
          count -= p1 - p0 - 1;
        }
        low[p0] = a;
        high[p0] = b;
        continue;
      }
      if (count === INTERVALS) {
        let narrowest = 0;
        for (let k = 1; k < count; k++) if (high[k]! - low[k]! < high[narrowest]! - low[narrowest]!) narrowest = k;
        if (b - a <= high[narrowest]! - low[narrowest]!) continue;
        low.copyWithin(narrowest, narrowest + 1, count);
        high.copyWithin(narrowest, narrowest + 1, count);
        count--;
        if (narrowest < p0) p0--;
      }
      low.copyWithin(p0 + 1, p0, count);
      high.copyWithin(p0 + 1, p0, count);
      low[p0] = a;
      high[p0] = b;
      count++;
    }
  };
  for (let x = 0; x < w; x++) {
    if (x % 64 === 0) look();
    line(x, 0);
    line(x, h - 1);
  }
  for (let y = 1; y < h - 1; y++) {
    if (y % 64 === 0) look();
    line(0, y);
    line(w - 1, y);
  }
  for (let i = 0; i < sum.length; i++) sum[i] = crossings[i]! > 0 ? sum[i]! / crossings[i]! : 1;
  return sum;
}

/** Directions spread evenly over a sphere (a Fibonacci spiral). */
const spread = (k: number, n: number): Point => {
  const y = 1 - (2 * k + 1) / n;
  const r = Math.sqrt(1 - y * y);
  const a = k * 2.399963;
  return [r * Math.cos(a), y, r * Math.sin(a)];
};

/** Who sees how much of a lamp with a size: the mean over some points of its sphere. */
export function seesSoftLamp(
  field: DepthField,
  thickness: Float32Array,
  lamp: Point,
  radius: number,
  points: number,
  look?: () => void,
): Float32Array {
  if (points < 2 || radius <= 0) return seesLamp(field, thickness, lamp, look);
  const out = new Float32Array(field.inverse.length);
  for (let k = 0; k < points; k++) {
    // seven tenths of the radius spread as far as a disc does
    const d = spread(k, points).map((v) => 0.7 * radius * v);
    const one = seesLamp(field, thickness, [lamp[0] + d[0]!, lamp[1] + d[1]!, lamp[2] + d[2]!], look);
    for (let i = 0; i < out.length; i++) out[i]! += one[i]! / points;
  }
  return out;
}

/** A tent of 3x3 over what lies within surfaces (`inside`) or over the edges between them: the one takes steps off shadows, the other mixes light as the plate's edge pixels are mixed. */
export function tented({ width: w, height: h, inverse }: DepthField, values: Float32Array, where: 'inside' | 'edges'): Float32Array {
  const out = values.slice();
  const inside = where === 'inside';
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x;
      const c = inverse[i]!;
      if (!(c > 0)) continue;
      const [l, r, u, d] = [inverse[i - 1]!, inverse[i + 1]!, inverse[i - w]!, inverse[i + w]!];
      if (!inside && Math.abs(l - c) < EDGE * c && Math.abs(r - c) < EDGE * c && Math.abs(u - c) < EDGE * c && Math.abs(d - c) < EDGE * c) continue;
      let [s, k] = [0, 0];
      for (let j = -1; j <= 1; j++)
        for (let m = -1; m <= 1; m++) {
          const e = i + j * w + m;
          const other = inverse[e]!;
          if (inside ? Math.abs(other - c) >= EDGE * c : !(other > 0)) continue;
          const q = (j === 0 ? 2 : 1) * (m === 0 ? 2 : 1);
          s += q * values[e]!;
          k += q;
        }
      out[i] = s / k;
    }
  return out;
}
