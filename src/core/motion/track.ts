import type { Plane } from '../picture';
import { bilinear } from './bilinear';
import { closes, denseFlow, pyramid } from './flow';

/** Half the side of what is looked at around a point, and of what moves with it, px. */
const WINDOW = 48;
const PATCH = 4;
/** Less of the patch seen again is a point that is lost. */
const SEEN = 0.35;
/** Half the side of what is compared, px; correlation from which it is the same; variance of luma below which there is nothing to compare. */
const LIKE = 6;
const SAME = 0.65;
const PLAIN = 9;

export interface Point {
  readonly x: number;
  readonly y: number;
}

/** A part of a plane. */
function cut({ width, data }: Plane, x0: number, y0: number, w: number, h: number): Plane {
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y++) out.set(data.subarray((y0 + y) * width + x0, (y0 + y) * width + x0 + w), y * w);
  return { width: w, height: h, data: out };
}

/** How alike the patches around two points are: their correlation, −1..1; 1 where there is next to nothing to see in either. */
function likeness(a: Plane, p: Point, b: Plane, q: Point): number {
  const { width: w, height: h } = a;
  let [sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0];
  for (let v = -LIKE; v <= LIKE; v++)
    for (let u = -LIKE; u <= LIKE; u++) {
      const x = bilinear(a.data, w, h, p.x + u, p.y + v);
      const y = bilinear(b.data, w, h, q.x + u, q.y + v);
      sa += x;
      sb += y;
      saa += x * x;
      sbb += y * y;
      sab += x * y;
    }
  const n = (2 * LIKE + 1) ** 2;
  const va = saa - (sa * sa) / n;
  const vb = sbb - (sb * sb) / n;
  return Math.max(va, vb) < PLAIN * n ? 1 : (sab - (sa * sb) / n) / Math.sqrt(Math.max(1e-6, va * vb));
}

const median = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1]!;

/**
 * Where a point of one frame lies in the next: the median of the flow around it, of pixels that are seen in both; null where it is hidden or
 * leaves the picture. Luma 0..255 of one size, px.
 */
export function trackPoint(from: Plane, to: Plane, { x, y }: Point): Point | null {
  const { width, height } = from;
  if (!(x >= 0 && y >= 0 && x <= width - 1 && y <= height - 1)) return null;
  const [w, h] = [Math.min(width, 2 * WINDOW), Math.min(height, 2 * WINDOW)];
  const x0 = Math.min(width - w, Math.max(0, Math.round(x) - WINDOW));
  const y0 = Math.min(height - h, Math.max(0, Math.round(y) - WINDOW));
  const [a, b] = [pyramid(cut(from, x0, y0, w, h), 16), pyramid(cut(to, x0, y0, w, h), 16)];
  const flow = denseFlow(a, b, { finest: 0, rounds: 2 });
  const seen = closes(flow, denseFlow(b, a, { finest: 0, rounds: 2 }));
  const us: number[] = [];
  const vs: number[] = [];
  let count = 0;
  for (let v = Math.max(0, Math.round(y) - y0 - PATCH); v <= Math.min(h - 1, Math.round(y) - y0 + PATCH); v++)
    for (let u = Math.max(0, Math.round(x) - x0 - PATCH); u <= Math.min(w - 1, Math.round(x) - x0 + PATCH); u++) {
      count++;
      const i = v * w + u;
      if (!seen[i]) continue;
      us.push(flow.u[i]!);
      vs.push(flow.v[i]!);
    }
  if (us.length < SEEN * count) return null;
  const next = { x: x + median(us), y: y + median(vs) };
  const within = next.x >= 0 && next.y >= 0 && next.x <= width - 1 && next.y <= height - 1;
  // an edge that comes before a thing would take the point along
  return within && likeness(from, { x, y }, to, next) > SAME ? next : null;
}

/** A value at a frame. */
export interface Reading {
  readonly frame: number;
  readonly value: number;
}

/**
 * As few of some readings as keep straight lines between them within a tolerance of the rest (Ramer 1972; Douglas & Peucker 1973). `scale`
 * brings values to where differences are judged.
 */
export function thinReadings(readings: readonly Reading[], tolerance: number, scale: (value: number) => number = (v) => v): readonly Reading[] {
  if (readings.length <= 2) return readings;
  const first = readings[0]!;
  const last = readings[readings.length - 1]!;
  let worst = 0;
  let at = -1;
  for (let k = 1; k < readings.length - 1; k++) {
    const r = readings[k]!;
    const t = (r.frame - first.frame) / (last.frame - first.frame);
    const off = Math.abs(scale(r.value) - scale(first.value + t * (last.value - first.value)));
    if (off > worst) {
      worst = off;
      at = k;
    }
  }
  if (worst <= tolerance) return [first, last];
  return [...thinReadings(readings.slice(0, at + 1), tolerance, scale).slice(0, -1), ...thinReadings(readings.slice(at), tolerance, scale)];
}
