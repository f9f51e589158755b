import { kernels } from '../kernels/loader';
import { EDGE, type DepthField } from './depthField';
import { INTERVALS, sweepLineTwin } from './shadowTwin';

export type Point = readonly [number, number, number];

/** Lines of the several points of a lamp alternate: each point has one in so many. */
const ALTERNATE = 3;
/** A solid is no thicker than this share of its way to the lamp: it would swallow it. */
const GAP = 0.25;
/** A surface is as deep as half its width on screen, and no deeper than this share of its distance. */
const AS_DEEP = 0.5;
const DEEPEST = 0.1;
/** Runs of a surface that the frame cuts off count as at least so many px. */
const CUT_RUN = 40;
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
      const dx = ((x + 0.5 - w / 2) / f) * z - lx;
      const dy = ((y + 0.5 - h / 2) / f) * z - ly;
      const dz = z - lz;
      const way = Math.sqrt(dx * dx + dy * dy + dz * dz);
      out[i] = 1 / (z + Math.min(thickness[i]!, GAP * way));
    }
  return out;
}

/** Seven tenths of the radius spread as far as a disc does. */
const aside = ([x, y, z]: Point, [a, b, c]: Point, by: number): Point => [x + by * a, y + by * b, z + by * c];

/** Gives the lines of a sweep: to each pixel of the border, or to every `stride`th from `offset` on. */
function eachBorderPixel(w: number, h: number, stride: number, offset: number, line: (x: number, y: number) => void): void {
  for (let x = offset; x < w; x += stride) {
    line(x, 0);
    line(x, h - 1);
  }
  for (let y = 1 + offset; y < h - 1; y += stride) {
    line(0, y);
    line(w - 1, y);
  }
}

/**
 * Who sees a lamp, 0..1 a pixel. On a line of the screen through the lamp's image a ray to it is a constant slope: a pixel is hidden where
 * something nearer the lamp covers its slope. One line is aimed at each pixel of the border; along it a sorted list of hidden intervals is kept
 * (line sweeps over height fields: Timonen & Westerholm 2010; thickness: Therrien, Levesque & Gilet 2023). A lamp with a size is several points
 * of its sphere, whose lines alternate. `onProgress` is called now and then and may throw. `twin`: by the readable twin of the kernel.
 */
export function seesLamp(
  field: DepthField,
  thickness: Float32Array,
  lamp: Point,
  {
    radius = 0,
    points = 1,
    onProgress: look = () => undefined,
    twin = false,
  }: { radius?: number; points?: number; onProgress?: () => void; twin?: boolean } = {},
): Float32Array {
  const { width: w, height: h, inverse } = field;
  const soft = points > 1 && radius > 0;
  const lamps = soft ? Array.from({ length: points }, (_, k) => aside(lamp, spread(k, points), 0.7 * radius)) : [lamp];
  const stride = soft ? ALTERNATE : 1;
  const n = w * h;
  const out = new Float32Array(n);
  const counts = new Float32Array(n);
  if (twin) {
    const sweep = { width: w, height: h, inverse, sum: out, crossings: counts, low: new Float32Array(INTERVALS), high: new Float32Array(INTERVALS) };
    const lines = { ...sweep, backs: backsOf(field, thickness, lamp) };
    for (const [k, one] of lamps.entries()) {
      const from = project(one, field);
      eachBorderPixel(w, h, stride, k % stride, (x, y) => sweepLineTwin(lines, from, x, y));
    }
  } else {
    const k = kernels();
    const bookmark = k.bookmark();
    const [inverseAt, backsAt, sumAt, countAt, low, high] = [
      k.take(n * 4),
      k.take(n * 4),
      k.take(n * 4),
      k.take(n * 4),
      k.take(INTERVALS * 4),
      k.take(INTERVALS * 4),
    ];
    k.floats(inverseAt, n).set(inverse);
    k.floats(backsAt, n).set(backsOf(field, thickness, lamp));
    k.floats(sumAt, n).fill(0);
    k.floats(countAt, n).fill(0);
    for (const [index, one] of lamps.entries()) {
      const from = project(one, field);
      let lines = 0;
      eachBorderPixel(w, h, stride, index % stride, (x, y) => {
        if (lines++ % 128 === 0) look();
        k.run.sweepLine(inverseAt, backsAt, sumAt, countAt, low, high, w, h, from.x, from.y, from.q, x, y);
      });
    }
    out.set(k.floats(sumAt, n));
    counts.set(k.floats(countAt, n));
    k.back(bookmark);
  }
  for (let i = 0; i < n; i++) out[i] = counts[i]! > 0 ? out[i]! / counts[i]! : 1;
  return out;
}

/** Directions spread evenly over a sphere (a Fibonacci spiral). */
const spread = (k: number, n: number): Point => {
  const y = 1 - (2 * k + 1) / n;
  const r = Math.sqrt(1 - y * y);
  const a = k * 2.399963;
  return [r * Math.cos(a), y, r * Math.sin(a)];
};

/**
 * A tent of 3x3 over what lies within surfaces (`inside`) or over the edges between them: the one takes steps off shadows, the other mixes light as
 * the plate's edge pixels are mixed. By a kernel.
 */
export function tented({ width, height, inverse }: DepthField, values: Float32Array, where: 'inside' | 'edges'): Float32Array {
  const k = kernels();
  const bookmark = k.bookmark();
  const [field, from, to] = [k.put(inverse), k.put(values), k.put(values)];
  k.run.tentPlane(field, from, width, height, where === 'inside' ? 1 : 0, to);
  const out = k.floats(to, values.length).slice();
  k.back(bookmark);
  return out;
}
