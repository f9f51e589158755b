import { luminancex4 } from './curves';

// What isolate and backdrop do with a cut, row by row, RGBA floats. Their twins: isolateTwin and backdropTwin of effects/surface.

// @ts-ignore: decorator
@inline
function withAlphaOf(light: v128, alpha: v128): v128 {
  return v128.shuffle<f32>(light, alpha, 0, 1, 2, 7);
}

/**
 * Keeps what is in front (or, `away`, what is not) of a row of pixels, in place; of the rest `left` of its light stays, `drain` of its colour
 * goes, `tint` of it is grey in the tint's colour, `keep` of its coverage stays. A shared pixel is its front and what is left of it: each goes
 * its own way.
 */
export function isolateRow(
  row: usize, front: usize, count: i32, away: bool, left: f32, drain: f32, tint: f32, keep: f32, red: f32, green: f32, blue: f32,
): void {
  const plain = f32x4.splat(left * (1 - tint)), coloured = left * tint;
  const hue = f32x4.replace_lane(
    f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(0), 0, coloured * red), 1, coloured * green), 2, coloured * blue,
  );
  const taken = f32x4.splat(drain), covers = f32x4.splat(keep);
  for (let i = 0; i < count; i++, row += 16, front += 16) {
    const pixel = v128.load(row);
    const own = f32x4.pmin(pixel, v128.load(front));
    const kept = away ? f32x4.sub(pixel, own) : own;
    const rest = f32x4.sub(pixel, kept);
    const grey = luminancex4(rest);
    const drained = f32x4.add(rest, f32x4.mul(taken, f32x4.sub(grey, rest)));
    const light = f32x4.add(kept, f32x4.add(f32x4.mul(plain, drained), f32x4.mul(hue, grey)));
    v128.store(row, withAlphaOf(light, f32x4.add(kept, f32x4.mul(covers, rest))));
  }
}

/**
 * Puts something behind a row of pixels, in place: `matte` of each stays, in the colours of the front by `spill`, the rest lets through what
 * stands at `behind`, `step` bytes from pixel to pixel.
 */
export function backdropRow(row: usize, matte: usize, front: usize, behind: usize, step: usize, count: i32, spill: f32): void {
  const share = f32x4.splat(spill), one = f32x4.splat(1);
  for (let i = 0; i < count; i++, row += 16, front += 16, matte += 4, behind += step) {
    const pixel = v128.load(row), cover = v128.load32_splat(matte);
    const mixed = f32x4.mul(pixel, cover);
    const free = f32x4.mul(v128.shuffle<f32>(pixel, pixel, 3, 3, 3, 3), f32x4.sub(one, cover));
    const through = f32x4.mul(free, v128.load(behind));
    const own = f32x4.add(mixed, f32x4.mul(share, f32x4.sub(v128.load(front), mixed)));
    v128.store(row, withAlphaOf(f32x4.add(own, through), f32x4.add(mixed, through)));
  }
}
