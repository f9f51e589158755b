// Depth forward: every pixel of every surface becomes a rectangle of the view. The readable twin is core/camera/viewForward.ts.
import { fill, splat } from './viewCells';
import { hiddenPlane, placeHidden, placeNoneHidden } from './viewHidden';
import {
  END, forward, HIDDEN_BELOW, HIDDEN_RIGHT, INNER4, JOINED_BELOW, JOINED_RIGHT, max, placeQ, placeX, placeY, rf, ri, SOFT, SOFT_HIDDEN, ViewPlan, whole,
} from './viewPlan';

/** Figures of four pixels, on their way to being taken one by one. */
const LANES = memory.data(96, 16);

/**
 * As `pixel` for four pixels of a row that are joined to all their neighbours, by the same figures; false where one of them needs a closer
 * look. `p`, `a` and `b` are the places of the first in its row and in those above and below.
 */
@inline function four(g: ViewPlan, i: i32, p: usize, a: usize, b: usize, pitch: usize): bool {
  const q = v128.load(p + 2 * pitch), zero = f32x4.splat(0), half4 = f32x4.splat(0.5);
  const ql = v128.load(p + 2 * pitch - 4), qr = v128.load(p + 2 * pitch + 4), qa = v128.load(a + 2 * pitch), qb = v128.load(b + 2 * pitch);
  const least = f32x4.pmin(q, f32x4.pmin(f32x4.pmin(ql, qr), f32x4.pmin(qa, qb)));
  const x = v128.load(p), y = v128.load(p + pitch), s = v128.load(p + 3 * pitch), margin = f32x4.mul(f32x4.splat(3), s);
  const beside = v128.or(
    v128.or(f32x4.lt(x, f32x4.neg(margin)), f32x4.lt(y, f32x4.sub(f32x4.splat(<f32>g.y0), margin))),
    v128.or(f32x4.gt(x, f32x4.add(f32x4.splat(<f32>g.width), margin)), f32x4.gt(y, f32x4.add(f32x4.splat(<f32>g.y1), margin))),
  );
  if (i32x4.all_true(v128.or(beside, f32x4.lt(q, zero)))) return true;
  if (v128.any_true(v128.or(beside, f32x4.lt(least, zero)))) return false;
  const toLeft = f32x4.sub(x, v128.load(p - 4)), toRight = f32x4.sub(v128.load(p + 4), x);
  const toAbove = f32x4.sub(y, v128.load(a + pitch)), toBelow = f32x4.sub(v128.load(b + pitch), y);
  const xu = f32x4.mul(half4, f32x4.add(toRight, toLeft)), yv = f32x4.mul(half4, f32x4.add(toBelow, toAbove));
  const yl = v128.load(p + pitch - 4), yr = v128.load(p + pitch + 4), xa = v128.load(a), xb = v128.load(b);
  const yu = f32x4.mul(half4, f32x4.sub(f32x4.add(f32x4.sub(yr, y), y), yl));
  const qu = f32x4.mul(half4, f32x4.sub(f32x4.add(f32x4.sub(qr, q), q), ql));
  const xv = f32x4.mul(half4, f32x4.sub(f32x4.add(f32x4.sub(xb, x), x), xa));
  const qv = f32x4.mul(half4, f32x4.sub(f32x4.add(f32x4.sub(qb, q), q), qa));
  const det = f32x4.sub(f32x4.mul(xu, yv), f32x4.mul(xv, yu));
  if (!i32x4.all_true(f32x4.gt(det, f32x4.mul(f32x4.mul(f32x4.splat(0.1), s), s)))) return false;
  const over = f32x4.div(f32x4.splat(1), det);
  const slopeX = f32x4.mul(f32x4.sub(f32x4.mul(qu, yv), f32x4.mul(qv, yu)), over);
  const slopeY = f32x4.mul(f32x4.sub(f32x4.mul(qv, xu), f32x4.mul(qu, xv)), over);
  const overX = f32x4.mul(f32x4.abs(xv), half4), overY = f32x4.mul(f32x4.abs(yu), half4);
  const left = f32x4.sub(x, f32x4.add(f32x4.mul(toLeft, half4), overX)), right = f32x4.add(x, f32x4.add(f32x4.mul(toRight, half4), overX));
  const top = f32x4.sub(y, f32x4.add(f32x4.mul(toAbove, half4), overY)), bottom = f32x4.add(y, f32x4.add(f32x4.mul(toBelow, half4), overY));
  const fromX = whole(f32x4.ceil(f32x4.sub(left, f32x4.splat(0.52))));
  const toX = i32x4.sub(whole(f32x4.ceil(f32x4.sub(right, f32x4.splat(0.48)))), i32x4.splat(1));
  const fromY = whole(f32x4.ceil(f32x4.sub(top, f32x4.splat(0.52))));
  const toY = i32x4.sub(whole(f32x4.ceil(f32x4.sub(bottom, f32x4.splat(0.48)))), i32x4.splat(1));
  // as a rule they go to four cells side by side that nothing else reached yet, or the same surface
  const column = i32x4.extract_lane(fromX, 0), line = i32x4.extract_lane(fromY, 0);
  const apart = v128.or(
    v128.or(v128.xor(fromX, toX), v128.xor(fromY, toY)),
    v128.or(v128.xor(fromX, i32x4.add(i32x4.splat(column), i32x4(0, 1, 2, 3))), v128.xor(fromY, i32x4.splat(line))),
  );
  if (!v128.any_true(apart) && column >= 0 && column + 4 <= g.width && line >= g.y0 && line < g.y1) {
    const at = <usize>((line - g.y0) * g.width + column) << 2, Q = g.bandQ + at, I = g.bandId + at;
    const row = f32x4.add(q, f32x4.mul(f32x4.sub(f32x4.splat(<f32>line + 0.5), y), slopeY));
    const cells = f32x4.add(f32x4.add(f32x4.splat(<f32>column), f32x4(0, 1, 2, 3)), half4);
    const v = f32x4.pmax(zero, f32x4.add(row, f32x4.mul(f32x4.sub(cells, x), slopeX)));
    const q0 = v128.load(Q), i0 = v128.load(I), tau = f32x4.splat(g.tau);
    const over = v128.and(f32x4.gt(v, q0), v128.or(f32x4.le(f32x4.sub(v, q0), tau), i32x4.lt_s(i0, i32x4.splat(0))));
    const under = v128.andnot(f32x4.le(f32x4.sub(q0, v), tau), f32x4.gt(v, q0));
    if (i32x4.all_true(v128.or(over, under))) {
      v128.store(Q, v128.bitselect(v, q0, over));
      v128.store(I, v128.bitselect(i32x4.add(i32x4.splat(i), i32x4(0, 1, 2, 3)), i0, over));
      return true;
    }
  }
  v128.store(LANES, fromX);
  v128.store(LANES, toX, 16);
  v128.store(LANES, fromY, 32);
  v128.store(LANES, toY, 48);
  v128.store(LANES, slopeX, 64);
  v128.store(LANES, slopeY, 80);
  for (let k: usize = 0; k < 16; k += 4) {
    const at = LANES + k;
    fill(
      g, i, load<i32>(at), load<i32>(at, 16), load<i32>(at, 32), load<i32>(at, 48), load<f32>(p + k), load<f32>(p + pitch + k),
      load<f32>(p + 2 * pitch + k), load<f32>(at, 64), load<f32>(at, 80),
    );
    i++;
  }
  return true;
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

/** Half the way from a hidden pixel to a neighbour of its surface; `plane`: which of the places counts, `forth`: 1 or −1. */
@inline function half(g: ViewPlan, j: i32, joined: u32, forth: f32, plane: usize, from: f32, s: f32): f32 {
  if (!joined) return s / 2 + SOFT_HIDDEN * s;
  const at = g.hiddenPlace + (<usize>ri(g.hiddenAt, j) << 2);
  if (load<f32>(at + 2 * hiddenPlane(g)) < 0) return s / 2 + SOFT_HIDDEN * s;
  return ((load<f32>(at + plane) - from) * forth) / 2;
}

export function project(g: ViewPlan): void {
  const w = g.w, h = g.h, n = w * h, pitch = <usize>w << 2;
  made0 = made1 = made2 = -1;
  placeNoneHidden();
  const plane = hiddenPlane(g);
  const zoom: f32 = g.f2 / g.f;
  for (let y = END; y < h - END; y++) {
    if (!mayBeSeen(g, y)) continue;
    const here = rowOf(g, y), above = rowOf(g, y - 1), below = rowOf(g, y + 1);
    let i = y * w + END;
    for (let x = END; x < w - END; x++, i++) {
      const o = <usize>x << 2, p = here + o;
      if (x + 4 <= w - END && (load<u32>(g.flags + <usize>i) & INNER4) == INNER4 && four(g, i, p, above + o, below + o, pitch)) {
        x += 3;
        i += 3;
        continue;
      }
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
    placeHidden(g, y + 1);
    for (let k = ri(g.hiddenRow, y), end = ri(g.hiddenRow, y + 1); k < end; k++) {
      const j = ri(g.hiddenPixel, k), x = j - y * w;
      if (x < END || x >= w - END) continue;
      const q = rf(g.hiddenQ, k);
      const at = g.hiddenPlace + (<usize>k << 2), v = load<f32>(at + 2 * plane);
      if (v < 0) continue;
      const px = load<f32>(at), py = load<f32>(at + plane), s: f32 = q > 0 ? (zoom * v) / q : zoom, margin: f32 = 3 * s;
      if (px < -margin || py < <f32>g.y0 - margin || px > <f32>g.width + margin || py > <f32>g.y1 + margin) continue;
      const f = <u32>load<u8>(g.flags + <usize>j);
      const right = half(g, j + 1, f & HIDDEN_RIGHT, 1, 0, px, s);
      const left = half(g, j - 1, <u32>load<u8>(g.flags + <usize>j - 1) & HIDDEN_RIGHT, -1, 0, px, s);
      const bottom = half(g, j + w, f & HIDDEN_BELOW, 1, plane, py, s);
      const top = half(g, j - w, <u32>load<u8>(g.flags + <usize>(j - w)) & HIDDEN_BELOW, -1, plane, py, s);
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
