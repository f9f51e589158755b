import { expx4, number } from './curves';

/** From here on there is nothing but sky, m; and no less of the scene's own light is reckoned with where fog is taken away: as in effects/air/fog.ts. */
const SKY: f32 = 1e6;
const LEAST_LEFT: f32 = 0.12;

const LOW: i32 = 1;
const TAKES: i32 = 2;
const UNEVEN: i32 = 4;

/** Mean density between two heights: effects/air/fog.ts, meanDensity. `inverse`: 1 over the height over which it falls to 37 %. */
// @ts-ignore: decorator
@inline
function meanDensity(from: v128, to: v128, inverse: v128): v128 {
  const zero = f32x4.splat(0), one = f32x4.splat(1);
  const low = f32x4.pmin(from, to), high = f32x4.pmax(from, to);
  const rise = f32x4.pmax(f32x4.splat(1e-20), f32x4.sub(high, low));
  const below = f32x4.pmax(zero, f32x4.pmin(one, f32x4.div(f32x4.sub(zero, low), rise)));
  const foot = f32x4.pmax(zero, low);
  const q = f32x4.mul(f32x4.pmax(zero, f32x4.sub(high, foot)), inverse);
  // (1 − e^−q)/q; its series where q is small
  let series = f32x4.sub(f32x4.splat(0.166666667), f32x4.mul(q, f32x4.splat(0.0416666667)));
  series = f32x4.sub(f32x4.splat(0.5), f32x4.mul(q, series));
  series = f32x4.sub(one, f32x4.mul(q, series));
  const direct = f32x4.div(f32x4.sub(one, expx4(f32x4.neg(q))), q);
  const mean = v128.bitselect(series, direct, f32x4.lt(q, f32x4.splat(0.05)));
  const above = f32x4.mul(expx4(f32x4.neg(f32x4.mul(foot, inverse))), mean);
  return f32x4.add(below, f32x4.mul(f32x4.sub(one, below), above));
}

/** A pixel of light under so much fog, or out of it. `left` is the share that comes through, all four lanes alike. */
// @ts-ignore: decorator
@inline
function put(pixel: usize, air: v128, left: v128, takes: bool): void {
  const light = v128.load(pixel);
  const alpha = v128.shuffle<f32>(light, light, 3, 3, 3, 3);
  const added = f32x4.mul(f32x4.mul(air, alpha), f32x4.sub(f32x4.splat(1), left));
  const out = takes
    ? f32x4.div(f32x4.pmax(f32x4.splat(0), f32x4.sub(light, added)), left)
    : f32x4.add(f32x4.mul(light, left), added);
  v128.store(pixel, out);
}

/**
 * Fog over a row of RGBA floats, in place; effects/air/fog.ts, fogTwin. `distances`: m; `unevens`: multiples of the air's density, where
 * `how` says so. `plan`: focal length and half the width, px; where fog begins, m; σ, 1/m; share that the sky takes; the air's colour and 1;
 * height of the camera, m, and 1 over the height over which fog thins. `dy`: tangent of the row; `rise`: height gained for each metre of
 * distance. Four pixels at a time: there is room for as many.
 */
export function fogRow(row: usize, distances: usize, unevens: usize, count: i32, plan: usize, dy: f32, rise: f32, how: i32): void {
  const low = (how & LOW) != 0, takes = (how & TAKES) != 0, uneven = (how & UNEVEN) != 0;
  const one = f32x4.splat(1), zero = f32x4.splat(0), sky = f32x4.splat(SKY);
  const focal = f32x4.div(one, number(plan, 0)), middle = number(plan, 1);
  const start = number(plan, 2), sigma = number(plan, 3), over = number(plan, 4);
  const air = v128.load(plan, 20);
  const eye = number(plan, 9), inverse = number(plan, 10);
  const up = f32x4.splat(rise);
  const lowest = f32x4.add(eye, f32x4.mul(up, start));
  const across = f32x4.splat(1 + dy * dy);
  for (let i = 0; i < count; i += 4) {
    const z = v128.load(distances + (<usize>i << 2));
    const near = f32x4.lt(z, sky);
    const end = v128.bitselect(z, sky, near);
    const x = f32x4.add(f32x4.splat(<f32>i), f32x4(0.5, 1.5, 2.5, 3.5));
    const dx = f32x4.mul(f32x4.sub(x, middle), focal);
    const ray = f32x4.sqrt(f32x4.add(across, f32x4.mul(dx, dx)));
    let depth = f32x4.mul(sigma, f32x4.mul(ray, f32x4.pmax(zero, f32x4.sub(end, start))));
    if (low) depth = f32x4.mul(depth, meanDensity(lowest, f32x4.add(eye, f32x4.mul(up, end)), inverse));
    if (uneven) depth = f32x4.mul(depth, v128.load(unevens + (<usize>i << 2)));
    const share = f32x4.mul(f32x4.sub(one, expx4(f32x4.neg(depth))), v128.bitselect(one, over, near));
    let left = f32x4.sub(one, share);
    if (takes) left = f32x4.pmax(f32x4.splat(LEAST_LEFT), left);
    const p = row + (<usize>i << 4);
    put(p, air, v128.shuffle<f32>(left, left, 0, 0, 0, 0), takes);
    put(p + 16, air, v128.shuffle<f32>(left, left, 1, 1, 1, 1), takes);
    put(p + 32, air, v128.shuffle<f32>(left, left, 2, 2, 2, 2), takes);
    put(p + 48, air, v128.shuffle<f32>(left, left, 3, 3, 3, 3), takes);
  }
}
