import { acrossX, acrossY, at, bilinear, rf, sum4, wf } from './planes';

// Where patches of one picture are found in another. The readable twin is core/motion/patchSearch.ts.
const PATCH: i32 = 8;
const STRIDE: i32 = 4;
const STEPS: i32 = 8;
const PIXELS: f32 = 64;
const DAMPING: f32 = 0.5;
const SHORT: f32 = 0.0004;

let squares: f32 = 0;
let total: f32 = 0;
let alongX: f32 = 0;
let alongY: f32 = 0;

/** What a patch finds at a displacement in the padded second picture: see Residual in patchSearch.ts. */
function look(first: usize, gx: usize, gy: usize, w: i32, second: usize, bw: i32, bh: i32, x0: i32, y0: i32, u: f32, v: f32): void {
  const bx = <f32>(x0 + PATCH) + u, by = <f32>(y0 + PATCH) + v;
  if (!(bx >= 0 && by >= 0 && bx < <f32>(bw - PATCH - 1) && by < <f32>(bh - PATCH - 1))) {
    squares = Infinity;
    total = alongX = alongY = 0;
    return;
  }
  const xi = <i32>bx, yi = <i32>by, fx = bx - <f32>xi, fy = by - <f32>yi;
  const w00 = f32x4.splat((1 - fx) * (1 - fy)), w10 = f32x4.splat(fx * (1 - fy)), w01 = f32x4.splat((1 - fx) * fy), w11 = f32x4.splat(fx * fy);
  let s = f32x4.splat(0), q = s, ax = s, ay = s;
  const down = <usize>bw << 2;
  for (let y = 0; y < PATCH; y++) {
    const i = (y0 + y) * w + x0, b = at(second, (yi + y) * bw + xi);
    for (let x: usize = 0; x < 32; x += 16) {
      const p = b + x;
      const value = f32x4.add(
        f32x4.add(f32x4.mul(w00, v128.load(p)), f32x4.mul(w10, v128.load(p, 4))),
        f32x4.add(f32x4.mul(w01, v128.load(p + down)), f32x4.mul(w11, v128.load(p + down, 4))),
      );
      const d = f32x4.sub(value, v128.load(at(first, i) + x));
      s = f32x4.add(s, d);
      q = f32x4.add(q, f32x4.mul(d, d));
      ax = f32x4.add(ax, f32x4.mul(d, v128.load(at(gx, i) + x)));
      ay = f32x4.add(ay, f32x4.mul(d, v128.load(at(gy, i) + x)));
    }
  }
  total = sum4(s);
  squares = sum4(q) - (total * total) / PIXELS;
  alongX = sum4(ax);
  alongY = sum4(ay);
}

/** One level of dense inverse search over planes of w·h floats; `u` and `v` hold where to begin, then the answer. See flowScratch for `scratch`. */
export function searchFlow(first: usize, second: usize, w: i32, h: i32, u: usize, v: usize, scratch: usize): void {
  const n = w * h, bw = w + 2 * PATCH, bh = h + 2 * PATCH;
  const gx = scratch, gy = at(gx, n), weights = at(gy, n), padded = at(weights, n), pu = at(padded, bw * bh);
  acrossX(first, w, h, gx);
  acrossY(first, w, h, gy);
  for (let y = 0; y < bh; y++) {
    const from = min(h - 1, max(0, y - PATCH)) * w;
    for (let x = 0; x < bw; x++) wf(padded, y * bw + x, rf(second, from + min(w - 1, max(0, x - PATCH))));
  }
  const columns = (w - PATCH) / STRIDE + 1, rows = (h - PATCH) / STRIDE + 1, pv = at(pu, columns * rows);
  for (let ky = 0; ky < rows; ky++)
    for (let kx = 0; kx < columns; kx++) {
      const x0 = kx == columns - 1 ? w - PATCH : kx * STRIDE, y0 = ky == rows - 1 ? h - PATCH : ky * STRIDE;
      const centre = (y0 + PATCH / 2) * w + x0 + PATCH / 2;
      const u0 = rf(u, centre), v0 = rf(v, centre);
      let xx = f32x4.splat(0), xy = xx, yy = xx, ox = xx, oy = xx;
      for (let y = y0; y < y0 + PATCH; y++)
        for (let x: usize = 0; x < 32; x += 16) {
          const dx = v128.load(at(gx, y * w + x0) + x), dy = v128.load(at(gy, y * w + x0) + x);
          xx = f32x4.add(xx, f32x4.mul(dx, dx));
          xy = f32x4.add(xy, f32x4.mul(dx, dy));
          yy = f32x4.add(yy, f32x4.mul(dy, dy));
          ox = f32x4.add(ox, dx);
          oy = f32x4.add(oy, dy);
        }
      const sx = sum4(ox), sy = sum4(oy);
      const hxx = sum4(xx) + DAMPING * PIXELS - (sx * sx) / PIXELS, hyy = sum4(yy) + DAMPING * PIXELS - (sy * sy) / PIXELS, hxy = sum4(xy) - (sx * sy) / PIXELS;
      const det = hxx * hyy - hxy * hxy;
      let pu0 = u0, pv0 = v0, bestU = u0, bestV = v0, best: f32 = Infinity;
      for (let step = 0; step < STEPS; step++) {
        look(first, gx, gy, w, padded, bw, bh, x0, y0, pu0, pv0);
        if (squares <= best) {
          best = squares;
          bestU = pu0;
          bestV = pv0;
        } else if (step > 1) break;
        const ex = alongX - (total * sx) / PIXELS, ey = alongY - (total * sy) / PIXELS;
        const du = (hyy * ex - hxy * ey) / det, dv = (hxx * ey - hxy * ex) / det;
        pu0 -= du;
        pv0 -= dv;
        if (du * du + dv * dv < SHORT || Mathf.abs(pu0 - u0) > <f32>PATCH || Mathf.abs(pv0 - v0) > <f32>PATCH) break;
      }
      wf(pu, ky * columns + kx, bestU);
      wf(pv, ky * columns + kx, bestV);
    }
  memory.fill(weights, 0, <usize>n << 2);
  memory.fill(u, 0, <usize>n << 2);
  memory.fill(v, 0, <usize>n << 2);
  for (let ky = 0; ky < rows; ky++)
    for (let kx = 0; kx < columns; kx++) {
      const x0 = kx == columns - 1 ? w - PATCH : kx * STRIDE, y0 = ky == rows - 1 ? h - PATCH : ky * STRIDE;
      const mu = rf(pu, ky * columns + kx), mv = rf(pv, ky * columns + kx);
      look(first, gx, gy, w, padded, bw, bh, x0, y0, mu, mv);
      const mean = total / PIXELS;
      for (let y = y0; y < y0 + PATCH; y++)
        for (let x = x0; x < x0 + PATCH; x++) {
          const i = y * w + x;
          const off = Mathf.abs(bilinear(second, w, h, <f32>x + mu, <f32>y + mv) - rf(first, i) - mean);
          const weight: f32 = 1 / max<f32>(1, off);
          wf(weights, i, rf(weights, i) + weight);
          wf(u, i, rf(u, i) + weight * mu);
          wf(v, i, rf(v, i) + weight * mv);
        }
    }
  for (let i = 0; i < n; i++) {
    const k: f32 = 1 / rf(weights, i);
    wf(u, i, rf(u, i) * k);
    wf(v, i, rf(v, i) * k);
  }
}

/** Floats of scratch that one level of flow needs. */
export function flowScratch(w: i32, h: i32): i32 {
  const search = 3 * w * h + (w + 2 * PATCH) * (h + 2 * PATCH) + 2 * ((w / STRIDE + 1) * (h / STRIDE + 1));
  return max(search, 17 * w * h) + 16;
}

/** A part of a field at another size, its vectors as much longer as the picture is wider: bilinear, continued beyond the border. `room`: w + 1 floats. */
export function enlargeField(data: usize, w: i32, h: i32, out: usize, width: i32, height: i32, room: usize): void {
  const longer = f32x4.splat(<f32>width / <f32>w);
  const perX = <f32>w / <f32>width, perY = <f32>h / <f32>height;
  for (let y = 0; y < height; y++) {
    const v = max<f32>(0, min<f32>(<f32>(h - 1), (<f32>y + 0.5) * perY - 0.5));
    const j = <i32>v;
    const a = at(data, j * w), b = at(data, min(h - 1, j + 1) * w), t = f32x4.splat(v - <f32>j);
    // the last few are done with those before them
    for (let x = 0; x < w; x += 4) {
      const o = <usize>min(x, w - 4) << 2;
      const top = v128.load(a + o);
      v128.store(room + o, f32x4.mul(longer, f32x4.add(top, f32x4.mul(t, f32x4.sub(v128.load(b + o), top)))));
    }
    wf(room, w, rf(room, w - 1));
    for (let x = 0; x < width; x++) {
      const u = max<f32>(0, min<f32>(<f32>(w - 1), (<f32>x + 0.5) * perX - 0.5));
      const i = <i32>u;
      const left = rf(room, i);
      wf(out, y * width + x, left + (rf(room, i + 1) - left) * (u - <f32>i));
    }
  }
}
