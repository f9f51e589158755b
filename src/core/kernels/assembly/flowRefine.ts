import { acrossX, acrossY, at, bilinear, rf, wf } from './planes';

// A flow bettered in variational rounds. The readable twin is core/motion/variational.ts.
const BRIGHTNESS: f32 = 5;
const GRADIENT: f32 = 10;
const SMOOTHNESS: f32 = 20;
const EPSILON2: f32 = 1e-6;
const OMEGA: f32 = 1.6;
const SWEEPS: i32 = 5;
const FLAT: f32 = 0.01;

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
