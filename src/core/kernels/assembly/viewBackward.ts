// Colour backward: each surface of a pixel is looked up at its place in the plate. The readable twin is core/camera/viewBackward.ts.
import { AT_EDGE, backward, HAS_RIM, KEPT, NEAR_EDGE, placeQ, placeX, placeY, rf, ri, SAME, ViewPlan } from './viewPlan';

function rimAt(g: ViewPlan, i: i32): i32 {
  if (!(<u32>load<u8>(g.flags + <usize>i) & HAS_RIM)) return -1;
  const y = i / g.w;
  for (let k = ri(g.rimRow, y), end = ri(g.rimRow, y + 1); k < end; k++) if (ri(g.rimPixel, k) == i) return k;
  return -1;
}

let seenColour: v128 = f32x4.splat(0);
let seenCover: f32 = 0;

/** Beside an edge: taps of the same surface give colour and coverage, farther ones say that it ends, nearer ones have no vote. */
function lookBeside(g: ViewPlan, u: f32, v: f32, q: f32, id: i32): void {
  const w = g.w, tolerance = SAME * g.tau;
  const x0 = <i32>Mathf.floor(u), y0 = <i32>Mathf.floor(v), fu = u - <f32>x0, fv = v - <f32>y0;
  let votes: f32 = 0, cover: f32 = 0, sum = f32x4.splat(0);
  for (let k = 0; k < 4; k++) {
    const dx = k & 1, dy = k >> 1, p = (y0 + dy) * w + x0 + dx;
    const weight: f32 = (dx ? fu : 1 - fu) * (dy ? fv : 1 - fv);
    const front = rf(g.q, p), toFront = Mathf.abs(front - q);
    const hk = ri(g.hiddenAt, p), toHidden: f32 = hk >= 0 ? Mathf.abs(rf(g.hiddenQ, hk) - q) : f32.MAX_VALUE;
    const rk = rimAt(g, p), toRim: f32 = rk >= 0 ? Mathf.abs(rf(g.rimQ, rk) - q) : f32.MAX_VALUE;
    if (toFront > tolerance && toHidden > tolerance && toRim > tolerance) {
      if (front < q) votes += weight;
      continue;
    }
    let from: usize, share = weight;
    if (toFront <= toHidden && toFront <= toRim) from = g.colour + (<usize>p << 4);
    else if (toHidden <= toRim) from = g.hiddenColour + (<usize>hk << 4);
    else {
      from = g.rimColour + (<usize>rk << 4);
      share = weight * rf(g.rimCover, rk);
    }
    votes += weight;
    cover += share;
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(share), v128.load(from)));
  }
  if (cover > 1e-4) {
    seenColour = f32x4.mul(sum, f32x4.splat(1 / cover));
    seenCover = cover / votes;
    return;
  }
  const n = w * g.h;
  seenColour = v128.load(
    id < n ? g.colour + (<usize>id << 4) : id < n + g.hiddenCount ? g.hiddenColour + (<usize>(id - n) << 4) : g.rimColour + (<usize>(id - n - g.hiddenCount) << 4),
  );
  seenCover = 0;
}

@inline function inside(g: ViewPlan, u: f32, v: f32): v128 {
  const w = g.w, x0 = <i32>Mathf.floor(u), y0 = <i32>Mathf.floor(v), fu = u - <f32>x0, fv = v - <f32>y0, pitch = <usize>w << 4;
  if (!g.cubic) {
    const p = g.colour + (<usize>(y0 * w + x0) << 4);
    const top = f32x4.add(v128.load(p), f32x4.mul(f32x4.splat(fu), f32x4.sub(v128.load(p, 16), v128.load(p))));
    const b = p + pitch;
    const bottom = f32x4.add(v128.load(b), f32x4.mul(f32x4.splat(fu), f32x4.sub(v128.load(b, 16), v128.load(b))));
    return f32x4.add(top, f32x4.mul(f32x4.splat(fv), f32x4.sub(bottom, top)));
  }
  const gu: f32 = 1 - fu, gv: f32 = 1 - fv;
  const x_0: f32 = -0.5 * fu * gu * gu, x_1: f32 = (1.5 * fu - 2.5) * fu * fu + 1, x_3: f32 = -0.5 * gu * fu * fu;
  const k0 = f32x4.splat(x_0), k1 = f32x4.splat(x_1), k2 = f32x4.splat(1 - x_0 - x_1 - x_3), k3 = f32x4.splat(x_3);
  const y_0: f32 = -0.5 * fv * gv * gv, y_1: f32 = (1.5 * fv - 2.5) * fv * fv + 1, y_3: f32 = -0.5 * gv * fv * fv;
  let p = g.colour + (<usize>((y0 - 1) * w + x0 - 1) << 4), sum = f32x4.splat(0);
  for (let b = 0; b < 4; b++) {
    const row = f32x4.add(
      f32x4.add(f32x4.mul(k0, v128.load(p)), f32x4.mul(k1, v128.load(p, 16))),
      f32x4.add(f32x4.mul(k2, v128.load(p, 32)), f32x4.mul(k3, v128.load(p, 48))),
    );
    const wy: f32 = b == 0 ? y_0 : b == 1 ? y_1 : b == 2 ? 1 - y_0 - y_1 - y_3 : y_3;
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(wy), row));
    p += pitch;
  }
  return sum;
}

export function shade(g: ViewPlan): void {
  const w = g.w, n = w * g.h, guard = g.cubic ? NEAR_EDGE : AT_EDGE, zero = f32x4.splat(0);
  for (let y = g.y0; y < g.y1; y++)
    for (let x = 0; x < g.width; x++) {
      const o = (y - g.y0) * g.width + x, at = <usize>o * 12;
      const nearest = load<i32>(g.bandId + at);
      if (nearest < 0) continue;
      let left: f32 = 1, far = load<f32>(g.bandQ + at), sum = zero;
      for (let k = 0; k < KEPT; k++) {
        const id = load<i32>(g.bandId + at + (<usize>k << 2));
        if (id < 0) break;
        const q = load<f32>(g.bandQ + at + (<usize>k << 2));
        const i = id < n ? id : id < n + g.hiddenCount ? ri(g.hiddenPixel, id - n) : ri(g.rimPixel, id - n - g.hiddenCount);
        const yi = i / w, xi = i - yi * w;
        if (!backward(g, <f32>x + 0.5, <f32>y + 0.5, q)) break;
        let u = placeX - 0.5, v = placeY - 0.5;
        const fx = <f32>xi, fy = <f32>yi;
        u = u < fx - 1 ? fx - 1 : u > fx + 1 ? fx + 1 : u;
        v = v < fy - 1 ? fy - 1 : v > fy + 1 ? fy + 1 : v;
        if (k == 0 && id < n && !(<u32>load<u8>(g.flags + <usize>i) & guard)) {
          sum = inside(g, u, v);
          break;
        }
        lookBeside(g, u, v, placeQ, id);
        const last = k == KEPT - 1 || load<i32>(g.bandId + at + (<usize>(k + 1) << 2)) < 0;
        const share: f32 = last ? left : left * seenCover;
        sum = f32x4.add(sum, f32x4.mul(f32x4.splat(share), seenColour));
        if (left > 0.5) far = q;
        left -= share;
        if (left < 0.002) break;
      }
      sum = f32x4.max(sum, zero);
      const alpha = f32x4.extract_lane(sum, 3);
      const light = f32x4.mul(sum, sum);
      v128.store(g.out + (<usize>o << 4), alpha > 0.9999 ? f32x4.replace_lane(light, 3, 1) : light);
      store<f32>(g.distance + (<usize>o << 2), 1 / far);
      store<u8>(g.uncovered + <usize>o, nearest >= n && nearest < n + g.hiddenCount ? 1 : 0);
    }
}

/** What no surface reached takes what is beside it in its row, on the far side. */
export function fillLeft(g: ViewPlan): void {
  const width = g.width;
  for (let y = 0; y < g.y1 - g.y0; y++) {
    const first = y * width;
    for (let x = 0; x < width; x++) {
      if (load<i32>(g.bandId + <usize>(first + x) * 12) >= 0) continue;
      let end = x;
      while (end < width && load<i32>(g.bandId + <usize>(first + end) * 12) < 0) end++;
      const before: f32 = x > 0 ? load<f32>(g.bandQ + <usize>(first + x - 1) * 12) : f32.MAX_VALUE;
      const after: f32 = end < width ? load<f32>(g.bandQ + <usize>(first + end) * 12) : f32.MAX_VALUE;
      const from = before <= after ? x - 1 : end, found = from >= 0 && from < width;
      const s = first + from;
      for (let a = x; a < end; a++) {
        const o = first + a;
        v128.store(g.out + (<usize>o << 4), found ? v128.load(g.out + (<usize>s << 4)) : f32x4.splat(0));
        store<f32>(g.distance + (<usize>o << 2), found ? load<f32>(g.distance + (<usize>s << 2)) : <f32>Infinity);
        store<u8>(g.uncovered + <usize>o, 1);
      }
      x = end;
    }
  }
}
