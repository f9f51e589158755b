import { newPlane, type Plane } from '../../picture';

/**
 * Exact share of every pixel that a closed polygon covers, 0..1. Signed areas are summed edge by edge and row by row
 * (scan conversion with accumulated area and cover); where the outline winds twice round a pixel it counts once.
 * `xy` holds x and y of the corners in turn, px.
 */
export function polygonCoverage(xy: Float64Array, width: number, height: number): Plane {
  const out = newPlane(width, height);
  const area = new Float32Array(width * height + 2);
  const n = xy.length / 2;
  for (let i = 0; i < n; i++) {
    const j = (i + 1) % n;
    edge(area, width, height, xy[i * 2]!, xy[i * 2 + 1]!, xy[j * 2]!, xy[j * 2 + 1]!);
  }
  for (let y = 0; y < height; y++) {
    let sum = 0;
    for (let x = 0; x < width; x++) {
      sum += area[y * width + x]!;
      const a = sum < 0 ? -sum : sum;
      out.data[y * width + x] = a > 1 ? 1 : a < 1e-6 ? 0 : a;
    }
  }
  return out;
}

/** Adds what one edge contributes to the running sums of the rows it crosses. */
function edge(area: Float32Array, width: number, height: number, ax: number, ay: number, bx: number, by: number): void {
  if (ay === by) return;
  const sign = ay < by ? 1 : -1;
  const [x0, y0, x1, y1] = ay < by ? [ax, ay, bx, by] : [bx, by, ax, ay];
  const slope = (x1 - x0) / (y1 - y0);
  const last = Math.min(height, Math.ceil(y1));
  for (let y = Math.max(0, Math.floor(y0)); y < last; y++) {
    const top = Math.max(y, y0);
    const bottom = Math.min(y + 1, y1);
    if (bottom <= top) continue;
    const xt = x0 + (top - y0) * slope;
    const xb = x0 + (bottom - y0) * slope;
    row(area, y * width, width, Math.min(xt, xb), Math.max(xt, xb), sign * (bottom - top));
  }
}

/** An edge that runs from x = a to x = b (a ≤ b) across one row, `tall` of it high (signed). */
function row(area: Float32Array, start: number, width: number, a: number, b: number, tall: number): void {
  if (a >= width) return;
  if (b <= 0) {
    area[start]! += tall;
    return;
  }
  if (a < 0 || b > width) {
    // the parts beyond the borders are dealt with on their own
    const run = b - a;
    if (a < 0) area[start]! += (tall * -a) / run;
    const from = Math.max(0, a);
    const to = Math.min(width, b);
    if (to > from) row(area, start, width, from, to, (tall * (to - from)) / run);
    return;
  }
  const first = Math.floor(a);
  const end = Math.ceil(b);
  if (end <= first + 1) {
    const middle = 0.5 * (a + b) - first;
    area[start + first]! += tall * (1 - middle);
    if (first + 1 < width) area[start + first + 1]! += tall * middle;
    return;
  }
  const perX = tall / (b - a);
  let before = 0;
  for (let x = first; x < end; x++) {
    // share of this pixel right of the edge: the edge's height so far, less half of what it gains within the pixel
    const from = Math.max(a, x);
    const to = Math.min(b, x + 1);
    const gained = perX * (to - from);
    const covered = perX * (Math.max(a, x) - a) + gained * (x + 1 - 0.5 * (from + to));
    area[start + x]! += covered - before;
    before = covered;
  }
  if (end < width) area[start + end]! += tall - before;
}
