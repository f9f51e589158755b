import { log2x4, number } from './curves';

/** A number 0..1 that belongs to three whole numbers and a seed, four at once: noise.ts, hash3. `x`, `y`, `z` are multiplied already. */
// @ts-ignore: decorator
@inline
export function hashed(x: v128, y: v128, z: v128): v128 {
  let h = v128.xor(v128.xor(x, y), z);
  h = i32x4.mul(v128.xor(h, i32x4.shr_u(h, 15)), i32x4.splat(0x2c1b3c6d));
  h = i32x4.mul(v128.xor(h, i32x4.shr_u(h, 12)), i32x4.splat(0x297a2d39));
  h = v128.xor(h, i32x4.shr_u(h, 15));
  return f32x4.mul(f32x4.convert_i32x4_u(h), f32x4.splat(2.3283064365386963e-10));
}

/** The quintic of Perlin (2002). */
// @ts-ignore: decorator
@inline
function fade(t: v128): v128 {
  const inner = f32x4.sub(f32x4.mul(f32x4.splat(6), t), f32x4.splat(15));
  return f32x4.mul(f32x4.mul(t, f32x4.mul(t, t)), f32x4.add(f32x4.mul(t, inner), f32x4.splat(10)));
}

// @ts-ignore: decorator
@inline
function between(a: v128, b: v128, t: v128): v128 {
  return f32x4.add(a, f32x4.mul(f32x4.sub(b, a), t));
}

/** Smooth noise at four places: noise.ts, smoothNoise. */
// @ts-ignore: decorator
@inline
function smoothNoise(x: v128, y: v128, z: v128, seed: i32): v128 {
  const i = f32x4.floor(x), j = f32x4.floor(y), k = f32x4.floor(z);
  const u = fade(f32x4.sub(x, i)), v = fade(f32x4.sub(y, j)), w = fade(f32x4.sub(z, k));
  const kx = i32x4.splat(0x27d4eb2d), ky = i32x4.splat(0x165667b1), kz = i32x4.splat(0x9e3779b1);
  const x0 = i32x4.mul(i32x4.trunc_sat_f32x4_s(i), kx), x1 = i32x4.add(x0, kx);
  const y0 = i32x4.mul(i32x4.trunc_sat_f32x4_s(j), ky), y1 = i32x4.add(y0, ky);
  const own = i32x4.splat((seed + 1) * 0x85ebca77);
  const k0 = i32x4.mul(i32x4.trunc_sat_f32x4_s(k), kz);
  const z0 = v128.xor(k0, own), z1 = v128.xor(i32x4.add(k0, kz), own);
  const front = between(
    between(hashed(x0, y0, z0), hashed(x1, y0, z0), u),
    between(hashed(x0, y1, z0), hashed(x1, y1, z0), u),
    v,
  );
  const back = between(
    between(hashed(x0, y0, z1), hashed(x1, y0, z1), u),
    between(hashed(x0, y1, z1), hashed(x1, y1, z1), u),
    v,
  );
  return between(front, back, w);
}

/**
 * Noise along a straight way: at each of `count` numbers m, the noise at place + m·direction. noise.ts, cloudNoise. `way`: place and direction,
 * three numbers each. Four at a time: there is room for as many.
 */
export function cloudAlong(way: usize, along: usize, count: i32, seed: i32, out: usize): void {
  for (let i = 0; i < count; i += 4) {
    const m = v128.load(along + (<usize>i << 2));
    const x = f32x4.add(number(way, 0), f32x4.mul(m, number(way, 3)));
    const y = f32x4.add(number(way, 1), f32x4.mul(m, number(way, 4)));
    const z = f32x4.add(number(way, 2), f32x4.mul(m, number(way, 5)));
    const finer = f32x4.splat(2.1);
    const coarse = smoothNoise(x, y, z, seed);
    const fine = smoothNoise(
      f32x4.add(f32x4.mul(finer, x), f32x4.splat(11.3)),
      f32x4.add(f32x4.mul(finer, y), f32x4.splat(7.7)),
      f32x4.add(f32x4.mul(finer, z), f32x4.splat(3.9)),
      seed + 101,
    );
    const cloud = f32x4.add(f32x4.mul(f32x4.splat(0.67), coarse), f32x4.mul(f32x4.splat(0.33), fine));
    v128.store(out + (<usize>i << 2), cloud);
  }
}

/** One pixel of `patchRow`: `at` counts from the nearest ray to the left and above, `tx` and `t` tell how far it lies between rays and slices. */
// @ts-ignore: decorator
@inline
function meanAt(upper: usize, lower: usize, right: usize, at: i32, tx: f32, ty: f32, t: f32): f32 {
  const a = upper + (<usize>at << 2), c = lower + (<usize>at << 2);
  const a0 = load<f32>(a), b0 = load<f32>(a + right), c0 = load<f32>(c), d0 = load<f32>(c + right);
  const ma = a0 + (load<f32>(a, 4) - a0) * t, mb = b0 + (load<f32>(a + right, 4) - b0) * t;
  const mc = c0 + (load<f32>(c, 4) - c0) * t, md = d0 + (load<f32>(c + right, 4) - d0) * t;
  const top = ma + (mb - ma) * tx;
  return top + (mc + (md - mc) * tx - top) * ty;
}

/**
 * Means of a coarse grid of rays at the distances of a row of pixels: trilinear, over columns, rows and the logarithm of distance.
 * effects/air/patches.ts. `upper`, `lower`: the rows of rays above and below, `slices + 1` numbers a ray; `ty`: how far down between them.
 * Four at a time: there is room for as many, and one more ray on the right.
 */
export function patchRow(
  upper: usize, lower: usize, slices: i32, cell: f32, ty: f32, start: f32, first: f32, perOctave: f32, distances: usize, count: i32, out: usize,
): void {
  const stride = slices + 1;
  const right = <usize>stride << 2;
  const last = f32x4.splat(<f32>slices - 1e-4), one = f32x4.splat(1), zero = f32x4.splat(0);
  for (let i = 0; i < count; i += 4) {
    const z = v128.load(distances + (<usize>i << 2));
    const ahead = f32x4.pmax(zero, f32x4.sub(f32x4.pmin(f32x4.splat(1e6), z), f32x4.splat(start)));
    const octaves = log2x4(f32x4.add(one, f32x4.div(ahead, f32x4.splat(first))));
    const slice = f32x4.pmin(last, f32x4.mul(f32x4.splat(perOctave), octaves));
    const whole = i32x4.trunc_sat_f32x4_s(slice);
    const t = f32x4.sub(slice, f32x4.convert_i32x4_s(whole));
    const u = f32x4.mul(f32x4.add(f32x4.splat(<f32>i), f32x4(0.5, 1.5, 2.5, 3.5)), f32x4.splat(1 / cell));
    const column = i32x4.trunc_sat_f32x4_s(u);
    const tx = f32x4.sub(u, f32x4.convert_i32x4_s(column));
    const at = i32x4.add(whole, i32x4.mul(column, i32x4.splat(stride)));
    const p = out + (<usize>i << 2);
    store<f32>(p, meanAt(upper, lower, right, i32x4.extract_lane(at, 0), f32x4.extract_lane(tx, 0), ty, f32x4.extract_lane(t, 0)));
    store<f32>(p, meanAt(upper, lower, right, i32x4.extract_lane(at, 1), f32x4.extract_lane(tx, 1), ty, f32x4.extract_lane(t, 1)), 4);
    store<f32>(p, meanAt(upper, lower, right, i32x4.extract_lane(at, 2), f32x4.extract_lane(tx, 2), ty, f32x4.extract_lane(t, 2)), 8);
    store<f32>(p, meanAt(upper, lower, right, i32x4.extract_lane(at, 3), f32x4.extract_lane(tx, 3), ty, f32x4.extract_lane(t, 3)), 12);
  }
}
