import { hashed } from './patches';

// @ts-ignore: decorator
@inline
function between(line: usize, at: i32, share: f32): f32 {
  const p = line + (<usize>at << 4);
  const a = load<f32>(p);
  return a + (load<f32>(p, 16) - a) * share;
}

/**
 * A row of RGBA floats fetched from a line of the picture, every channel from another place: `slips` are four whole numbers of px and four
 * shares of one. `line` is the first pixel of the line, which goes on beyond both ends. All light is multiplied by `gain`, and by up to `noise`
 * more or less, by the hash of column, row and frame (effects/frame/scan.ts).
 */
export function scanRow(line: usize, count: i32, slips: usize, gain: f32, noise: f32, y: i32, frame: i32, seed: i32, out: usize): void {
  const r = load<i32>(slips), g = load<i32>(slips, 4), b = load<i32>(slips, 8), a = load<i32>(slips, 12);
  const tr = load<f32>(slips, 16), tg = load<f32>(slips, 20), tb = load<f32>(slips, 24), ta = load<f32>(slips, 28);
  const hy = i32x4.splat(y * 0x165667b1), hz = i32x4.splat((frame * 0x9e3779b1) ^ ((seed + 1) * 0x85ebca77));
  let grains = f32x4.splat(gain);
  for (let x = 0; x < count; x++, out += 16) {
    if (noise > 0) {
      if ((x & 3) == 0) {
        const columns = i32x4.mul(i32x4.add(i32x4.splat(x), i32x4(0, 1, 2, 3)), i32x4.splat(0x27d4eb2d));
        const grain = f32x4.sub(hashed(columns, hy, hz), f32x4.splat(0.5));
        grains = f32x4.mul(f32x4.splat(gain), f32x4.add(f32x4.splat(1), f32x4.mul(f32x4.splat(2 * noise), grain)));
      } else grains = v128.shuffle<f32>(grains, grains, 1, 2, 3, 0);
    }
    const k = f32x4.extract_lane(grains, 0);
    store<f32>(out, k * between(line, x + r, tr));
    store<f32>(out, k * between(line + 4, x + g, tg), 4);
    store<f32>(out, k * between(line + 8, x + b, tb), 8);
    store<f32>(out, between(line + 12, x + a, ta), 12);
  }
}
