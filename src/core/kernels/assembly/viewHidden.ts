// Where the hidden pixels of a plate are seen.
import { ri, ViewPlan } from './viewPlan';

/** Bytes from one figure of the hidden pixels' places to the next. */
@inline export function hiddenPlane(g: ViewPlan): usize { return <usize>(g.hiddenCount + 4) << 2; }

@inline function sum3(k: f32, a: v128, l: f32, b: v128, m: f32, c: v128): v128 {
  return f32x4.add(f32x4.add(f32x4.mul(f32x4.splat(k), a), f32x4.mul(f32x4.splat(l), b)), f32x4.mul(f32x4.splat(m), c));
}

/** How many of the hidden pixels have a place already. */
let placed: i32 = 0;

/** Begins anew. */
export function placeNoneHidden(): void { placed = 0; }

/** Where the hidden pixels of rows up to this one are seen, four at a time: x, y and inverse distance (−1 behind the camera), by the steps of `forward`. */
export function placeHidden(g: ViewPlan, row: i32): void {
  const end = ri(g.hiddenRow, row + 1), plane = hiddenPlane(g);
  if (placed >= end) return;
  const first = ri(g.hiddenRow, row - 2);
  if (placed < first) placed = first;
  const over: f64 = 1 / <f64>g.w, half4 = f32x4.splat(0.5), fi = f32x4.splat(g.fi), f2 = f32x4.splat(g.f2);
  for (; placed < end; placed += 4) {
    const at = <usize>placed << 2;
    // what lies beyond the last one is worked out as well, and not read
    const p = v128.load(g.hiddenPixel + at);
    const ahead = f64x2.add(f64x2.convert_low_i32x4_s(p), f64x2.splat(0.5));
    const behind = f64x2.add(f64x2.convert_low_i32x4_s(v128.shuffle<i32>(p, p, 2, 3, 0, 1)), f64x2.splat(0.5));
    const y = v128.shuffle<i32>(
      i32x4.trunc_sat_f64x2_s_zero(f64x2.mul(ahead, f64x2.splat(over))),
      i32x4.trunc_sat_f64x2_s_zero(f64x2.mul(behind, f64x2.splat(over))),
      0, 1, 4, 5,
    );
    const ys = f32x4.add(f32x4.convert_i32x4_s(y), half4);
    const xs = f32x4.add(f32x4.convert_i32x4_s(i32x4.sub(p, i32x4.mul(y, i32x4.splat(g.w)))), half4);
    const q = v128.load(g.hiddenQ + at);
    const a = f32x4.sub(f32x4.mul(f32x4.sub(xs, f32x4.splat(g.cx)), fi), f32x4.mul(f32x4.splat(g.tx), q));
    const b = f32x4.sub(f32x4.mul(f32x4.sub(ys, f32x4.splat(g.cy)), fi), f32x4.mul(f32x4.splat(g.ty), q));
    const c = f32x4.sub(f32x4.splat(1), f32x4.mul(f32x4.splat(g.tz), q));
    const depth = sum3(g.r6, a, g.r7, b, g.r8, c);
    const k = f32x4.div(f32x4.splat(1), depth);
    const to = g.hiddenPlace + at;
    v128.store(to, f32x4.add(f32x4.splat(g.cx2), f32x4.mul(f32x4.mul(f2, sum3(g.r0, a, g.r1, b, g.r2, c)), k)));
    v128.store(to + plane, f32x4.add(f32x4.splat(g.cy2), f32x4.mul(f32x4.mul(f2, sum3(g.r3, a, g.r4, b, g.r5, c)), k)));
    v128.store(to + 2 * plane, v128.bitselect(f32x4.mul(q, k), f32x4.splat(-1), f32x4.gt(depth, f32x4.splat(1e-6))));
  }
}
