import { decodex4, encodex4 } from './curves';

// Numbers of grain are those of effects/frame/grainTwin.ts to the last bit of single precision but for a few in a million: they are worked in double.

/** Natural logarithms of two numbers 0 < u ≤ 1: the exponent, and the series of artanh for what is left, within √½ … √2. */
// @ts-ignore: decorator
@inline
function log(u: v128): v128 {
  const half = i64x2.splat(0x3fe6a09e667f3bcd); // √½
  const exponent = i64x2.shr_s(i64x2.sub(u, half), 52);
  const m = i64x2.sub(u, i64x2.shl(exponent, 52));
  const one = f64x2.splat(1);
  const s = f64x2.div(f64x2.sub(m, one), f64x2.add(m, one));
  const q = f64x2.mul(s, s);
  let sum = f64x2.splat(2.0 / 21.0);
  sum = f64x2.add(f64x2.splat(2.0 / 19.0), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(2.0 / 17.0), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(2.0 / 15.0), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(2.0 / 13.0), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(2.0 / 11.0), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(2.0 / 9.0), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(2.0 / 7.0), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(2.0 / 5.0), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(2.0 / 3.0), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(2), f64x2.mul(q, sum));
  const whole = f64x2.convert_low_i32x4_s(v128.shuffle<i32>(exponent, exponent, 0, 2, 0, 2));
  return f64x2.add(f64x2.mul(whole, f64x2.splat(0.6931471805599453)), f64x2.mul(s, sum));
}

/** Sine of −π/4 … π/4; q is its square. */
// @ts-ignore: decorator
@inline
function sine(x: v128, q: v128): v128 {
  let sum = f64x2.splat(-7.647163731819816e-13);
  sum = f64x2.add(f64x2.splat(1.6059043836821613e-10), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(-2.505210838544172e-8), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(2.7557319223985893e-6), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(-1.984126984126984e-4), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(8.333333333333333e-3), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(-0.16666666666666666), f64x2.mul(q, sum));
  return f64x2.add(x, f64x2.mul(f64x2.mul(x, q), sum));
}

/** Cosine of −π/4 … π/4, of its square. */
// @ts-ignore: decorator
@inline
function cosine(q: v128): v128 {
  let sum = f64x2.splat(4.779477332387385e-14);
  sum = f64x2.add(f64x2.splat(-1.1470745597729725e-11), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(2.08767569878681e-9), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(-2.755731922398589e-7), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(2.48015873015873e-5), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(-1.3888888888888889e-3), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(0.041666666666666664), f64x2.mul(q, sum));
  sum = f64x2.add(f64x2.splat(-0.5), f64x2.mul(q, sum));
  return f64x2.add(f64x2.splat(1), f64x2.mul(q, sum));
}

/** Normal numbers of unit variance, two of each pair of uniform ones (Box & Muller 1958; mulberry32). Four at a time: there is room for as many. */
export function normalNumbers(seed: i32, count: i32, out: usize): void {
  const step = i32x4.splat(4 * 0x6d2b79f5);
  let state = i32x4.add(
    i32x4.splat(seed),
    i32x4.mul(i32x4(1, 2, 3, 4), i32x4.splat(0x6d2b79f5)),
  );
  const share = f64x2.splat(2.3283064365386963e-10);
  const one = f64x2.splat(1), odd = i64x2.splat(1), minus = i64x2.splat(0x8000000000000000);
  for (let i = 0; i < count; i += 4, out += 16) {
    let t = i32x4.mul(v128.xor(state, i32x4.shr_u(state, 15)), v128.or(state, i32x4.splat(1)));
    t = v128.xor(i32x4.add(t, i32x4.mul(v128.xor(t, i32x4.shr_u(t, 7)), v128.or(t, i32x4.splat(61)))), t);
    t = v128.xor(t, i32x4.shr_u(t, 14));
    state = i32x4.add(state, step);
    const u = f64x2.sub(one, f64x2.mul(share, f64x2.convert_low_i32x4_u(v128.shuffle<i32>(t, t, 0, 2, 0, 2))));
    const radius = f64x2.sqrt(f64x2.mul(f64x2.splat(-2), log(u)));
    const quarters = f64x2.mul(f64x2.splat(4.0 * 2.3283064365386963e-10), f64x2.convert_low_i32x4_u(v128.shuffle<i32>(t, t, 1, 3, 1, 3)));
    const turn = f64x2.nearest(quarters);
    const x = f64x2.mul(f64x2.splat(1.5707963267948966), f64x2.sub(quarters, turn));
    const q = f64x2.mul(x, x);
    const s = sine(x, q), c = cosine(q);
    // quarter turns swap the two and turn their signs about
    const whole = i64x2.extend_low_i32x4_u(i32x4.trunc_sat_f64x2_u_zero(turn));
    const swapped = i64x2.eq(v128.and(whole, odd), odd);
    const down = v128.and(i64x2.shl(whole, 62), minus);
    const left = v128.and(i64x2.shl(i64x2.add(whole, odd), 62), minus);
    const across = v128.xor(v128.bitselect(s, c, swapped), left);
    const along = v128.xor(v128.bitselect(c, s, swapped), down);
    const a = f32x4.demote_f64x2_zero(f64x2.mul(radius, across));
    const b = f32x4.demote_f64x2_zero(f64x2.mul(radius, along));
    v128.store(out, v128.shuffle<f32>(a, b, 0, 4, 1, 5));
  }
}

/** One pixel of a row's running sum, its window cut off by the border. */
function boxStep(from: usize, to: usize, w: i32, x: i32, r: i32, sum: f64): f64 {
  const last = x + r, first = x - r - 1;
  let s = sum;
  if (last < w) s += <f64>load<f32>(from + (<usize>last << 2));
  if (first >= 0) s -= <f64>load<f32>(from + (<usize>first << 2));
  store<f32>(to + (<usize>x << 2), <f32>(s / <f64>(min(w - 1, last) - max(0, first + 1) + 1)));
  return s;
}

/** Box mean of a plane, windows clamped at the border: raster/filters.ts, boxMean, to the last bit. `sums`: as many doubles as columns, and one more. */
export function boxPlane(plane: usize, w: i32, h: i32, r: i32, rows: usize, sums: usize, out: usize): void {
  for (let y = 0; y < h; y++) {
    const from = plane + (<usize>(y * w) << 2), to = rows + (<usize>(y * w) << 2);
    let s: f64 = 0;
    for (let x = 0; x < min(w, r); x++) s += <f64>load<f32>(from + (<usize>x << 2));
    let x = 0;
    // the window is cut off on the left, whole, and cut off on the right
    for (; x < w && (x <= r || x + r >= w); x++) s = boxStep(from, to, w, x, r, s);
    const whole = <f64>(2 * r + 1);
    for (; x + r < w; x++) {
      s += <f64>load<f32>(from + (<usize>(x + r) << 2));
      s -= <f64>load<f32>(from + (<usize>(x - r - 1) << 2));
      store<f32>(to + (<usize>x << 2), <f32>(s / whole));
    }
    for (; x < w; x++) s = boxStep(from, to, w, x, r, s);
  }
  for (let x = 0; x < w; x++) store<f64>(sums + (<usize>x << 3), 0);
  for (let y = 0; y < min(h, r); y++) {
    for (let x = 0; x < w; x++) {
      const s = sums + (<usize>x << 3);
      store<f64>(s, load<f64>(s) + <f64>load<f32>(rows + (<usize>(y * w + x) << 2)));
    }
  }
  for (let y = 0; y < h; y++) {
    const last = y + r, first = y - r - 1;
    const enter = rows + (<usize>(last * w) << 2), leave = rows + (<usize>(first * w) << 2), to = out + (<usize>(y * w) << 2);
    const scale = f64x2.splat(1 / <f64>(min(h - 1, last) - max(0, first + 1) + 1));
    // two columns at a time; where there is an odd one, one beyond the end is worked and written over by the next row
    for (let x = 0; x < w; x += 2) {
      let s = v128.load(sums + (<usize>x << 3));
      if (last < h) s = f64x2.add(s, f64x2.promote_low_f32x4(v128.load64_zero(enter + (<usize>x << 2))));
      if (first >= 0) s = f64x2.sub(s, f64x2.promote_low_f32x4(v128.load64_zero(leave + (<usize>x << 2))));
      v128.store(sums + (<usize>x << 3), s);
      v128.store64_lane(to + (<usize>x << 2), f32x4.demote_f64x2_zero(f64x2.mul(s, scale)), 0);
    }
  }
}

/** Numbers scaled to a mean square of 1, in place. Two at a time: there is room for as many. */
export function toUnitVariance(plane: usize, count: i32): void {
  let sum = f64x2.splat(0);
  const end = plane + (<usize>count << 2);
  let p = plane;
  for (; p + 4 < end; p += 8) {
    const v = f64x2.promote_low_f32x4(v128.load64_zero(p));
    sum = f64x2.add(sum, f64x2.mul(v, v));
  }
  // what lies beyond the end does not count
  if (p < end) {
    const v = f64x2.promote_low_f32x4(v128.load32_zero(p));
    sum = f64x2.add(sum, f64x2.mul(v, v));
  }
  const mean = (f64x2.extract_lane(sum, 0) + f64x2.extract_lane(sum, 1)) / <f64>count;
  const gain = f64x2.splat(1 / Math.sqrt(mean > 0 ? mean : 1));
  for (p = plane; p < end; p += 8) {
    v128.store64_lane(p, f32x4.demote_f64x2_zero(f64x2.mul(gain, f64x2.promote_low_f32x4(v128.load64_zero(p)))), 0);
  }
}

/** Steps of the tables of both curves: raster/colour.ts, quickCurves. */
const STEPS: f64 = 65536;

/** Added to a number it leaves the nearest whole one in the lowest bits: 1½ · 2^52. */
const WHOLE: f64 = 6755399441055744;

/** What tables of doubles hold at two places, between their steps as on a line. */
// @ts-ignore: decorator
@inline
function looked(table: usize, at: v128): v128 {
  const bits = f64x2.add(f64x2.sub(at, f64x2.splat(0.5)), f64x2.splat(WHOLE));
  // the whole part of a number of at most 65 536
  const a = v128.load(table + (<usize>(i32x4.extract_lane(bits, 0)) << 3)), b = v128.load(table + (<usize>(i32x4.extract_lane(bits, 2)) << 3));
  const from = v128.shuffle<f64>(a, b, 0, 2), to = v128.shuffle<f64>(a, b, 1, 3);
  return f64x2.add(from, f64x2.mul(f64x2.sub(to, from), f64x2.sub(at, f64x2.sub(bits, f64x2.splat(WHOLE)))));
}

/** Two values of light with grain on them; what is brighter than white is worked in single precision. */
// @ts-ignore: decorator
@inline
function grained(light: v128, grain: v128, encode: usize, decode: usize): v128 {
  const zero = f64x2.splat(0), one = f64x2.splat(1), steps = f64x2.splat(STEPS);
  const v = f64x2.pmax(zero, light);
  const bright = f64x2.ge(v, one);
  let shown = looked(encode, f64x2.mul(f64x2.sqrt(f64x2.pmin(one, v)), steps));
  if (v128.any_true(bright)) {
    shown = v128.bitselect(f64x2.promote_low_f32x4(encodex4(f32x4.demote_f64x2_zero(v))), shown, bright);
  }
  const e = f64x2.pmax(zero, f64x2.add(shown, grain));
  const white = f64x2.ge(e, one);
  const out = looked(decode, f64x2.mul(f64x2.pmin(one, e), steps));
  if (!v128.any_true(white)) return out;
  return v128.bitselect(f64x2.promote_low_f32x4(decodex4(f32x4.demote_f64x2_zero(e))), out, white);
}

/** The first of four numbers of each, as doubles. */
// @ts-ignore: decorator
@inline
function both(a: v128, b: v128): v128 {
  return f64x2.promote_low_f32x4(v128.shuffle<f32>(a, b, 0, 4, 0, 4));
}

/**
 * Grain added to a row of RGBA floats in its encoded values, in place; one plane of grain for each colour. Two pixels at a time: there is room
 * for as many.
 */
export function grainRow(row: usize, count: i32, red: usize, green: usize, blue: usize, amount: f64, encode: usize, decode: usize): void {
  const times = f64x2.splat(amount);
  for (let i = 0; i < count; i += 2, row += 32) {
    const at = <usize>i << 2;
    const first = v128.load(row), second = v128.load(row, 16);
    const r = v128.load64_zero(red + at), g = v128.load64_zero(green + at), b = v128.load64_zero(blue + at);
    const r1 = v128.shuffle<f32>(r, r, 1, 1, 1, 1), g1 = v128.shuffle<f32>(g, g, 1, 1, 1, 1);
    const ahead = f32x4.demote_f64x2_zero(grained(f64x2.promote_low_f32x4(first), f64x2.mul(times, both(r, g)), encode, decode));
    const next = f32x4.demote_f64x2_zero(grained(f64x2.promote_low_f32x4(second), f64x2.mul(times, both(r1, g1)), encode, decode));
    const blues = v128.shuffle<f32>(first, second, 2, 6, 2, 6);
    const last = f32x4.demote_f64x2_zero(grained(f64x2.promote_low_f32x4(blues), f64x2.mul(times, f64x2.promote_low_f32x4(b)), encode, decode));
    v128.store(row, v128.shuffle<f32>(v128.shuffle<f32>(ahead, last, 0, 1, 4, 4), first, 0, 1, 2, 7));
    v128.store(row, v128.shuffle<f32>(v128.shuffle<f32>(next, last, 0, 1, 5, 5), second, 0, 1, 2, 7), 16);
  }
}
