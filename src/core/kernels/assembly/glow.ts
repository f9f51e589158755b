import { luminancex4, smoothx4 } from './curves';
import { at, between } from './enlarge';

// All of effects/lens/glowTwin.ts, row by row. Rows are RGBA floats; alpha of what glows is 0.

/** What glows of a pixel: `share` of it where its light lies above a level, setting in softly. */
// @ts-ignore: decorator
@inline
function glowing(pixel: v128, from: v128, inverse: v128, share: v128): v128 {
  const amount = f32x4.mul(share, smoothx4(luminancex4(pixel), from, inverse));
  return f32x4.mul(f32x4.replace_lane(pixel, 3, 0), amount);
}

/** What glows of two rows of the picture, at half the size. A last pixel without a partner counts as two. */
export function glowDown(upper: usize, lower: usize, width: i32, from: f32, inverse: f32, share: f32, out: usize): void {
  const a = f32x4.splat(from), b = f32x4.splat(inverse), c = f32x4.splat(0.25 * share);
  for (let x = 0; x < width; x += 2, out += 16) {
    const p = <usize>x << 4, q = x + 1 < width ? p + 16 : p;
    const top = f32x4.add(glowing(v128.load(upper + p), a, b, c), glowing(v128.load(upper + q), a, b, c));
    const low = f32x4.add(glowing(v128.load(lower + p), a, b, c), glowing(v128.load(lower + q), a, b, c));
    v128.store(out, f32x4.add(top, low));
  }
}

/** Two rows at half the size: means of 2x2. */
export function halfRow(upper: usize, lower: usize, width: i32, out: usize): void {
  const quarter = f32x4.splat(0.25);
  for (let x = 0; x < width; x += 2, out += 16) {
    const p = <usize>x << 4, q = x + 1 < width ? p + 16 : p;
    const top = f32x4.add(v128.load(upper + p), v128.load(upper + q));
    v128.store(out, f32x4.mul(quarter, f32x4.add(top, f32x4.add(v128.load(lower + p), v128.load(lower + q)))));
  }
}

/** A row of a level, weighted, and on top of it the coarser level's two rows nearest to it. `room`: two pixels more than the coarse row. */
export function octaveRow(fine: usize, width: i32, weight: f32, own: usize, next: usize, coarse: i32, room: usize): void {
  const row = between(own, next, coarse, room);
  const times = f32x4.splat(weight);
  for (let x = 0; x < width; x++, fine += 16) v128.store(fine, f32x4.add(f32x4.mul(times, v128.load(fine)), at(row, x)));
}

/** A row of the picture, in place: what glows is taken from where it was, and the glow is added, `plain` of it in its own colour. */
export function glowOver(
  light: usize, width: i32, from: f32, inverse: f32, share: f32, own: usize, next: usize, coarse: i32, room: usize, plain: f32,
  red: f32, green: f32, blue: f32,
): void {
  const row = between(own, next, coarse, room);
  const a = f32x4.splat(from), b = f32x4.splat(inverse), c = f32x4.splat(share);
  const kept = f32x4.splat(plain);
  const tint = f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(0), 0, red), 1, green), 2, blue);
  for (let x = 0; x < width; x++, light += 16) {
    const pixel = v128.load(light);
    const glow = at(row, x);
    const grey = luminancex4(glow);
    let out = f32x4.sub(pixel, glowing(pixel, a, b, c));
    out = f32x4.add(out, f32x4.add(f32x4.mul(kept, glow), f32x4.mul(tint, grey)));
    out = f32x4.pmax(f32x4.splat(0), out);
    // light that falls on what is see-through is seen there too
    const covered = f32x4.pmax(pixel, f32x4.pmin(f32x4.splat(1), grey));
    v128.store(light, v128.shuffle<f32>(out, covered, 0, 1, 2, 7));
  }
}
