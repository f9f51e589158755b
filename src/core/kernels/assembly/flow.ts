// One level of optical flow. The readable twins are core/motion/patchSearch.ts and core/motion/variational.ts.
const PATCH: i32 = 8;
const STRIDE: i32 = 4;
const STEPS: i32 = 8;
const PIXELS: f32 = 64;
const DAMPING: f32 = 0.5;
const SHORT: f32 = 0.0004;
const BRIGHTNESS: f32 = 5;
const GRADIENT: f32 = 10;
const SMOOTHNESS: f32 = 20;
const EPSILON2: f32 = 1e-6;
const OMEGA: f32 = 1.6;
const SWEEPS: i32 = 5;
const FLAT: f32 = 0.01;

@inline function at(p: usize, i: i32): usize { return p + (<usize>i << 2); }
@inline function rf(p: usize, i: i32): f32 { return load<f32>(at(p, i)); }
@inline function wf(p: usize, i: i32, v: f32): void { store<f32>(at(p, i), v); }
@inline function sum4(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3));
}

/** A plane's value between its pixels, continued beyond its border. */
@inline function bilinear(data: usize, w: i32, h: i32, x: f32, y: f32): f32 {
  const cx = x < 0 ? <f32>0 : x > <f32>(w - 1) ? <f32>(w - 1) : x, cy = y < 0 ? <f32>0 : y > <f32>(h - 1) ? <f32>(h - 1) : y;
  const x0 = <i32>cx, y0 = <i32>cy, fx = cx - <f32>x0, fy = cy - <f32>y0;
  const i = y0 * w + x0, right = x0 + 1 < w ? 1 : 0, down = y0 + 1 < h ? w : 0;
  return (rf(data, i) * (1 - fx) + rf(data, i + right) * fx) * (1 - fy) + (rf(data, i + down) * (1 - fx) + rf(data, i + down + right) * fx) * fy;
}

/** Half the difference of the neighbours along rows, one-sided at the border. */
function acrossX(data: usize, w: i32, h: i32, out: usize): void {
  const half = f32x4.splat(0.5);
  for (let y = 0, i = 0; y < h; y++, i += w) {
    wf(out, i, 0.5 * (rf(data, w > 1 ? i + 1 : i) - rf(data, i)));
    let x = 1;
    for (; x + 4 < w; x += 4) {
      const p = at(data, i + x);
      v128.store(at(out, i + x), f32x4.mul(half, f32x4.sub(v128.load(p, 4), v128.load(p - 4))));
    }
    for (; x < w; x++) wf(out, i + x, 0.5 * (rf(data, x + 1 < w ? i + x + 1 : i + x) - rf(data, i + x - 1)));
  }
}

/** The same along columns. */
function acrossY(data: usize, w: i32, h: i32, out: usize): void {
  const half = f32x4.splat(0.5);
  for (let y = 0, i = 0; y < h; y++, i += w) {
    const below = y + 1 < h ? i + w : i, above = y > 0 ? i - w : i;
    let x = 0;
    for (; x + 4 <= w; x += 4) {
      v128.store(at(out, i + x), f32x4.mul(half, f32x4.sub(v128.load(at(data, below + x)), v128.load(at(data, above + x)))));
    }
    for (; x < w; x++) wf(out, i + x, 0.5 * (rf(data, below + x) - rf(data, above + x)));
  }
}

/** How little a flow may turn at each pixel: less where it does, by its slopes to the right and down. */
function smoothness(U: usize, V: usize, w: i32, h: i32, out: usize): void {
  const epsilon = f32x4.splat(EPSILON2), most = f32x4.splat(SMOOTHNESS);
  for (let y = 0, i = 0; y < h; y++, i += w) {
    const down = y + 1 < h ? i + w : i;
    let x = 0;
    for (; x + 4 < w; x += 4) {
      const u0 = v128.load(at(U, i + x)), v0 = v128.load(at(V, i + x));
      const ux = f32x4.sub(v128.load(at(U, i + x), 4), u0), uy = f32x4.sub(v128.load(at(U, down + x)), u0);
      const vx = f32x4.sub(v128.load(at(V, i + x), 4), v0), vy = f32x4.sub(v128.load(at(V, down + x)), v0);
      const slope = f32x4.add(f32x4.add(f32x4.add(f32x4.mul(ux, ux), f32x4.mul(uy, uy)), f32x4.mul(vx, vx)), f32x4.mul(vy, vy));
      v128.store(at(out, i + x), f32x4.div(most, f32x4.sqrt(f32x4.add(slope, epsilon))));
    }
    for (; x < w; x++) {
      const right = x + 1 < w ? i + x + 1 : i + x, o = i + x;
      const ux = rf(U, right) - rf(U, o), uy = rf(U, down + x) - rf(U, o), vx = rf(V, right) - rf(V, o), vy = rf(V, down + x) - rf(V, o);
      wf(out, o, SMOOTHNESS / sqrt<f32>(ux * ux + uy * uy + vx * vx + vy * vy + EPSILON2));
    }
  }
}

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

/** Betters a flow in place: refineFlow of variational.ts, with the whole flow in U and V instead of what is added to u and v. */
export function refineFlow(first: usize, second: usize, w: i32, h: i32, u: usize, v: usize, rounds: i32, scratch: usize): void {
  const n = w * h, pitch = <usize>w << 2;
  const it = scratch, mean = at(it, n), ix = at(mean, n), iy = at(ix, n), ixx = at(iy, n), ixy = at(ixx, n), iyy = at(ixy, n), ixt = at(iyy, n);
  const iyt = at(ixt, n), U = at(iyt, n), V = at(U, n), a11 = at(V, n), a12 = at(a11, n), a22 = at(a12, n), b1 = at(a22, n), b2 = at(b1, n);
  // the mean is not needed once its slopes are there
  const smooth = mean;
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const b = bilinear(second, w, h, <f32>x + rf(u, i), <f32>y + rf(v, i));
      wf(it, i, b - rf(first, i));
      wf(mean, i, 0.5 * (rf(first, i) + b));
    }
  acrossX(mean, w, h, ix);
  acrossY(mean, w, h, iy);
  acrossX(ix, w, h, ixx);
  acrossY(ix, w, h, ixy);
  acrossY(iy, w, h, iyy);
  acrossX(it, w, h, ixt);
  acrossY(it, w, h, iyt);
  memory.copy(U, u, <usize>n << 2);
  memory.copy(V, v, <usize>n << 2);
  const one = f32x4.splat(1), flat = f32x4.splat(FLAT), epsilon = f32x4.splat(EPSILON2);
  for (let round = 0; round < rounds; round++) {
    for (let i = 0; i < n; i += 4) {
      // the last few are done with those before them
      if (i > n - 4) i = n - 4;
      const o = <usize>i << 2;
      const p = f32x4.sub(v128.load(U + o), v128.load(u + o)), q = f32x4.sub(v128.load(V + o), v128.load(v + o));
      const gx = v128.load(ix + o), gy = v128.load(iy + o), gxx = v128.load(ixx + o), gxy = v128.load(ixy + o), gyy = v128.load(iyy + o);
      const t = v128.load(it + o), tx = v128.load(ixt + o), ty = v128.load(iyt + o);
      const n0 = f32x4.div(one, f32x4.add(f32x4.add(f32x4.mul(gx, gx), f32x4.mul(gy, gy)), flat));
      const nx = f32x4.div(one, f32x4.add(f32x4.add(f32x4.mul(gxx, gxx), f32x4.mul(gxy, gxy)), flat));
      const ny = f32x4.div(one, f32x4.add(f32x4.add(f32x4.mul(gxy, gxy), f32x4.mul(gyy, gyy)), flat));
      const e0 = f32x4.add(t, f32x4.add(f32x4.mul(gx, p), f32x4.mul(gy, q)));
      const ex = f32x4.add(tx, f32x4.add(f32x4.mul(gxx, p), f32x4.mul(gxy, q)));
      const ey = f32x4.add(ty, f32x4.add(f32x4.mul(gxy, p), f32x4.mul(gyy, q)));
      const k0 = f32x4.div(f32x4.mul(f32x4.splat(BRIGHTNESS), n0), f32x4.sqrt(f32x4.add(f32x4.mul(f32x4.mul(e0, e0), n0), epsilon)));
      const k1 = f32x4.div(
        f32x4.splat(GRADIENT),
        f32x4.sqrt(f32x4.add(f32x4.add(f32x4.mul(f32x4.mul(ex, ex), nx), f32x4.mul(f32x4.mul(ey, ey), ny)), epsilon)),
      );
      const kx = f32x4.mul(k1, nx), ky = f32x4.mul(k1, ny);
      const c0x = f32x4.mul(k0, gx), c0y = f32x4.mul(k0, gy), cxx = f32x4.mul(kx, gxx), cxy = f32x4.mul(kx, gxy), cyx = f32x4.mul(ky, gxy), cyy = f32x4.mul(ky, gyy);
      v128.store(a11 + o, f32x4.add(f32x4.mul(c0x, gx), f32x4.add(f32x4.mul(cxx, gxx), f32x4.mul(cyx, gxy))));
      v128.store(a12 + o, f32x4.add(f32x4.mul(c0x, gy), f32x4.add(f32x4.mul(cxx, gxy), f32x4.mul(cyx, gyy))));
      v128.store(a22 + o, f32x4.add(f32x4.mul(c0y, gy), f32x4.add(f32x4.mul(cxy, gxy), f32x4.mul(cyy, gyy))));
      v128.store(b1 + o, f32x4.neg(f32x4.add(f32x4.mul(c0x, t), f32x4.add(f32x4.mul(cxx, tx), f32x4.mul(cyx, ty)))));
      v128.store(b2 + o, f32x4.neg(f32x4.add(f32x4.mul(c0y, t), f32x4.add(f32x4.mul(cxy, tx), f32x4.mul(cyy, ty)))));
    }
    smoothness(U, V, w, h, smooth);
    for (let sweep = 0; sweep < 2 * SWEEPS; sweep++)
      for (let y = 0; y < h; y++) {
        const first = (y + sweep) & 1;
        let x = first;
        if (y > 0 && y + 1 < h) {
          if (x == 0) {
            relax(w, h, u, v, U, V, a11, a12, a22, b1, b2, smooth, 0, y);
            x = 2;
          }
          // those of one colour among four; nothing that they read is changed in this sweep
          const lanes = i32x4(-1, 0, -1, 0);
          for (; x + 4 < w; x += 4) relax4(<usize>(y * w + x) << 2, pitch, u, v, U, V, a11, a12, a22, b1, b2, smooth, lanes);
        }
        for (; x < w; x += 2) relax(w, h, u, v, U, V, a11, a12, a22, b1, b2, smooth, x, y);
      }
  }
  memory.copy(u, U, <usize>n << 2);
  memory.copy(v, V, <usize>n << 2);
}

function relax(
  w: i32, h: i32, u: usize, v: usize, U: usize, V: usize, a11: usize, a12: usize, a22: usize, b1: usize, b2: usize, smooth: usize, x: i32, y: i32,
): void {
  const i = y * w + x, here = rf(smooth, i);
  let weight: f32 = 0, su: f32 = 0, sv: f32 = 0;
  if (x > 0) {
    const k = rf(smooth, i - 1);
    weight += k;
    su += k * rf(U, i - 1);
    sv += k * rf(V, i - 1);
  }
  if (y > 0) {
    const k = rf(smooth, i - w);
    weight += k;
    su += k * rf(U, i - w);
    sv += k * rf(V, i - w);
  }
  if (x + 1 < w) {
    weight += here;
    su += here * rf(U, i + 1);
    sv += here * rf(V, i + 1);
  }
  if (y + 1 < h) {
    weight += here;
    su += here * rf(U, i + w);
    sv += here * rf(V, i + w);
  }
  const u0 = rf(u, i), v0 = rf(v, i), c = rf(a12, i);
  const du = rf(U, i) - u0, dv = rf(V, i) - v0;
  const p = (rf(b1, i) + su - weight * u0 - c * dv) / (rf(a11, i) + weight), du1 = du + OMEGA * (p - du);
  const q = (rf(b2, i) + sv - weight * v0 - c * du1) / (rf(a22, i) + weight);
  wf(U, i, u0 + du1);
  wf(V, i, v0 + dv + OMEGA * (q - dv));
}

@inline function relax4(
  o: usize, pitch: usize, u: usize, v: usize, U: usize, V: usize, a11: usize, a12: usize, a22: usize, b1: usize, b2: usize, smooth: usize, lanes: v128,
): void {
  const here = v128.load(smooth + o), west = v128.load(smooth + o - 4), north = v128.load(smooth + o - pitch);
  const weight = f32x4.add(f32x4.add(west, north), f32x4.add(here, here));
  const pu = U + o, pv = V + o;
  const su = f32x4.add(
    f32x4.add(f32x4.mul(west, v128.load(pu - 4)), f32x4.mul(north, v128.load(pu - pitch))),
    f32x4.mul(here, f32x4.add(v128.load(pu + 4), v128.load(pu + pitch))),
  );
  const sv = f32x4.add(
    f32x4.add(f32x4.mul(west, v128.load(pv - 4)), f32x4.mul(north, v128.load(pv - pitch))),
    f32x4.mul(here, f32x4.add(v128.load(pv + 4), v128.load(pv + pitch))),
  );
  const u0 = v128.load(u + o), v0 = v128.load(v + o), c = v128.load(a12 + o), omega = f32x4.splat(OMEGA);
  const U0 = v128.load(pu), V0 = v128.load(pv), du = f32x4.sub(U0, u0), dv = f32x4.sub(V0, v0);
  const p = f32x4.div(
    f32x4.sub(f32x4.sub(f32x4.add(v128.load(b1 + o), su), f32x4.mul(weight, u0)), f32x4.mul(c, dv)),
    f32x4.add(v128.load(a11 + o), weight),
  );
  const du1 = f32x4.add(du, f32x4.mul(omega, f32x4.sub(p, du)));
  const q = f32x4.div(
    f32x4.sub(f32x4.sub(f32x4.add(v128.load(b2 + o), sv), f32x4.mul(weight, v0)), f32x4.mul(c, du1)),
    f32x4.add(v128.load(a22 + o), weight),
  );
  const dv1 = f32x4.add(dv, f32x4.mul(omega, f32x4.sub(q, dv)));
  v128.store(pu, v128.bitselect(f32x4.add(u0, du1), U0, lanes));
  v128.store(pv, v128.bitselect(f32x4.add(v0, dv1), V0, lanes));
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
