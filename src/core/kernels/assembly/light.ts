/**
 * Adds `weight` times a row of an encoded still to `sums`: linear light, premultiplied, RGBA floats. `source`: count pixels of
 * `channels` samples of one byte, or two where `wide`; `table`: linear light of every sample; `alpha`: which sample is alpha, or -1.
 */
export function addRow(
  source: usize,
  count: i32,
  channels: i32,
  wide: i32,
  table: usize,
  alpha: i32,
  weight: f32,
  sums: usize,
): void {
  const bytes: usize = wide ? 2 : 1;
  const step = <usize>channels * bytes;
  const green: usize = channels < 3 ? 0 : bytes;
  const blue: usize = channels < 3 ? 0 : 2 * bytes;
  const solid = <usize>(alpha < 0 ? 0 : alpha) * bytes;
  const share: f32 = weight / (wide ? 65535 : 255);
  const end = source + <usize>count * step;
  for (let p = source; p < end; p += step) {
    let r: u32, g: u32, b: u32;
    if (wide) {
      r = load<u16>(p);
      g = load<u16>(p + green);
      b = load<u16>(p + blue);
    } else {
      r = load<u8>(p);
      g = load<u8>(p + green);
      b = load<u8>(p + blue);
    }
    let w = weight;
    if (alpha >= 0) w = share * <f32>(wide ? <u32>load<u16>(p + solid) : <u32>load<u8>(p + solid));
    let light = f32x4.splat(1);
    light = v128.load32_lane(table + (<usize>r << 2), light, 0);
    light = v128.load32_lane(table + (<usize>g << 2), light, 1);
    light = v128.load32_lane(table + (<usize>b << 2), light, 2);
    v128.store(sums, f32x4.add(v128.load(sums), f32x4.mul(light, f32x4.splat(w))));
    sums += 16;
  }
}

// @ts-ignore: decorator
@inline
function storeLight(table: usize, r: u32, g: u32, b: u32, a: u32, most: u32, share: f32, out: usize): void {
  const red = load<f32>(table + (<usize>r << 2)), green = load<f32>(table + (<usize>g << 2)), blue = load<f32>(table + (<usize>b << 2));
  const w: f32 = a == most ? 1 : share * <f32>a;
  store<f32>(out, red * w);
  store<f32>(out, green * w, 4);
  store<f32>(out, blue * w, 8);
  store<f32>(out, w, 12);
}

/** A row of an encoded still as linear light, premultiplied, RGBA floats: as `addRow` of one row alone. */
export function lightOfRow(source: usize, count: i32, channels: i32, wide: i32, table: usize, alpha: i32, out: usize): void {
  const most: u32 = wide ? 65535 : 255;
  const share: f32 = <f32>1 / <f32>most;
  if (!wide && channels == 4) {
    // the usual case: a pixel is read at once
    const solid: u32 = alpha < 0 ? 255 : 0;
    for (const end = source + (<usize>count << 2); source < end; source += 4, out += 16) {
      const v = load<u32>(source);
      storeLight(table, v & 255, (v >> 8) & 255, (v >> 16) & 255, (v >> 24) | solid, 255, share, out);
    }
    return;
  }
  const size: usize = wide ? 2 : 1;
  const step = <usize>channels * size;
  const green: usize = channels < 3 ? 0 : size;
  const at = <usize>(alpha < 0 ? 0 : alpha) * size;
  for (const end = source + <usize>count * step; source < end; source += step, out += 16) {
    if (wide) {
      const a: u32 = alpha < 0 ? most : <u32>load<u16>(source + at);
      storeLight(table, load<u16>(source), load<u16>(source + green), load<u16>(source + green + green), a, most, share, out);
    } else {
      const a: u32 = alpha < 0 ? most : <u32>load<u8>(source + at);
      storeLight(table, load<u8>(source), load<u8>(source + green), load<u8>(source + green + green), a, most, share, out);
    }
  }
}

/**
 * Sums of rows, weighed along the row: for every output pixel the first sum, how many, where its weights begin, and 1 over their total
 * (0 where the pixel lies outside), 16 bytes each. `down` is 1 over the total weight of the rows, 0 outside; `outside` scales what is.
 */
export function reduceRow(sums: usize, columns: usize, weights: usize, width: i32, down: f32, outside: f32, out: usize): void {
  const end = columns + ((<usize>width) << 4);
  for (let column = columns; column < end; column += 16) {
    let at = sums + ((<usize>load<i32>(column)) << 4);
    const last = at + ((<usize>load<i32>(column, 4)) << 4);
    let w = weights + ((<usize>load<i32>(column, 8)) << 2);
    let sum = f32x4.splat(0);
    while (at < last) {
      sum = f32x4.add(sum, f32x4.mul(v128.load(at), v128.load32_splat(w)));
      at += 16;
      w += 4;
    }
    const inside = load<f32>(column, 12) * down;
    v128.store(out, f32x4.mul(sum, f32x4.splat(inside > 0 ? inside : outside)));
    out += 16;
  }
}

/**
 * Linear premultiplied RGBA floats as 8-bit sRGB with straight alpha; `table` holds the sRGB byte of every step of light 0..steps,
 * what lies outside is clipped.
 */
export function encodePixels(light: usize, count: i32, table: usize, steps: f32, out: usize): void {
  const zero = f32x4.splat(0);
  const most = f32x4.splat(steps);
  const half = f32x4.splat(0.5);
  const bits = f32x4.splat(8388608);
  const end = light + ((<usize>count) << 4);
  while (light < end) {
    const pixel = v128.load(light);
    const alpha = f32x4.extract_lane(pixel, 3);
    const scale: f32 = alpha > 0 && alpha < 1 ? steps / alpha : steps;
    // pmax keeps zero where light is no number; beside 2^23 a whole number stands in the lowest bits
    const whole = f32x4.floor(f32x4.pmin(most, f32x4.pmax(zero, f32x4.add(f32x4.mul(pixel, f32x4.splat(scale)), half))));
    const step = v128.xor(f32x4.add(whole, bits), bits);
    const red = <u32>load<u8>(table + i32x4.extract_lane(step, 0));
    const green = <u32>load<u8>(table + i32x4.extract_lane(step, 1));
    const blue = <u32>load<u8>(table + i32x4.extract_lane(step, 2));
    const solid: u32 = alpha >= 1 ? 255 : alpha > 0 ? <u32>(alpha * 255 + 0.5) : 0;
    store<u32>(out, red | (green << 8) | (blue << 16) | (solid << 24));
    light += 16;
    out += 4;
  }
}
