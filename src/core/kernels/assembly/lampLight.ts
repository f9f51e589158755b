import { luminancex4, smoothx4 } from './curves';

// Small strong lights among what is scattered at half the size: their discs have sharp edges, so what they have beyond their surroundings is
// scattered at full size. The twin is core/kernels/lensBlurTwin.ts.

/** Raises light whose luminance is above `from` by up to `gain` times itself, smoothly until it is 1/inverse above; radii stay. In place. */
export function boostLight(pixels: usize, count: i32, from: f32, inverse: f32, gain: f32): void {
  const end = pixels + (<usize>count << 4), a = f32x4.splat(from), b = f32x4.splat(inverse), c = f32x4.splat(gain), one = f32x4.splat(1);
  for (; pixels < end; pixels += 16) {
    const v = v128.load(pixels), light = luminancex4(v);
    if (f32x4.extract_lane(light, 0) <= from) continue;
    const times = f32x4.add(one, f32x4.mul(c, smoothx4(light, a, b)));
    v128.store(pixels, f32x4.replace_lane(f32x4.mul(v, times), 3, f32x4.extract_lane(v, 3)));
  }
}

/** How far radii jump where a lamp's edge is mixed with it, px. */
const JUMP: f32 = 1;

/**
 * Rows y0 … y1−1 of `height` rows: a pixel brighter than 1 whose brightest 3x3 neighbour is brighter still and lies at another radius takes that. The
 * changes are written as pairs, which pixel and what radius; gives how many there are.
 */
export function mixedLamps(pixels: usize, width: i32, height: i32, y0: i32, y1: i32, changes: usize): i32 {
  const one = f32x4.splat(1);
  let n = 0;
  for (let y = y0; y < y1; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x, own = v128.load(pixels + (<usize>i << 4));
      // radii may be above 1: only colours are asked
      if (!(i32x4.bitmask(f32x4.gt(own, one)) & 7)) continue;
      const light = f32x4.extract_lane(luminancex4(own), 0);
      if (light <= 1) continue;
      let brightest = light, radius = f32x4.extract_lane(own, 3);
      for (let v = max(0, y - 1); v <= min(height - 1, y + 1); v++)
        for (let u = max(0, x - 1); u <= min(width - 1, x + 1); u++) {
          const other = v128.load(pixels + (<usize>(v * width + u) << 4)), l = f32x4.extract_lane(luminancex4(other), 0);
          if (l > brightest) {
            brightest = l;
            radius = f32x4.extract_lane(other, 3);
          }
        }
      if (abs(radius - f32x4.extract_lane(own, 3)) <= JUMP) continue;
      store<i32>(changes + (<usize>n << 3), i);
      store<f32>(changes + (<usize>n << 3), radius, 4);
      n++;
    }
  return n;
}

/** A lamp is brighter than this, in shares of white, and than so many times the mean of what surrounds it. */
const LAMP_ABOVE: f32 = 0.3;
const LAMP_OVER_MEAN: f32 = 5;
/** Pixels of a block of which means are taken, at half the size: 3x3 of them surround a pixel. */
const BLOCK: i32 = 8;

// @ts-ignore: decorator
@inline
export function strength(v: v128): f32 {
  return max(f32x4.extract_lane(v, 0), max(f32x4.extract_lane(v, 1), f32x4.extract_lane(v, 2)));
}

/** The part of a pixel's light that is a lamp's: all channels alike, so that it keeps its colour. */
// @ts-ignore: decorator
@inline
export function lampPart(pixel: v128, above: f32): v128 {
  const most = strength(pixel);
  return f32x4.mul(f32x4.replace_lane(pixel, 3, 0), f32x4.splat(most > above ? 1 - above / most : 0));
}

/**
 * Takes the lamps out of a sheet at half the size (`light` beside `cover`, made of `image`'s pixels with least ≤ ρ < beyond). `brightest`: the
 * strongest light of each 2x2 goes in, and what a lamp is brighter than comes out, 0 where there is none. `blocks`: room for two floats each.
 * `used`: a byte for each slice in which there are lamps is set. Gives whether there are any.
 */
export function takeLamps(
  image: usize, width: i32, height: i32, least: f32, beyond: f32, light: usize, cover: usize, brightest: usize, blocks: usize, used: usize,
  sliceOf: usize, steps: i32, zeroStep: i32, stepsPerPx: f32,
): i32 {
  const w = (width + 1) >> 1, h = (height + 1) >> 1, bw = (w + BLOCK - 1) / BLOCK, bh = (h + BLOCK - 1) / BLOCK;
  memory.fill(blocks, 0, <usize>(bw * bh) << 3);
  let most: f32 = 0;
  for (let y = 0; y < h; y++) {
    const row = blocks + (<usize>((y / BLOCK) * bw) << 3), c = cover + (<usize>(y * w) << 2), l = brightest + (<usize>(y * w) << 2);
    for (let bx = 0; bx < bw; bx++) {
      let sum: f32 = 0, n: f32 = 0;
      for (let x = bx * BLOCK; x < min(w, bx * BLOCK + BLOCK); x++) {
        const p = <usize>x << 2;
        if (load<f32>(c + p) > 0) {
          const here = load<f32>(l + p);
          sum += here;
          n += 1;
          most = max(most, here);
        } else store<f32>(l + p, 0);
      }
      const b = row + (<usize>bx << 3);
      store<f32>(b, load<f32>(b) + sum);
      store<f32>(b, load<f32>(b, 4) + n, 4);
    }
  }
  if (most <= LAMP_ABOVE) return 0;
  let any = 0;
  for (let by = 0; by < bh; by++)
    for (let bx = 0; bx < bw; bx++) {
      let sum: f32 = 0, n: f32 = 0;
      for (let v = max(0, by - 1); v <= min(bh - 1, by + 1); v++)
        for (let u = max(0, bx - 1); u <= min(bw - 1, bx + 1); u++) {
          const b = blocks + (<usize>(v * bw + u) << 3);
          sum += load<f32>(b);
          n += load<f32>(b, 4);
        }
      const above: f32 = max<f32>(LAMP_ABOVE, n > 0 ? LAMP_OVER_MEAN * (sum / n) : 0);
      for (let y = by * BLOCK; y < min(h, by * BLOCK + BLOCK); y++)
        for (let x = bx * BLOCK; x < min(w, bx * BLOCK + BLOCK); x++) {
          const p = <usize>(y * w + x);
          if (load<f32>(brightest + (p << 2)) <= above) {
            store<f32>(brightest + (p << 2), 0);
            continue;
          }
          any = 1;
          store<f32>(brightest + (p << 2), above);
          let part = f32x4.splat(0);
          for (let i = 0; i < 4; i++) {
            const u = 2 * x + (i & 1), v = 2 * y + (i >> 1);
            if (u >= width || v >= height) continue;
            const pixel = v128.load(image + (<usize>(v * width + u) << 4)), rho = f32x4.extract_lane(pixel, 3);
            if (rho < least || rho >= beyond || strength(pixel) <= above) continue;
            part = f32x4.add(part, lampPart(pixel, above));
            const s = <i32>nearest<f32>(rho * stepsPerPx) + zeroStep;
            store<u8>(used + <usize>load<u8>(sliceOf + <usize>(s < 0 ? 0 : s >= steps ? steps - 1 : s)), 1);
          }
          v128.store(light + (p << 4), f32x4.sub(v128.load(light + (p << 4)), f32x4.mul(part, f32x4.splat(0.25))));
        }
    }
  return any;
}
