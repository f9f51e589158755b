/** Half the side of the window, and the share of W by which a neighbour may miss: as in light/normals.ts. */
const FIT: i32 = 4;
const MISS: f32 = 0.01;

// @ts-ignore: decorator
@inline
function times(a: v128, b: v128): v128 {
  return f32x4.mul(a, b);
}

/**
 * Normals of a row of pixels by plane fits of 9x9: light/normals.ts, fittedTwin. `plane`: inverse distances with a rim of `FIT` zeros all round
 * and four more on the right, `pitch` numbers a row; `step`: in which the map was written; `focal`: px, `v`: tangent of the row, `middle`: half
 * the width. Four pixels at a time: there is room for as many, three numbers each.
 */
export function fitRow(plane: usize, pitch: i32, y: i32, count: i32, step: f32, focal: f32, v: f32, middle: f32, out: usize): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  const down = <usize>pitch << 2;
  for (let x = 0; x < count; x += 4) {
    const corner = plane + (<usize>(y * pitch + x) << 2);
    const w0 = v128.load(corner + <usize>FIT * down + (<usize>FIT << 2));
    const k = f32x4.div(f32x4.splat(1 / MISS), w0);
    let gx = zero, gy = zero, g0 = w0;
    for (let pass = 0; pass < 2; pass++) {
      let s = zero, sx = zero, sy = zero, sw = zero, sxx = zero, sxy = zero, syy = zero, sxw = zero, syw = zero;
      for (let dy = -FIT; dy <= FIT; dy++) {
        const row = corner + <usize>(dy + FIT) * down;
        const high = f32x4.splat(<f32>dy);
        const level = f32x4.add(g0, times(gy, high));
        let rs = zero, rx = zero, rxx = zero, rw = zero, rxw = zero;
        for (let dx = -FIT; dx <= FIT; dx++) {
          const value = v128.load(row + (<usize>(dx + FIT) << 2));
          const across = f32x4.splat(<f32>dx);
          const forgiven: f32 = pass == 0 ? step * (0.5 + Mathf.sqrt(<f32>(abs(dx) + abs(dy)))) : 0.5 * step;
          const off = f32x4.abs(f32x4.sub(value, f32x4.add(level, times(gx, across))));
          const miss = times(f32x4.pmax(zero, f32x4.sub(off, f32x4.splat(forgiven))), k);
          const t = f32x4.add(one, times(miss, miss));
          const q = v128.and(f32x4.div(one, times(t, t)), f32x4.gt(value, zero));
          const e = times(q, f32x4.sub(value, w0));
          const qx = times(q, across);
          rs = f32x4.add(rs, q);
          rx = f32x4.add(rx, qx);
          rxx = f32x4.add(rxx, times(qx, across));
          rw = f32x4.add(rw, e);
          rxw = f32x4.add(rxw, times(e, across));
        }
        s = f32x4.add(s, rs);
        sx = f32x4.add(sx, rx);
        sxx = f32x4.add(sxx, rxx);
        sw = f32x4.add(sw, rw);
        sxw = f32x4.add(sxw, rxw);
        const lifted = times(rs, high);
        sy = f32x4.add(sy, lifted);
        syy = f32x4.add(syy, times(lifted, high));
        sxy = f32x4.add(sxy, times(rx, high));
        syw = f32x4.add(syw, times(rw, high));
      }
      const inverse = f32x4.div(one, s);
      const mx = times(sx, inverse), my = times(sy, inverse);
      const a = f32x4.sub(sxx, times(sx, mx)), b = f32x4.sub(sxy, times(sx, my)), c = f32x4.sub(syy, times(sy, my));
      const p = f32x4.sub(sxw, times(sw, mx)), o = f32x4.sub(syw, times(sw, my));
      const det = f32x4.sub(times(a, c), times(b, b));
      const told = f32x4.gt(det, times(f32x4.splat(1e-6), times(s, s)));
      const slopeX = f32x4.div(f32x4.sub(times(c, p), times(b, o)), det), slopeY = f32x4.div(f32x4.sub(times(a, o), times(b, p)), det);
      const base = f32x4.add(w0, times(f32x4.sub(sw, f32x4.add(times(slopeX, sx), times(slopeY, sy))), inverse));
      gx = v128.bitselect(slopeX, gx, told);
      gy = v128.bitselect(slopeY, gy, told);
      g0 = v128.bitselect(base, g0, told);
    }
    const u = f32x4.div(f32x4.sub(f32x4.add(f32x4.splat(<f32>x), f32x4(0.5, 1.5, 2.5, 3.5)), f32x4.splat(middle)), f32x4.splat(focal));
    const a = times(gx, f32x4.splat(focal)), b = times(gy, f32x4.splat(focal));
    const c = f32x4.sub(g0, f32x4.add(times(u, a), times(f32x4.splat(v), b)));
    const length = f32x4.sqrt(f32x4.add(f32x4.add(times(a, a), times(b, b)), f32x4.add(times(c, c), f32x4.splat(1e-30))));
    const scale = v128.and(f32x4.div(f32x4.splat(-1), length), f32x4.gt(w0, zero));
    const nx = v128.and(times(a, scale), f32x4.gt(w0, zero)), ny = v128.and(times(b, scale), f32x4.gt(w0, zero));
    const nz = v128.and(times(c, scale), f32x4.gt(w0, zero));
    const p = out + <usize>x * 12;
    store<f32>(p, f32x4.extract_lane(nx, 0));
    store<f32>(p, f32x4.extract_lane(ny, 0), 4);
    store<f32>(p, f32x4.extract_lane(nz, 0), 8);
    store<f32>(p, f32x4.extract_lane(nx, 1), 12);
    store<f32>(p, f32x4.extract_lane(ny, 1), 16);
    store<f32>(p, f32x4.extract_lane(nz, 1), 20);
    store<f32>(p, f32x4.extract_lane(nx, 2), 24);
    store<f32>(p, f32x4.extract_lane(ny, 2), 28);
    store<f32>(p, f32x4.extract_lane(nz, 2), 32);
    store<f32>(p, f32x4.extract_lane(nx, 3), 36);
    store<f32>(p, f32x4.extract_lane(ny, 3), 40);
    store<f32>(p, f32x4.extract_lane(nz, 3), 44);
  }
}
