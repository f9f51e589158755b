import { expx4 } from './curves';
import { at, bilinear, rf, wf } from './planes';

// What clips are looked at and made steady with. The readable twins are in core/motion/motionTwin.ts.

// @ts-ignore: decorator
@inline
function pixel(p: usize): v128 {
  return f32x4.convert_i32x4_u(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(v128.load32_zero(p))));
}

/**
 * A picture of 4 bytes a pixel made small: means over what each pixel covers, as 3 bytes and as luma. `columns` and `rows` hold for each place
 * the first line it covers, `across` and `down` the shares of as many lines from there on, `most` of each. `line` and `sums` have room for a row.
 */
export function shrinkBytes(
  pixels: usize, w: i32, columns: usize, across: usize, mostAcross: i32, rows: usize, down: usize, mostDown: i32, width: i32, height: i32,
  line: usize, sums: usize, rgb: usize, luma: usize,
): void {
  let read = -1;
  for (let y = 0; y < height; y++) {
    memory.fill(sums, 0, <usize>width << 4);
    const first = load<i32>(at(rows, y));
    for (let j = 0; j < mostDown; j++) {
      const share = rf(down, y * mostDown + j);
      if (share == 0) break;
      if (first + j != read) {
        read = first + j;
        const from = pixels + (<usize>(read * w) << 2);
        for (let x = 0; x < width; x++) {
          let sum = f32x4.splat(0), p = from + (<usize>load<i32>(at(columns, x)) << 2), k = at(across, x * mostAcross);
          for (let i = 0; i < mostAcross; i++, p += 4, k += 4) sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(k), pixel(p)));
          v128.store(line + (<usize>x << 4), sum);
        }
      }
      const by = f32x4.splat(share);
      for (let x: usize = 0, end = <usize>width << 4; x < end; x += 16) {
        v128.store(sums + x, f32x4.add(v128.load(sums + x), f32x4.mul(by, v128.load(line + x))));
      }
    }
    for (let x = 0; x < width; x++) {
      const o = y * width + x, mean = v128.load(sums + (<usize>x << 4));
      const r = f32x4.extract_lane(mean, 0), g = f32x4.extract_lane(mean, 1), b = f32x4.extract_lane(mean, 2);
      wf(luma, o, <f32>0.299 * r + <f32>0.587 * g + <f32>0.114 * b);
      const to = rgb + <usize>(3 * o);
      store<u8>(to, <u8>(r + 0.5));
      store<u8>(to, <u8>(g + 0.5), 1);
      store<u8>(to, <u8>(b + 0.5), 2);
    }
  }
}

/** One way after another: `u`, `v` and `seen` of the first become those of both. */
export function chainWays(u: usize, v: usize, seen: usize, thenU: usize, thenV: usize, thenSeen: usize, w: i32, h: i32): void {
  const right = <f32>(w - 1), bottom = <f32>(h - 1);
  for (let y = 0, i = 0; y < h; y++) {
    for (let x = 0; x < w; x++, i++) {
      const ownU = rf(u, i), ownV = rf(v, i), tx = <f32>x + ownU, ty = <f32>y + ownV;
      wf(u, i, ownU + bilinear(thenU, w, h, tx, ty));
      wf(v, i, ownV + bilinear(thenV, w, h, tx, ty));
      if (!load<u8>(seen + <usize>i)) continue;
      const within = tx >= 0 && ty >= 0 && tx <= right && ty <= bottom;
      store<u8>(seen + <usize>i, within ? load<u8>(thenSeen + <usize>(<i32>(ty + 0.5) * w + <i32>(tx + 0.5))) : 0);
    }
  }
}

/** Adds what a map on another frame says along the way there, with its weight: by nearness in time, by whether it is seen, by likeness of luma (spread `like`). */
export function addAlong(
  u: usize, v: usize, seen: usize, map: usize, there: usize, here: usize, w: i32, h: i32, near: f32, hidden: f32, like: f32, sum: usize, total: usize,
): void {
  const fall = f32x4.splat(-1 / (2 * like * like));
  const n = w * h;
  let x = 0, y = 0;
  for (let i = 0; i < n; i += 4) {
    let value = f32x4.splat(0), luma = value, share = value;
    for (let j = 0; j < 4 && i + j < n; j++) {
      const k = i + j, tx = <f32>x + rf(u, k), ty = <f32>y + rf(v, k);
      const a = bilinear(map, w, h, tx, ty), b = bilinear(there, w, h, tx, ty), s = near * (<f32>load<u8>(seen + <usize>k) + hidden);
      // lanes are named by constants alone
      if (j == 0) { value = f32x4.replace_lane(value, 0, a); luma = f32x4.replace_lane(luma, 0, b); share = f32x4.replace_lane(share, 0, s); }
      else if (j == 1) { value = f32x4.replace_lane(value, 1, a); luma = f32x4.replace_lane(luma, 1, b); share = f32x4.replace_lane(share, 1, s); }
      else if (j == 2) { value = f32x4.replace_lane(value, 2, a); luma = f32x4.replace_lane(luma, 2, b); share = f32x4.replace_lane(share, 2, s); }
      else { value = f32x4.replace_lane(value, 3, a); luma = f32x4.replace_lane(luma, 3, b); share = f32x4.replace_lane(share, 3, s); }
      if (++x == w) { x = 0; y++; }
    }
    const off = f32x4.sub(luma, v128.load(at(here, i)));
    const weight = f32x4.add(f32x4.mul(share, expx4(f32x4.mul(fall, f32x4.mul(off, off)))), f32x4.splat(1e-6));
    v128.store(at(sum, i), f32x4.add(v128.load(at(sum, i)), f32x4.mul(weight, value)));
    v128.store(at(total, i), f32x4.add(v128.load(at(total, i)), weight));
  }
}

/**
 * A running mean carried on by a frame, along the way to the frame before: its values, and for how many frames each stands. `last` holds value,
 * count, luma and 0 of each pixel there; `noise` the variance of luma that is to be expected whatever the picture, `miss` that on its slope.
 * `old`, `share` and `off` have room for a row.
 */
export function carryMean(
  map: usize, luma: usize, u: usize, v: usize, seen: usize, last: usize, w: i32, h: i32, most: f32, soft: f32, noise: f32, miss: f32,
  old: usize, share: usize, off: usize, value: usize, count: usize,
): void {
  const right = <f32>(w - 1), bottom = <f32>(h - 1), one = f32x4.splat(1);
  for (let y = 0; y < h; y++) {
    const above = y > 0 ? w : 0, below = y + 1 < h ? w : 0;
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      wf(share, x, 0);
      wf(old, x, 0);
      wf(off, x, 0);
      if (!load<u8>(seen + <usize>i)) continue;
      const tx = <f32>x + rf(u, i), ty = <f32>y + rf(v, i);
      const cx = tx < 0 ? <f32>0 : tx > right ? right : tx, cy = ty < 0 ? <f32>0 : ty > bottom ? bottom : ty;
      const x0 = <i32>cx, y0 = <i32>cy;
      const fx = f32x4.splat(cx - <f32>x0), fy = f32x4.splat(cy - <f32>y0);
      const p = last + (<usize>(y0 * w + x0) << 4), beside: usize = x0 + 1 < w ? 16 : 0, under: usize = y0 + 1 < h ? <usize>w << 4 : 0;
      const a = v128.load(p), b = v128.load(p + beside), c = v128.load(p + under), d = v128.load(p + under + beside);
      const high = f32x4.add(a, f32x4.mul(fx, f32x4.sub(b, a))), low = f32x4.add(c, f32x4.mul(fx, f32x4.sub(d, c)));
      const there = f32x4.add(high, f32x4.mul(fy, f32x4.sub(low, high)));
      const was = f32x4.extract_lane(there, 0), stands = f32x4.extract_lane(there, 1), apart = f32x4.extract_lane(there, 2) - rf(luma, i);
      const gx: f32 = 0.5 * (rf(luma, x + 1 < w ? i + 1 : i) - rf(luma, x > 0 ? i - 1 : i));
      const gy: f32 = 0.5 * (rf(luma, i + below) - rf(luma, i - above));
      const jump = (was - rf(map, i)) / soft, like: f32 = 1 / (<f32>1 + jump * jump);
      wf(old, x, was);
      wf(share, x, min(most, stands) * like * like);
      wf(off, x, (-0.5 * apart * apart) / (noise + miss * (gx * gx + gy * gy)));
    }
    // at the end of a row up to three are worked that lie beyond it, and written over by the next
    for (let x = 0; x < w; x += 4) {
      const k = f32x4.mul(v128.load(at(share, x)), expx4(v128.load(at(off, x))));
      const i = y * w + x, counted = f32x4.add(one, k);
      v128.store(at(value, i), f32x4.div(f32x4.add(v128.load(at(map, i)), f32x4.mul(k, v128.load(at(old, x)))), counted));
      v128.store(at(count, i), counted);
    }
  }
}

/** Three planes put together pixel by pixel, with a 0 for the fourth. */
export function weave(a: usize, b: usize, c: usize, n: i32, out: usize): void {
  for (let i = 0; i < n; i++) {
    const to = out + (<usize>i << 4);
    store<f32>(to, rf(a, i));
    store<f32>(to, rf(b, i), 4);
    store<f32>(to, rf(c, i), 8);
    store<f32>(to, 0, 12);
  }
}
