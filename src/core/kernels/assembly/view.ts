// A view of a layered plate: depth forward, colour backward. The readable twin is core/camera/viewTwin.ts; both follow the same steps.
const KEPT: i32 = 3;
const END: i32 = 3;
const SOFT: f32 = 0.5;
const SOFT_HIDDEN: f32 = 0.05;
const SAME: f32 = 1.5;
const JOINED_RIGHT: u32 = 1;
const JOINED_BELOW: u32 = 2;
const HIDDEN_RIGHT: u32 = 4;
const HIDDEN_BELOW: u32 = 8;
const NEAR_EDGE: u32 = 16;
const AT_EDGE: u32 = 32;
const HAS_RIM: u32 = 64;

/** What one call works on. The host writes these words in this order (see viewHost.ts). */
@unmanaged
class ViewPlan {
  /** the view, and its rows from y0 to y1 − 1 */
  width: i32;
  y0: i32;
  y1: i32;
  cubic: i32;
  /** the padded plate */
  w: i32;
  h: i32;
  hiddenCount: i32;
  rimCount: i32;
  tau: f32;
  f: f32;
  f2: f32;
  cx: f32;
  cy: f32;
  cx2: f32;
  cy2: f32;
  tx: f32;
  ty: f32;
  tz: f32;
  r0: f32;
  r1: f32;
  r2: f32;
  r3: f32;
  r4: f32;
  r5: f32;
  r6: f32;
  r7: f32;
  r8: f32;
  /** 1/f and 1/f2 */
  fi: f32;
  f2i: f32;
  q: usize;
  colour: usize;
  flags: usize;
  hiddenAt: usize;
  hiddenPixel: usize;
  hiddenQ: usize;
  hiddenColour: usize;
  hiddenRow: usize;
  rimPixel: usize;
  rimQ: usize;
  rimColour: usize;
  rimRow: usize;
  rimCover: usize;
  rowRange: usize;
  /** three rows of places: x, y, inverse distance and scale of each */
  rows: usize;
  bandQ: usize;
  bandId: usize;
  out: usize;
  distance: usize;
  uncovered: usize;
}

let placeX: f32 = 0;
let placeY: f32 = 0;
let placeQ: f32 = 0;

@inline function rf(p: usize, i: i32): f32 { return load<f32>(p + (<usize>i << 2)); }
@inline function ri(p: usize, i: i32): i32 { return load<i32>(p + (<usize>i << 2)); }
@inline function max(a: f32, b: f32): f32 { return a > b ? a : b; }

/** Where a point of the plate is seen; false behind the camera. */
function forward(g: ViewPlan, x: f32, y: f32, q: f32): bool {
  const a = (x - g.cx) * g.fi - g.tx * q, b = (y - g.cy) * g.fi - g.ty * q, c: f32 = 1.0 - g.tz * q;
  const depth = g.r6 * a + g.r7 * b + g.r8 * c;
  if (!(depth > 1e-6)) return false;
  const k: f32 = 1 / depth;
  placeX = g.cx2 + g.f2 * (g.r0 * a + g.r1 * b + g.r2 * c) * k;
  placeY = g.cy2 + g.f2 * (g.r3 * a + g.r4 * b + g.r5 * c) * k;
  placeQ = q * k;
  return true;
}

/** Where in the plate a point of the view comes from. */
@inline function backward(g: ViewPlan, x: f32, y: f32, q: f32): bool {
  const u = (x - g.cx2) * g.f2i, v = (y - g.cy2) * g.f2i;
  const depth = g.r2 * u + g.r5 * v + g.r8 + g.tz * q;
  if (!(depth > 1e-6)) return false;
  const k: f32 = 1 / depth;
  placeX = g.cx + g.f * (g.r0 * u + g.r3 * v + g.r6 + g.tx * q) * k;
  placeY = g.cy + g.f * (g.r1 * u + g.r4 * v + g.r7 + g.ty * q) * k;
  placeQ = q * k;
  return true;
}

/** Puts a surface into the cells of a rectangle. */
@inline function splat(
  g: ViewPlan, id: i32, left: f32, right: f32, top: f32, bottom: f32, x: f32, y: f32, q: f32, slopeX: f32, slopeY: f32,
): void {
  const tau = g.tau;
  let fromX = <i32>Mathf.ceil(left - 0.52), toX = <i32>Mathf.ceil(right - 0.48) - 1;
  let fromY = <i32>Mathf.ceil(top - 0.52), toY = <i32>Mathf.ceil(bottom - 0.48) - 1;
  if (fromX < 0) fromX = 0;
  if (toX > g.width - 1) toX = g.width - 1;
  if (fromY < g.y0) fromY = g.y0;
  if (toY > g.y1 - 1) toY = g.y1 - 1;
  for (let b = fromY; b <= toY; b++) {
    const row = q + (<f32>b + 0.5 - y) * slopeY;
    const first = <usize>((b - g.y0) * g.width) * 12;
    for (let a = fromX; a <= toX; a++) {
      const v = max(0, row + (<f32>a + 0.5 - x) * slopeX);
      const at = first + <usize>a * 12, Q = g.bandQ + at, I = g.bandId + at;
      const q0 = load<f32>(Q);
      if (v > q0) {
        const i0 = load<i32>(I);
        if (v - q0 > tau && i0 >= 0) {
          store<f32>(Q, load<f32>(Q, 4), 8);
          store<i32>(I, load<i32>(I, 4), 8);
          store<f32>(Q, q0, 4);
          store<i32>(I, i0, 4);
        }
        store<f32>(Q, v);
        store<i32>(I, id);
      } else if (q0 - v > tau) {
        const q1 = load<f32>(Q, 4);
        if (v > q1) {
          const i1 = load<i32>(I, 4);
          if (v - q1 > tau && i1 >= 0) {
            store<f32>(Q, q1, 8);
            store<i32>(I, i1, 8);
          }
          store<f32>(Q, v, 4);
          store<i32>(I, id, 4);
        } else if (v > load<f32>(Q, 8) && q1 - v > tau) {
          store<f32>(Q, v, 8);
          store<i32>(I, id, 8);
        }
      }
    }
  }
}

/** Where the pixels of one row are seen, four at a time: x, y, inverse distance (−1 behind the camera) and scale, a row each. */
function warpRow(g: ViewPlan, row: i32, into: usize): void {
  const w = g.w, pitch = <usize>w << 2;
  const fy: f32 = (<f32>row + 0.5 - g.cy) / g.f, zoom: f32 = g.f2 / g.f, inverse: f32 = 1 / g.f;
  const source = g.q + (<usize>(row * w) << 2);
  let x = 0;
  const lanes = f32x4(0, 1, 2, 3), one = f32x4.splat(1), least = f32x4.splat(1e-6), behind = f32x4.splat(-1);
  for (; x + 4 <= w; x += 4) {
    const v = v128.load(source + (<usize>x << 2));
    const a = f32x4.sub(f32x4.mul(f32x4.add(f32x4.splat(<f32>x + 0.5 - g.cx), lanes), f32x4.splat(inverse)), f32x4.mul(f32x4.splat(g.tx), v));
    const b = f32x4.sub(f32x4.splat(fy), f32x4.mul(f32x4.splat(g.ty), v));
    const c = f32x4.sub(one, f32x4.mul(f32x4.splat(g.tz), v));
    const depth = f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(g.r6), a), f32x4.mul(f32x4.splat(g.r7), b)), f32x4.mul(f32x4.splat(g.r8), c));
    const seen = f32x4.gt(depth, least);
    const k = f32x4.div(one, depth);
    const px = f32x4.add(f32x4.mul(f32x4.splat(g.r0), a), f32x4.add(f32x4.mul(f32x4.splat(g.r1), b), f32x4.mul(f32x4.splat(g.r2), c)));
    const py = f32x4.add(f32x4.mul(f32x4.splat(g.r3), a), f32x4.add(f32x4.mul(f32x4.splat(g.r4), b), f32x4.mul(f32x4.splat(g.r5), c)));
    const p = into + (<usize>x << 2), scale = f32x4.mul(f32x4.splat(g.f2), k);
    v128.store(p, f32x4.add(f32x4.splat(g.cx2), f32x4.mul(px, scale)));
    v128.store(p + pitch, f32x4.add(f32x4.splat(g.cy2), f32x4.mul(py, scale)));
    v128.store(p + 2 * pitch, v128.bitselect(f32x4.mul(v, k), behind, seen));
    v128.store(p + 3 * pitch, f32x4.mul(f32x4.splat(zoom), k));
  }
  for (; x < w; x++) {
    const v = load<f32>(source + (<usize>x << 2)), p = into + (<usize>x << 2);
    if (!forward(g, <f32>x + 0.5, <f32>row + 0.5, v)) {
      store<f32>(p + 2 * pitch, -1);
      continue;
    }
    const depth: f32 = g.r6 * ((<f32>x + 0.5 - g.cx) / g.f - g.tx * v) + g.r7 * (fy - g.ty * v) + g.r8 * (1 - g.tz * v);
    store<f32>(p, placeX);
    store<f32>(p + pitch, placeY);
    store<f32>(p + 2 * pitch, placeQ);
    store<f32>(p + 3 * pitch, zoom / depth);
  }
}

/** Whether anything of a row may be seen in the band. */
function mayBeSeen(g: ViewPlan, row: i32): bool {
  let least: f32 = f32.MAX_VALUE, most: f32 = -f32.MAX_VALUE, scale: f32 = 1;
  for (let corner = 0; corner < 8; corner++) {
    const q = rf(g.rowRange, row * 2 + (corner >> 2));
    if (!forward(g, corner & 1 ? <f32>g.w : 0, <f32>(corner & 2 ? row + 2 : row - 1), q)) return true;
    if (placeY < least) least = placeY;
    if (placeY > most) most = placeY;
    if (q > 0) scale = max(scale, (g.f2 / g.f) * (placeQ / q));
  }
  return most + 3 * scale >= <f32>g.y0 && least - 3 * scale <= <f32>g.y1;
}

let made0: i32 = -1;
let made1: i32 = -1;
let made2: i32 = -1;

function rowOf(g: ViewPlan, y: i32): usize {
  const k = y % 3, at = g.rows + (<usize>(k * g.w) << 4);
  const made = k == 0 ? made0 : k == 1 ? made1 : made2;
  if (made != y) {
    warpRow(g, y, at);
    if (k == 0) made0 = y;
    else if (k == 1) made1 = y;
    else made2 = y;
  }
  return at;
}

/** Half the way from a hidden pixel to a neighbour of its surface. */
function half(g: ViewPlan, j: i32, joined: u32, x: i32, y: i32, dx: i32, dy: i32, px: f32, py: f32, s: f32): f32 {
  if (!joined || !forward(g, <f32>(x + dx) + 0.5, <f32>(y + dy) + 0.5, rf(g.hiddenQ, ri(g.hiddenAt, j)))) return s / 2 + SOFT_HIDDEN * s;
  return (dx ? (placeX - px) * <f32>dx : (placeY - py) * <f32>dy) / 2;
}

function project(g: ViewPlan): void {
  const w = g.w, h = g.h, n = w * h, pitch = <usize>w << 2;
  made0 = made1 = made2 = -1;
  const zoom: f32 = g.f2 / g.f;
  for (let y = END; y < h - END; y++) {
    if (!mayBeSeen(g, y)) continue;
    const here = rowOf(g, y), above = rowOf(g, y - 1), below = rowOf(g, y + 1);
    let i = y * w + END;
    for (let x = END; x < w - END; x++, i++) {
      const o = <usize>x << 2, p = here + o;
      const q = load<f32>(p + 2 * pitch);
      if (q < 0) continue;
      const px = load<f32>(p), py = load<f32>(p + pitch), s = load<f32>(p + 3 * pitch), margin: f32 = 3 * s;
      if (px < -margin || py < <f32>g.y0 - margin || px > <f32>g.width + margin || py > <f32>g.y1 + margin) continue;
      const f = <u32>load<u8>(g.flags + <usize>i);
      const joinedLeft = (<u32>load<u8>(g.flags + <usize>i - 1) & JOINED_RIGHT) != 0 && load<f32>(p + 2 * pitch - 4) >= 0;
      const joinedRight = (f & JOINED_RIGHT) != 0 && load<f32>(p + 2 * pitch + 4) >= 0;
      const joinedAbove = (<u32>load<u8>(g.flags + <usize>(i - w)) & JOINED_BELOW) != 0 && load<f32>(above + o + 2 * pitch) >= 0;
      const joinedBelow = (f & JOINED_BELOW) != 0 && load<f32>(below + o + 2 * pitch) >= 0;
      let dl: f32 = 0, dr: f32 = 0, du: f32 = 0, dd: f32 = 0;
      let xu: f32 = 0, yu: f32 = 0, qu: f32 = 0, xv: f32 = 0, yv: f32 = 0, qv: f32 = 0;
      if (joinedRight) {
        xu = load<f32>(p + 4) - px;
        yu = load<f32>(p + pitch + 4) - py;
        qu = load<f32>(p + 2 * pitch + 4) - q;
        dr = xu / 2;
      }
      if (joinedLeft) {
        const to = px - load<f32>(p - 4), part: f32 = joinedRight ? 0.5 : 1;
        dl = to / 2;
        xu = part * (xu + to);
        yu = part * (yu + py - load<f32>(p + pitch - 4));
        qu = part * (qu + q - load<f32>(p + 2 * pitch - 4));
      }
      if (joinedBelow) {
        xv = load<f32>(below + o) - px;
        yv = load<f32>(below + o + pitch) - py;
        qv = load<f32>(below + o + 2 * pitch) - q;
        dd = yv / 2;
      }
      if (joinedAbove) {
        const to = py - load<f32>(above + o + pitch), part: f32 = joinedBelow ? 0.5 : 1;
        du = to / 2;
        xv = part * (xv + px - load<f32>(above + o));
        yv = part * (yv + to);
        qv = part * (qv + q - load<f32>(above + o + 2 * pitch));
      }
      const det = xu * yv - xv * yu;
      let slopeX: f32 = 0, slopeY: f32 = 0;
      if (det > 0.1 * s * s) {
        const over: f32 = 1 / det;
        slopeX = (qu * yv - qv * yu) * over;
        slopeY = (qv * xu - qu * xv) * over;
      } else {
        if (xu > 0.25 * s) slopeX = qu / xu;
        if (yv > 0.25 * s) slopeY = qv / yv;
      }
      const overX: f32 = Mathf.abs(xv) / 2, overY: f32 = Mathf.abs(yu) / 2;
      const right: f32 = joinedRight ? dr + overX : (joinedLeft && dl > 0 ? dl : s / 2) + SOFT * s;
      const left: f32 = joinedLeft ? dl + overX : (joinedRight && xu > 0 ? xu / 2 : s / 2) + SOFT * s;
      const bottom: f32 = joinedBelow ? dd + overY : (joinedAbove && du > 0 ? du : s / 2) + SOFT * s;
      const top: f32 = joinedAbove ? du + overY : (joinedBelow && yv > 0 ? yv / 2 : s / 2) + SOFT * s;
      splat(g, i, px - left, px + right, py - top, py + bottom, px, py, q, slopeX, slopeY);
    }
    for (let k = ri(g.hiddenRow, y), end = ri(g.hiddenRow, y + 1); k < end; k++) {
      const j = ri(g.hiddenPixel, k), x = j - y * w;
      if (x < END || x >= w - END) continue;
      const q = rf(g.hiddenQ, k);
      if (!forward(g, <f32>x + 0.5, <f32>y + 0.5, q)) continue;
      const px = placeX, py = placeY, v = placeQ, s: f32 = q > 0 ? (zoom * v) / q : zoom, margin: f32 = 3 * s;
      if (px < -margin || py < <f32>g.y0 - margin || px > <f32>g.width + margin || py > <f32>g.y1 + margin) continue;
      const f = <u32>load<u8>(g.flags + <usize>j);
      const right = half(g, j + 1, f & HIDDEN_RIGHT, x, y, 1, 0, px, py, s);
      const left = half(g, j - 1, <u32>load<u8>(g.flags + <usize>j - 1) & HIDDEN_RIGHT, x, y, -1, 0, px, py, s);
      const bottom = half(g, j + w, f & HIDDEN_BELOW, x, y, 0, 1, px, py, s);
      const top = half(g, j - w, <u32>load<u8>(g.flags + <usize>(j - w)) & HIDDEN_BELOW, x, y, 0, -1, px, py, s);
      splat(g, n + k, px - left, px + right, py - top, py + bottom, px, py, v, 0, 0);
    }
    for (let k = ri(g.rimRow, y), end = ri(g.rimRow, y + 1); k < end; k++) {
      const x = ri(g.rimPixel, k) - y * w;
      const q = rf(g.rimQ, k);
      if (x < END || x >= w - END || !forward(g, <f32>x + 0.5, <f32>y + 0.5, q)) continue;
      const s: f32 = (zoom * placeQ) / max(1e-9, q), d: f32 = s / 2 + SOFT * s;
      const px = placeX, py = placeY;
      splat(g, n + g.hiddenCount + k, px - d, px + d, py - d, py + d, px, py, placeQ, 0, 0);
    }
  }
}

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

function shade(g: ViewPlan): void {
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
function fillLeft(g: ViewPlan): void {
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

/** Makes the rows of a view that its plan names. */
export function viewRows(plan: usize): void {
  const g = changetype<ViewPlan>(plan);
  const count = <usize>((g.y1 - g.y0) * g.width) * 12;
  memory.fill(g.bandId, 0xff, count);
  for (let p = g.bandQ, end = g.bandQ + count; p < end; p += 4) store<f32>(p, -1);
  project(g);
  shade(g);
  fillLeft(g);
}
