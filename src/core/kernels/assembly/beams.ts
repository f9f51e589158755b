import { expx4 } from './curves';

/**
 * Adds beams to a row of RGBA floats, in place: `upper` and `lower` are the rows of the small plane of beams about it, `t` how far down between
 * them, `scale` its columns to a pixel. Where `distances` (m) are given, as much as there is air before a thing: 1 − e^(−z·`dense`).
 * effects/air/beams.ts. Four pixels at a time: there is room for as many.
 */
export function beamsRow(
  row: usize, upper: usize, lower: usize, width: i32, t: f32, scale: f32, count: i32, distances: usize, dense: f32,
  red: f32, green: f32, blue: f32,
): void {
  const colour = f32x4.replace_lane(f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(0), 0, red), 1, green), 2, blue);
  const last: f32 = <f32>width - 1.001;
  let air = f32x4.splat(1);
  for (let x = 0; x < count; x++, row += 16) {
    if (distances) {
      if ((x & 3) == 0) {
        const z = f32x4.pmin(f32x4.splat(1e6), v128.load(distances + (<usize>x << 2)));
        air = f32x4.sub(f32x4.splat(1), expx4(f32x4.mul(z, f32x4.splat(-dense))));
      } else air = v128.shuffle<f32>(air, air, 1, 2, 3, 0);
    }
    const u = max<f32>(0, min<f32>(last, (<f32>x + 0.5) * scale - 0.5));
    const i = <i32>u;
    const a = upper + (<usize>i << 2), b = lower + (<usize>i << 2), s = u - <f32>i;
    const top = load<f32>(a) + (load<f32>(a, 4) - load<f32>(a)) * s, low = load<f32>(b) + (load<f32>(b, 4) - load<f32>(b)) * s;
    const pixel = v128.load(row);
    const light = (top + (low - top) * t) * f32x4.extract_lane(air, 0) * f32x4.extract_lane(pixel, 3);
    v128.store(row, f32x4.add(pixel, f32x4.mul(colour, f32x4.splat(light))));
  }
}
