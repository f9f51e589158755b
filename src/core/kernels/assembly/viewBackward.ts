// Colour backward: each surface of a pixel is looked up at its place in the plate. The readable twin is core/camera/viewBackward.ts.
import { AT_EDGE, backward, HAS_RIM, HAS_RIMS, KEPT, lane0, lane1, lane2, lane3, NEAR_EDGE, placeQ, placeX, placeY, planeOf, rf, ri, SAME, ViewPlan, whole } from './viewPlan';

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
  const w = g.w;
  const x0 = <i32>Mathf.floor(u), y0 = <i32>Mathf.floor(v), fu = u - <f32>x0, fv = v - <f32>y0;
  const p0 = y0 * w + x0, p2 = p0 + w;
  if ((load<u16>(g.flags + <usize>p0) | load<u16>(g.flags + <usize>p2)) & HAS_RIMS) {
    lookAtRims(g, u, v, q, id);
    return;
  }
  const gu: f32 = 1 - fu, gv: f32 = 1 - fv;
  const weights = f32x4.mul(f32x4(gu, fu, gu, fu), f32x4(gv, gv, fv, fv));
  const front = square(g.q, p0, p2), hidden = square(g.hiddenAt, p0, p2), here = f32x4.splat(q);
  const tolerance = f32x4.splat(SAME * g.tau), toFront = f32x4.abs(f32x4.sub(front, here));
  let from0 = g.colour + (<usize>p0 << 4), from1 = from0 + 16, from2 = g.colour + (<usize>p2 << 4), from3 = from2 + 16;
  let same = f32x4.le(toFront, tolerance);
  const none = i32x4.lt_s(hidden, i32x4.splat(0));
  if (!i32x4.all_true(none)) {
    // what lies at no place is read at the first, and not taken
    const at = v128.andnot(hidden, none);
    const h0 = i32x4.extract_lane(at, 0), h1 = i32x4.extract_lane(at, 1), h2 = i32x4.extract_lane(at, 2), h3 = i32x4.extract_lane(at, 3);
    const behind = f32x4(rf(g.hiddenQ, h0), rf(g.hiddenQ, h1), rf(g.hiddenQ, h2), rf(g.hiddenQ, h3));
    const toHidden = v128.or(f32x4.abs(f32x4.sub(behind, here)), v128.and(none, f32x4.splat(f32.MAX_VALUE)));
    const takes = v128.andnot(f32x4.lt(toHidden, toFront), none);
    if (i32x4.extract_lane(takes, 0)) from0 = g.hiddenColour + (<usize>h0 << 4);
    if (i32x4.extract_lane(takes, 1)) from1 = g.hiddenColour + (<usize>h1 << 4);
    if (i32x4.extract_lane(takes, 2)) from2 = g.hiddenColour + (<usize>h2 << 4);
    if (i32x4.extract_lane(takes, 3)) from3 = g.hiddenColour + (<usize>h3 << 4);
    same = v128.or(same, v128.and(takes, f32x4.le(toHidden, tolerance)));
  }
  const shares = v128.and(weights, same), voting = v128.and(weights, v128.or(same, f32x4.lt(front, here)));
  const cover = sumOf(shares);
  if (cover > 1e-4) {
    let sum = f32x4.mul(lane0(shares), v128.load(from0));
    sum = f32x4.add(sum, f32x4.mul(lane1(shares), v128.load(from1)));
    sum = f32x4.add(sum, f32x4.mul(lane2(shares), v128.load(from2)));
    sum = f32x4.add(sum, f32x4.mul(lane3(shares), v128.load(from3)));
    seenColour = f32x4.mul(sum, f32x4.splat(1 / cover));
    seenCover = cover / sumOf(voting);
  } else alone(g, id);
}

/** Numbers of a pixel, the one right of it, and of two that follow each other in the next row. */
@inline function square(plane: usize, p0: i32, p2: i32): v128 {
  return v128.load64_lane(plane + (<usize>p2 << 2), v128.load64_zero(plane + (<usize>p0 << 2)), 1);
}

@inline function sumOf(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3);
}

/** No tap is of the surface: its own colour, covering nothing. */
function alone(g: ViewPlan, id: i32): void {
  const n = g.w * g.h;
  seenColour = v128.load(
    id < n ? g.colour + (<usize>id << 4) : id < n + g.hiddenCount ? g.hiddenColour + (<usize>(id - n) << 4) : g.rimColour + (<usize>(id - n - g.hiddenCount) << 4),
  );
  seenCover = 0;
}

/** As `lookBeside` where a tap has a rim. */
function lookAtRims(g: ViewPlan, u: f32, v: f32, q: f32, id: i32): void {
  const w = g.w, tolerance = SAME * g.tau;
  const x0 = <i32>Mathf.floor(u), y0 = <i32>Mathf.floor(v), fu = u - <f32>x0, fv = v - <f32>y0;
  let votes: f32 = 0, cover: f32 = 0, sum = f32x4.splat(0);
  for (let k = 0; k < 4; k++) {
    const dx = k & 1, dy = k >> 1, p = (y0 + dy) * w + x0 + dx;
    const weight: f32 = (dx ? fu : 1 - fu) * (dy ? fv : 1 - fv);
    const front = rf(g.q, p), toFront = Mathf.abs(front - q);
    const hk = ri(g.hiddenAt, p);
    const toHidden: f32 = hk >= 0 ? Mathf.abs(rf(g.hiddenQ, hk) - q) : f32.MAX_VALUE;
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
  alone(g, id);
}

/** The plate's colour inside a surface; `p` is the pixel that the place lies right of and below, by shares fu and fv of a pixel, in all lanes. */
@inline function inside(g: ViewPlan, p: i32, fu: v128, fv: v128): v128 {
  const w = g.w, pitch = <usize>w << 4;
  if (!g.cubic) {
    const a = g.colour + (<usize>p << 4), b = a + pitch;
    const top = f32x4.add(v128.load(a), f32x4.mul(fu, f32x4.sub(v128.load(a, 16), v128.load(a))));
    const bottom = f32x4.add(v128.load(b), f32x4.mul(fu, f32x4.sub(v128.load(b, 16), v128.load(b))));
    return f32x4.add(top, f32x4.mul(fv, f32x4.sub(bottom, top)));
  }
  const one = f32x4.splat(1), gu = f32x4.sub(one, fu), gv = f32x4.sub(one, fv), half = f32x4.splat(-0.5);
  const k0 = f32x4.mul(f32x4.mul(f32x4.mul(half, fu), gu), gu), k3 = f32x4.mul(f32x4.mul(f32x4.mul(half, gu), fu), fu);
  const k1 = middle(fu), k2 = f32x4.sub(f32x4.sub(f32x4.sub(one, k0), k1), k3);
  const y0 = f32x4.mul(f32x4.mul(f32x4.mul(half, fv), gv), gv), y3 = f32x4.mul(f32x4.mul(f32x4.mul(half, gv), fv), fv);
  const y1 = middle(fv), y2 = f32x4.sub(f32x4.sub(f32x4.sub(one, y0), y1), y3);
  const a = g.colour + (<usize>(p - w - 1) << 4);
  let sum = f32x4.mul(y0, rowOfTaps(a, k0, k1, k2, k3));
  sum = f32x4.add(sum, f32x4.mul(y1, rowOfTaps(a + pitch, k0, k1, k2, k3)));
  sum = f32x4.add(sum, f32x4.mul(y2, rowOfTaps(a + 2 * pitch, k0, k1, k2, k3)));
  return f32x4.add(sum, f32x4.mul(y3, rowOfTaps(a + 3 * pitch, k0, k1, k2, k3)));
}

/** What the nearer of the middle taps weighs. */
@inline function middle(t: v128): v128 {
  return f32x4.add(f32x4.mul(f32x4.mul(f32x4.sub(f32x4.mul(f32x4.splat(1.5), t), f32x4.splat(2.5)), t), t), f32x4.splat(1));
}

@inline function rowOfTaps(p: usize, k0: v128, k1: v128, k2: v128, k3: v128): v128 {
  return f32x4.add(
    f32x4.add(f32x4.mul(k0, v128.load(p)), f32x4.mul(k1, v128.load(p, 16))),
    f32x4.add(f32x4.mul(k2, v128.load(p, 32)), f32x4.mul(k3, v128.load(p, 48))),
  );
}

/** Which row a pixel of the padded plate is in; `over` is 1/w. */
@inline function rowOf(i: i32, over: f64): i32 { return <i32>((<f64>i + 0.5) * over); }

/** Squares of roots, and alpha that is all but whole made whole. */
@inline function keep(g: ViewPlan, o: i32, roots: v128): void {
  const sum = f32x4.pmax(f32x4.splat(0), roots);
  const opaque = v128.and(f32x4.gt(sum, f32x4.splat(0.9999)), i32x4(0, 0, 0, -1));
  v128.store(g.out + (<usize>o << 4), v128.bitselect(f32x4.splat(1), f32x4.mul(sum, sum), opaque));
}

/** One pixel: its surfaces are laid over each other by what they cover, nearest first. */
function pixel(g: ViewPlan, x: i32, y: i32, guard: u32, over: f64): void {
  const w = g.w, n = w * g.h;
  const o = (y - g.y0) * g.width + x, at = <usize>o << 2, plane = planeOf(g);
  const nearest = load<i32>(g.bandId + at);
  if (nearest < 0) return;
  let left: f32 = 1, far = load<f32>(g.bandQ + at), sum = f32x4.splat(0);
  for (let k = 0; k < KEPT; k++) {
    const id = load<i32>(g.bandId + at + <usize>k * plane);
    if (id < 0) break;
    const q = load<f32>(g.bandQ + at + <usize>k * plane);
    const i = id < n ? id : id < n + g.hiddenCount ? ri(g.hiddenPixel, id - n) : ri(g.rimPixel, id - n - g.hiddenCount);
    const yi = rowOf(i, over), xi = i - yi * w;
    if (!backward(g, <f32>x + 0.5, <f32>y + 0.5, q)) break;
    let u = placeX - 0.5, v = placeY - 0.5;
    const fx = <f32>xi, fy = <f32>yi;
    u = u < fx - 1 ? fx - 1 : u > fx + 1 ? fx + 1 : u;
    v = v < fy - 1 ? fy - 1 : v > fy + 1 ? fy + 1 : v;
    if (k == 0 && id < n && !(<u32>load<u8>(g.flags + <usize>i) & guard)) {
      const x0 = <i32>Mathf.floor(u), y0 = <i32>Mathf.floor(v);
      sum = inside(g, y0 * w + x0, f32x4.splat(u - <f32>x0), f32x4.splat(v - <f32>y0));
      break;
    }
    lookBeside(g, u, v, placeQ, id);
    const last = k == KEPT - 1 || load<i32>(g.bandId + at + <usize>(k + 1) * plane) < 0;
    const share: f32 = last ? left : left * seenCover;
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(share), seenColour));
    if (left > 0.5) far = q;
    left -= share;
    if (left < 0.002) break;
  }
  keep(g, o, sum);
  store<f32>(g.distance + (<usize>o << 2), 1 / far);
  store<u8>(g.uncovered + <usize>o, nearest >= n && nearest < n + g.hiddenCount ? 1 : 0);
}

/** Whether a pixel shows the inside of a surface of the front. */
@inline function plain(g: ViewPlan, id: i32, n: i32, guard: u32): bool {
  return <u32>id < <u32>n && !(<u32>load<u8>(g.flags + <usize>id) & guard);
}

/** As `pixel` for four pixels of a row that show the inside of surfaces, by the same figures; false where one of them needs a closer look. */
@inline function four(g: ViewPlan, x: i32, y: i32, n: i32, guard: u32): bool {
  const o = (y - g.y0) * g.width + x, at = <usize>o << 2, ids = v128.load(g.bandId + at);
  const first = i32x4.extract_lane(ids, 0);
  if (i32x4.all_true(i32x4.eq(ids, i32x4.add(i32x4.splat(first), i32x4(0, 1, 2, 3)))) && <u32>first < <u32>(n - 3)) {
    // side by side, as a rule
    if (load<u32>(g.flags + <usize>first) & (guard * 0x1010101)) return false;
  } else if (
    !plain(g, first, n, guard) || !plain(g, i32x4.extract_lane(ids, 1), n, guard) ||
    !plain(g, i32x4.extract_lane(ids, 2), n, guard) || !plain(g, i32x4.extract_lane(ids, 3), n, guard)
  ) return false;
  const w = g.w, one = f32x4.splat(1), q = v128.load(g.bandQ + at);
  const u = f32x4.mul(f32x4.sub(f32x4.add(f32x4.add(f32x4.splat(<f32>x), f32x4(0, 1, 2, 3)), f32x4.splat(0.5)), f32x4.splat(g.cx2)), f32x4.splat(g.f2i));
  const v: f32 = (<f32>y + 0.5 - g.cy2) * g.f2i;
  const depth = f32x4.add(f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(g.r2), u), f32x4.splat(g.r5 * v)), f32x4.splat(g.r8)), f32x4.mul(f32x4.splat(g.tz), q));
  if (!i32x4.all_true(f32x4.gt(depth, f32x4.splat(1e-6)))) return false;
  const k = f32x4.div(one, depth), f = f32x4.splat(g.f), half = f32x4.splat(0.5);
  const ax = f32x4.add(f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(g.r0), u), f32x4.splat(g.r3 * v)), f32x4.splat(g.r6)), f32x4.mul(f32x4.splat(g.tx), q));
  const ay = f32x4.add(f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(g.r1), u), f32x4.splat(g.r4 * v)), f32x4.splat(g.r7)), f32x4.mul(f32x4.splat(g.ty), q));
  const px = f32x4.sub(f32x4.add(f32x4.splat(g.cx), f32x4.mul(f32x4.mul(f, ax), k)), half);
  const py = f32x4.sub(f32x4.add(f32x4.splat(g.cy), f32x4.mul(f32x4.mul(f, ay), k)), half);
  const fx = f32x4.floor(px), fy = f32x4.floor(py);
  const p = i32x4.add(i32x4.mul(whole(fy), i32x4.splat(w)), whole(fx));
  // what is found lies beside the pixel that was put here: in its column or the one before, in its row or the one before
  const off = i32x4.sub(ids, p), below = i32x4.ge_s(off, i32x4.splat(w));
  if (v128.any_true(v128.and(i32x4.sub(off, v128.and(below, i32x4.splat(w))), i32x4.splat(~1)))) return false;
  const fu = f32x4.sub(px, fx), fv = f32x4.sub(py, fy);
  keep(g, o, inside(g, i32x4.extract_lane(p, 0), lane0(fu), lane0(fv)));
  keep(g, o + 1, inside(g, i32x4.extract_lane(p, 1), lane1(fu), lane1(fv)));
  keep(g, o + 2, inside(g, i32x4.extract_lane(p, 2), lane2(fu), lane2(fv)));
  keep(g, o + 3, inside(g, i32x4.extract_lane(p, 3), lane3(fu), lane3(fv)));
  v128.store(g.distance + (<usize>o << 2), f32x4.div(one, q));
  store<u32>(g.uncovered + <usize>o, 0);
  return true;
}

export function shade(g: ViewPlan): void {
  const guard = g.cubic ? NEAR_EDGE : AT_EDGE, n = g.w * g.h, over: f64 = 1 / <f64>g.w;
  for (let y = g.y0; y < g.y1; y++)
    for (let x = 0; x < g.width; x++) {
      if (x + 4 <= g.width && four(g, x, y, n, guard)) x += 3;
      else pixel(g, x, y, guard, over);
    }
}

/** What no surface reached takes what is beside it in its row, on the far side. */
export function fillLeft(g: ViewPlan): void {
  const width = g.width;
  for (let y = 0; y < g.y1 - g.y0; y++) {
    const first = y * width;
    for (let x = 0; x < width; x++) {
      if (ri(g.bandId, first + x) >= 0) continue;
      let end = x;
      while (end < width && ri(g.bandId, first + end) < 0) end++;
      const before: f32 = x > 0 ? rf(g.bandQ, first + x - 1) : f32.MAX_VALUE;
      const after: f32 = end < width ? rf(g.bandQ, first + end) : f32.MAX_VALUE;
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
