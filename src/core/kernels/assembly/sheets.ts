// The coarser sheets of the lens blur: what is far out of focus is scattered at half the size, what is farther still at a quarter. The twin is
// core/kernels/lensBlurTwin.ts.
import { at, besides, between } from './enlarge';
import { FIRST_TOLERANCE, meanOfFarthest } from './hidden';
import { strength } from './lampLight';
import { HalvesPlan } from './plan';

/** Radii that differ by no more than this, px of the finer sheet, are one surface: their mean is taken. */
const ONE_SURFACE: f32 = 1;

/** A radius in px of half the size: smaller by what halving spreads itself (see blurShape.ts). */
// @ts-ignore: decorator
@inline
function halvedRadius(rho: f32, spreads: f32): f32 {
  return 0.5 * copysign<f32>(sqrt<f32>(max<f32>(0, rho * rho - spreads)), rho);
}

/**
 * A sheet (light times `cover` beside its radius) at half the size: of each 2x2 what has least ≤ ρ < beyond. Radii come out in its own px. A last
 * row or column counts twice, its light no brighter than white. Gives whether there is any.
 */
export function halveSheet(
  image: usize, cover: usize, width: i32, height: i32, least: f32, beyond: f32, spreads: f32, out: usize, outCover: usize,
): i32 {
  const w = (width + 1) >> 1, h = (height + 1) >> 1, quarter = f32x4.splat(0.25);
  let any = 0;
  for (let y = 0; y < h; y++) {
    const upper = image + (<usize>(2 * y * width) << 4), lower = upper + (<usize>width << 4), whole = 2 * y + 1 < height;
    const first = cover + (<usize>(2 * y * width) << 2), second = first + (<usize>width << 2);
    for (let x = 0; x < w; x++, out += 16, outCover += 4) {
      if (whole && 2 * x + 1 < width) {
        const p = <usize>x << 5, c0 = load<f32>(first + (p >> 2)), c1 = load<f32>(first + (p >> 2), 4), c2 = load<f32>(second + (p >> 2)), c3 = load<f32>(second + (p >> 2), 4);
        if (c0 + c1 + c2 + c3 <= 0) {
          store<f32>(outCover, 0);
          continue;
        }
        if (min(min(c0, c1), min(c2, c3)) == 1) {
          const a = v128.load(upper + p), b = v128.load(upper + p, 16), c = v128.load(lower + p), d = v128.load(lower + p, 16);
          const near = f32x4.extract_lane(f32x4.pmin(f32x4.pmin(a, b), f32x4.pmin(c, d)), 3), far = f32x4.extract_lane(f32x4.pmax(f32x4.pmax(a, b), f32x4.pmax(c, d)), 3);
          if (near >= least && far < beyond && far - near <= ONE_SURFACE) {
            any = 1;
            store<f32>(outCover, 1);
            const mean = f32x4.mul(f32x4.add(f32x4.add(a, b), f32x4.add(c, d)), quarter);
            v128.store(out, f32x4.replace_lane(mean, 3, halvedRadius(f32x4.extract_lane(mean, 3), spreads)));
            continue;
          }
        }
      }
      halvePixel(image, cover, width, height, x, y, least, beyond, spreads, out, outCover);
      any |= load<f32>(outCover) > 0 ? 1 : 0;
    }
  }
  return any;
}

/**
 * The whole picture at half the size, four ways at once: the mean of the farthest of each 2x2 (see hidden.ts), the radius of the nearest, and the
 * sheets before the focus and beyond it as far as there are such. Bits of what comes back: 1 any before, 2 any beyond.
 */
export function firstHalves(plan: HalvesPlan): i32 {
  const width = plan.width, height = plan.height, w = (width + 1) >> 1, h = (height + 1) >> 1, spreads = plan.spreads;
  const before = plan.before, after = plan.after, beforeEnd = plan.beforeEnd, afterFrom = plan.afterFrom, quarter = f32x4.splat(0.25);
  const white = f32x4(1, 1, 1, f32.MAX_VALUE), tolerance = f32x4.splat(FIRST_TOLERANCE);
  let any = 0;
  for (let y = 0; y < h; y++) {
    const upper = plan.image + (<usize>(2 * y * width) << 4), lower = 2 * y + 1 < height ? upper + (<usize>width << 4) : upper;
    for (let x = 0; x < w; x++) {
      const i = <usize>(y * w + x), p = <usize>x << 5, q = 2 * x + 1 < width ? p + 16 : p;
      const a = v128.load(upper + p), b = v128.load(upper + q), c = v128.load(lower + p), d = v128.load(lower + q);
      const near = f32x4.extract_lane(f32x4.pmin(f32x4.pmin(a, b), f32x4.pmin(c, d)), 3), far = f32x4.extract_lane(f32x4.pmax(f32x4.pmax(a, b), f32x4.pmax(c, d)), 3);
      store<f32>(plan.nearest + (i << 2), near);
      const together = far - near <= ONE_SURFACE;
      const ca = f32x4.pmin(a, white), cb = f32x4.pmin(b, white), cc = f32x4.pmin(c, white), cd = f32x4.pmin(d, white);
      // what is one surface lies within the tolerance
      v128.store(plan.farthest + (i << 4), together ? f32x4.mul(f32x4.add(f32x4.add(ca, cb), f32x4.add(cc, cd)), quarter) : meanOfFarthest(ca, cb, cc, cd, tolerance));
      const plain = together && lower != upper && q != p;
      if (before) {
        if (near >= beforeEnd) store<f32>(plan.beforeCover + (i << 2), 0);
        else {
          any |= 1;
          if (plain && far < beforeEnd) wholePixel(a, b, c, d, spreads, before + (i << 4), plan.beforeCover + (i << 2), plan.beforeBrightest + (i << 2));
          else store<f32>(plan.beforeBrightest + (i << 2), halvePixel(plan.image, 0, width, height, x, y, -f32.MAX_VALUE, beforeEnd, spreads, before + (i << 4), plan.beforeCover + (i << 2)));
        }
      }
      if (after) {
        if (far < afterFrom) store<f32>(plan.afterCover + (i << 2), 0);
        else {
          any |= 2;
          if (plain && near >= afterFrom) wholePixel(a, b, c, d, spreads, after + (i << 4), plan.afterCover + (i << 2), plan.afterBrightest + (i << 2));
          else store<f32>(plan.afterBrightest + (i << 2), halvePixel(plan.image, 0, width, height, x, y, afterFrom, f32.MAX_VALUE, spreads, after + (i << 4), plan.afterCover + (i << 2)));
        }
      }
    }
  }
  return any;
}

/** Four pixels that are one surface, all there. */
// @ts-ignore: decorator
@inline
function wholePixel(a: v128, b: v128, c: v128, d: v128, spreads: f32, out: usize, cover: usize, brightest: usize): void {
  const mean = f32x4.mul(f32x4.add(f32x4.add(a, b), f32x4.add(c, d)), f32x4.splat(0.25));
  v128.store(out, f32x4.replace_lane(mean, 3, halvedRadius(f32x4.extract_lane(mean, 3), spreads)));
  store<f32>(cover, 1);
  store<f32>(brightest, strength(f32x4.pmax(f32x4.pmax(a, b), f32x4.pmax(c, d))));
}

/** One pixel of it, of which not all may be there, nor be one surface: then it takes the radius of the brightest. Gives the strongest light. */
function halvePixel(image: usize, cover: usize, width: i32, height: i32, x: i32, y: i32, least: f32, beyond: f32, spreads: f32, out: usize, outCover: usize): f32 {
  let sum = f32x4.splat(0), n: f32 = 0, mean: f32 = 0, low: f32 = f32.MAX_VALUE, high: f32 = -f32.MAX_VALUE, brightest: f32 = -1, own: f32 = 0;
  for (let i = 0; i < 4; i++) {
    let u = 2 * x + (i & 1), v = 2 * y + (i >> 1);
    const twice = u >= width || v >= height;
    u = min(u, width - 1);
    v = min(v, height - 1);
    const p = <usize>(v * width + u), pixel = v128.load(image + (p << 4)), rho = f32x4.extract_lane(pixel, 3);
    if (rho < least || rho >= beyond) continue;
    const share: f32 = cover ? load<f32>(cover + (p << 2)) : 1;
    if (share <= 0) continue;
    const light = twice ? f32x4.pmin(pixel, f32x4.splat(share)) : pixel;
    sum = f32x4.add(sum, light);
    n += share;
    mean += share * rho;
    low = min(low, rho);
    high = max(high, rho);
    const most = strength(light);
    if (most > brightest) {
      brightest = most;
      own = rho;
    }
  }
  store<f32>(outCover, 0.25 * n);
  if (n <= 0) return 0;
  const rho: f32 = high - low <= ONE_SURFACE ? mean / n : own;
  v128.store(out, f32x4.replace_lane(f32x4.mul(sum, f32x4.splat(0.25)), 3, halvedRadius(rho, spreads)));
  return brightest;
}

/** What lies behind, already at half the size, as a sheet: of it what has least ≤ ρ < beyond, covered as far as pixels own it. */
export function hiddenSheet(hidden: usize, bits: usize, n: i32, least: f32, beyond: f32, spreads: f32, out: usize, outCover: usize): i32 {
  let any = 0;
  for (let i = 0; i < n; i++, hidden += 16, out += 16, outCover += 4) {
    const owners = load<u8>(bits + <usize>i);
    let cover: f32 = 0;
    if (owners) {
      const pixel = v128.load(hidden), rho = f32x4.extract_lane(pixel, 3);
      if (rho >= least && rho < beyond) {
        cover = 0.25 * (<f32>popcnt<i32>(owners));
        v128.store(out, f32x4.replace_lane(f32x4.mul(pixel, f32x4.splat(cover)), 3, halvedRadius(rho, spreads)));
        any = 1;
      }
    }
    store<f32>(outCover, cover);
  }
  return any;
}

/** What is left to be covered behind a sheet: `through` (0: all) without what it covers itself. */
// @ts-ignore: decorator
@inline
function leftBehind(out: usize, through: usize, p: usize): f32 {
  return max<f32>(0, (through ? load<f32>(through + (p << 2)) : 1) - load<f32>(out + (p << 4), 12));
}

/** A cell of a row that is covered so little counts as not seen. */
const SEEN: f32 = 1e-6;

/**
 * Lays rows y0 … y1−1 of a sheet over the coarser one behind it: as much of it as is left, of the share that its cells began with. `finished`: the
 * rows come out as light then, divided by their coverage, alpha 1.
 */
export function behindRows(
  out: usize, through: usize, width: i32, y0: i32, y1: i32, coarse: usize, coarseThrough: usize, coarseWidth: i32, coarseHeight: i32, room: usize,
  finished: i32,
): void {
  const left = room + (<usize>(coarseWidth + 2) << 4), one = f32x4.splat(1), zero = f32x4.splat(0), least = f32x4.splat(SEEN), thin = f32x4.splat(THIN);
  for (let y = y0; y < y1; y++) {
    const own = y >> 1, next = besides(y, coarseHeight), bytes = <usize>coarseWidth << 4;
    const row = between(coarse + <usize>own * bytes, coarse + <usize>next * bytes, coarseWidth, room);
    const a = coarseThrough + (<usize>(own * coarseWidth) << 2), b = coarseThrough + (<usize>(next * coarseWidth) << 2);
    for (let x = 0; x < coarseWidth; x++) store<f32>(left + (<usize>(x + 1) << 2), 0.75 * load<f32>(a + (<usize>x << 2)) + 0.25 * load<f32>(b + (<usize>x << 2)));
    store<f32>(left, load<f32>(left, 4));
    store<f32>(left + (<usize>(coarseWidth + 1) << 2), load<f32>(left + (<usize>coarseWidth << 2)));
    let x = 0;
    for (; x + 4 <= width; x += 4) {
      const p = <usize>(y * width + x), target = out + (p << 4), v0 = v128.load(target), v1 = v128.load(target, 16), v2 = v128.load(target, 32), v3 = v128.load(target, 48);
      const covered = v128.shuffle<f32>(v128.shuffle<f32>(v0, v1, 3, 7, 3, 7), v128.shuffle<f32>(v2, v3, 3, 7, 3, 7), 0, 1, 4, 5);
      const open = f32x4.pmax(zero, f32x4.sub(through ? v128.load(through + (p << 2)) : one, covered));
      const cells = v128.load(left + (<usize>(x >> 1) << 2));
      const share = f32x4.add(
        f32x4.mul(f32x4.splat(0.75), v128.shuffle<f32>(cells, cells, 1, 1, 2, 2)), f32x4.mul(f32x4.splat(0.25), v128.shuffle<f32>(cells, cells, 0, 2, 1, 3)));
      const times = v128.and(f32x4.div(open, f32x4.pmax(least, share)), f32x4.ge(share, least));
      const light = row + (<usize>(x >> 1) << 4), before = v128.load(light - 16), c0 = v128.load(light), c1 = v128.load(light, 16), behind = v128.load(light, 32);
      const o0 = f32x4.add(v0, f32x4.mul(mixed(c0, before), v128.shuffle<f32>(times, times, 0, 0, 0, 0))), o1 = f32x4.add(v1, f32x4.mul(mixed(c0, c1), v128.shuffle<f32>(times, times, 1, 1, 1, 1)));
      const o2 = f32x4.add(v2, f32x4.mul(mixed(c1, c0), v128.shuffle<f32>(times, times, 2, 2, 2, 2))), o3 = f32x4.add(v3, f32x4.mul(mixed(c1, behind), v128.shuffle<f32>(times, times, 3, 3, 3, 3)));
      if (!finished) {
        v128.store(target, o0);
        v128.store(target, o1, 16);
        v128.store(target, o2, 32);
        v128.store(target, o3, 48);
        continue;
      }
      const weights = v128.shuffle<f32>(v128.shuffle<f32>(o0, o1, 3, 7, 3, 7), v128.shuffle<f32>(o2, o3, 3, 7, 3, 7), 0, 1, 4, 5);
      const gains = f32x4.div(one, f32x4.pmax(thin, weights));
      v128.store(target, f32x4.replace_lane(f32x4.mul(o0, v128.shuffle<f32>(gains, gains, 0, 0, 0, 0)), 3, 1));
      v128.store(target, f32x4.replace_lane(f32x4.mul(o1, v128.shuffle<f32>(gains, gains, 1, 1, 1, 1)), 3, 1), 16);
      v128.store(target, f32x4.replace_lane(f32x4.mul(o2, v128.shuffle<f32>(gains, gains, 2, 2, 2, 2)), 3, 1), 32);
      v128.store(target, f32x4.replace_lane(f32x4.mul(o3, v128.shuffle<f32>(gains, gains, 3, 3, 3, 3)), 3, 1), 48);
    }
    for (; x < width; x++) {
      const p = <usize>(y * width + x), target = out + (p << 4), cell = left + (<usize>((x >> 1) + 1) << 2);
      const share: f32 = 0.75 * load<f32>(cell) + 0.25 * load<f32>(x & 1 ? cell + 4 : cell - 4), times: f32 = share >= SEEN ? leftBehind(out, through, p) / share : 0;
      const v = f32x4.add(v128.load(target), f32x4.mul(at(row, x), f32x4.splat(times)));
      v128.store(target, finished ? asLight(v) : v);
    }
  }
}

/** ¾ of a cell, and ¼ of the next. */
// @ts-ignore: decorator
@inline
function mixed(own: v128, next: v128): v128 {
  return f32x4.add(f32x4.mul(f32x4.splat(0.75), own), f32x4.mul(f32x4.splat(0.25), next));
}

/** Coverage is not divided by less than this. */
const THIN: f32 = 1e-4;

// @ts-ignore: decorator
@inline
function asLight(v: v128): v128 {
  return f32x4.replace_lane(f32x4.mul(v, f32x4.splat(1 / max<f32>(THIN, f32x4.extract_lane(v, 3)))), 3, 1);
}

/** Rows as light: what was gathered over its coverage, alpha 1. */
export function finishRows(out: usize, width: i32, y0: i32, y1: i32): void {
  const end = out + (<usize>(y1 * width) << 4);
  for (let p = out + (<usize>(y0 * width) << 4); p < end; p += 16) v128.store(p, asLight(v128.load(p)));
}
