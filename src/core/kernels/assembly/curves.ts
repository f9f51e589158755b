// Curves of four numbers at once. Errors are those of single precision, a few units in the last place.

/** log2 of four positive numbers: the exponent, and the series of artanh for what is left, within √½ … √2. */
// @ts-ignore: decorator
@inline
export function log2x4(x: v128): v128 {
  const half = i32x4.splat(0x3f3504f3); // √½
  const exponent = i32x4.shr_s(i32x4.sub(x, half), 23);
  const m = i32x4.sub(x, i32x4.shl(exponent, 23));
  const one = f32x4.splat(1);
  const s = f32x4.div(f32x4.sub(m, one), f32x4.add(m, one));
  const q = f32x4.mul(s, s);
  let sum = f32x4.add(f32x4.splat(0.412198583), f32x4.mul(q, f32x4.splat(0.320598898)));
  sum = f32x4.add(f32x4.splat(0.577078016), f32x4.mul(q, sum));
  sum = f32x4.add(f32x4.splat(0.961796694), f32x4.mul(q, sum));
  sum = f32x4.add(f32x4.splat(2.885390082), f32x4.mul(q, sum));
  return f32x4.add(f32x4.convert_i32x4_s(exponent), f32x4.mul(s, sum));
}

/** Added to a number it leaves that number's whole part in the lowest bits: 1½ · 2^23. */
const WHOLE: f32 = 12582912;

/** Two to the power of four numbers, those of −126 … 127; nearer to 0 and beyond it stays there. No number is as −126. */
// @ts-ignore: decorator
@inline
export function exp2x4(x: v128): v128 {
  const within = f32x4.pmin(f32x4.splat(127), f32x4.pmax(f32x4.splat(-126), x));
  const bits = f32x4.add(within, f32x4.splat(WHOLE));
  const f = f32x4.sub(within, f32x4.sub(bits, f32x4.splat(WHOLE)));
  // Taylor's series to the seventh power, for −½ … ½
  const square = f32x4.mul(f, f);
  const a = f32x4.add(f32x4.splat(1), f32x4.mul(f, f32x4.splat(0.693147181)));
  const b = f32x4.add(f32x4.splat(0.240226507), f32x4.mul(f, f32x4.splat(5.55041087e-2)));
  const c = f32x4.add(f32x4.splat(9.61812911e-3), f32x4.mul(f, f32x4.splat(1.33335581e-3)));
  const d = f32x4.add(f32x4.splat(1.54035304e-4), f32x4.mul(f, f32x4.splat(1.52527338e-5)));
  const high = f32x4.add(b, f32x4.mul(square, f32x4.add(c, f32x4.mul(square, d))));
  return i32x4.add(f32x4.add(a, f32x4.mul(square, high)), i32x4.shl(bits, 23));
}

/** e to the power of four numbers. */
// @ts-ignore: decorator
@inline
export function expx4(x: v128): v128 {
  return exp2x4(f32x4.mul(x, f32x4.splat(1.44269504)));
}

/** A step of Halley's towards a cube root: a thousandth becomes a thousand-millionth. */
// @ts-ignore: decorator
@inline
function nearerRoot(root: v128, size: v128): v128 {
  const cube = f32x4.mul(root, f32x4.mul(root, root));
  const share = f32x4.div(f32x4.add(cube, f32x4.add(size, size)), f32x4.add(f32x4.add(cube, cube), size));
  return f32x4.mul(root, share);
}

/** Cube roots of four numbers of either sign: a third of the exponent, which is within 4 %, and two steps from there. */
// @ts-ignore: decorator
@inline
export function cbrtx4(x: v128): v128 {
  const size = f32x4.abs(x);
  const third = f32x4.mul(f32x4.convert_i32x4_s(size), f32x4.splat(0.333333333));
  const near = i32x4.add(i32x4.trunc_sat_f32x4_s(third), i32x4.splat(0x2a514067));
  const root = nearerRoot(nearerRoot(near, size), size);
  return v128.or(v128.and(root, f32x4.gt(size, f32x4.splat(1e-30))), v128.and(x, i32x4.splat(0x80000000)));
}

/** Linear light to sRGB (IEC 61966-2-1); below 0 is 0. */
// @ts-ignore: decorator
@inline
export function encodex4(light: v128): v128 {
  const v = f32x4.pmax(f32x4.splat(0), light);
  const low = f32x4.mul(v, f32x4.splat(12.92));
  const power = exp2x4(f32x4.mul(f32x4.splat(0.416666667), log2x4(f32x4.pmax(f32x4.splat(1e-30), v))));
  const high = f32x4.sub(f32x4.mul(f32x4.splat(1.055), power), f32x4.splat(0.055));
  return v128.bitselect(low, high, f32x4.le(v, f32x4.splat(0.0031308)));
}

/** sRGB to linear light; below 0 is 0. */
// @ts-ignore: decorator
@inline
export function decodex4(encoded: v128): v128 {
  const v = f32x4.pmax(f32x4.splat(0), encoded);
  const low = f32x4.mul(v, f32x4.splat(0.0773993808));
  const base = f32x4.mul(f32x4.add(v, f32x4.splat(0.055)), f32x4.splat(0.947867299));
  const high = exp2x4(f32x4.mul(f32x4.splat(2.4), log2x4(base)));
  return v128.bitselect(low, high, f32x4.le(v, f32x4.splat(0.04045)));
}

/** Relative luminance of a pixel of linear RGBA (Rec. 709), in all four lanes. */
// @ts-ignore: decorator
@inline
export function luminancex4(pixel: v128): v128 {
  const parts = f32x4.mul(pixel, f32x4(0.2126, 0.7152, 0.0722, 0));
  const pairs = f32x4.add(parts, v128.shuffle<f32>(parts, parts, 1, 0, 3, 2));
  return f32x4.add(pairs, v128.shuffle<f32>(pairs, pairs, 2, 3, 0, 1));
}

/** 0 up to `from`, 1 from `from + 1/inverse` on, smooth between (3t² − 2t³). */
// @ts-ignore: decorator
@inline
export function smoothx4(v: v128, from: v128, inverse: v128): v128 {
  const t = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), f32x4.mul(f32x4.sub(v, from), inverse)));
  return f32x4.mul(f32x4.mul(t, t), f32x4.sub(f32x4.splat(3), f32x4.add(t, t)));
}

/** The ith number of a plan, in all four lanes. */
// @ts-ignore: decorator
@inline
export function number(plan: usize, i: i32): v128 {
  return v128.load32_splat(plan + (<usize>i << 2));
}
