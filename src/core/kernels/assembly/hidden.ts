// The plate behind the foreground, at half the size: a pyramid that averages only the farthest children, read where a lens would see past an edge.
import { HiddenPlan } from './plan';

const NOTHING: f32 = -1e9;
const NEED: f32 = 1;
const NEED_PER_CELL: f32 = 0.55;
/** Children within this of the farthest count at a level: half a px and a quarter of its cell. */
export const FIRST_TOLERANCE: f32 = 1;
const TOLERANCE: f32 = 0.5;
const TOLERANCE_PER_CELL: f32 = 0.25;

@inline function word(p: usize): i32 { return load<i32>(p); }
@inline function radii(v: v128): v128 { return i8x16.shuffle(v, v, 12, 13, 14, 15, 12, 13, 14, 15, 12, 13, 14, 15, 12, 13, 14, 15); }

/** The mean of those of four pixels that lie within `tolerance` of the farthest. */
// @ts-ignore: decorator
@inline
export function meanOfFarthest(a: v128, b: v128, c: v128, d: v128, tolerance: v128): v128 {
  const ra = radii(a), rb = radii(b), rc = radii(c), rd = radii(d), one = f32x4.splat(1);
  const m = f32x4.sub(f32x4.pmax(f32x4.pmax(ra, rb), f32x4.pmax(rc, rd)), tolerance);
  const wa = f32x4.ge(ra, m), wb = f32x4.ge(rb, m), wc = f32x4.ge(rc, m), wd = f32x4.ge(rd, m);
  const s = f32x4.add(f32x4.add(v128.and(a, wa), v128.and(b, wb)), f32x4.add(v128.and(c, wc), v128.and(d, wd)));
  const n = f32x4.add(f32x4.add(v128.and(one, wa), v128.and(one, wb)), f32x4.add(v128.and(one, wc), v128.and(one, wd)));
  return f32x4.div(s, n);
}

/** One level of the pyramid from the one below; children within `tolerance` of the farthest are averaged. */
function farthest(source: usize, sw: i32, sh: i32, target: usize, tolerance: f32): void {
  const w = (sw + 1) >> 1, h = (sh + 1) >> 1, t4 = f32x4.splat(tolerance);
  for (let y = 0; y < h; y++) {
    const r0 = source + (<usize>(y * 2 * sw) << 4), r1 = y * 2 + 1 < sh ? r0 + (<usize>sw << 4) : r0;
    let d = target + (<usize>(y * w) << 4);
    for (let x = 0; x < w; x++) {
      const o = <usize>x << 5, o1 = x * 2 + 1 < sw ? o + 16 : o;
      const a = v128.load(r0 + o), b = v128.load(r0 + o1), c = v128.load(r1 + o), e = v128.load(r1 + o1);
      v128.store(d, meanOfFarthest(a, b, c, e, t4));
      d += 16;
    }
  }
}

/** Smallest radius of every block of 8x8 pixels. */
function lowestOfBlocks(plan: HiddenPlan): void {
  const w = (plan.width + 1) >> 1, h = (plan.height + 1) >> 1, bw = (plan.width + 7) >> 3, bh = (plan.height + 7) >> 3, low = plan.blockLow;
  for (let i = 0; i < bw * bh; i++) store<f32>(low + (<usize>i << 2), f32.MAX_VALUE);
  let from = plan.nearest;
  for (let y = 0; y < h; y++) {
    const m = low + (<usize>((y >> 2) * bw) << 2);
    for (let x = 0; x < w; x++, from += 4) {
      const block = m + (<usize>(x >> 2) << 2);
      store<f32>(block, min(load<f32>(block), load<f32>(from)));
    }
  }
}

/** Farthest radius of a level's cells x0 … x1, y0 … y1, as far as there are such. */
function farthestOf(level: usize, w: i32, h: i32, x0: i32, x1: i32, y0: i32, y1: i32): f32 {
  let m: f32 = -f32.MAX_VALUE;
  for (let v = max(0, y0); v <= min(h - 1, y1); v++)
    for (let u = max(0, x0); u <= min(w - 1, x1); u++) m = max(m, load<f32>(level + (<usize>(v * w + u) << 4), 12));
  return m;
}

/** Per level, the farthest radius that a pixel of the block at hand may read. */
const farthestRead = memory.data(4 * 16);

function readFarthest(plan: HiddenPlan, bx: i32, by: i32): void {
  for (let l = 1; l <= plan.levels; l++) {
    const t = plan.levelTable + <usize>(l - 1) * 12, x = bx << 3, y = by << 3;
    const m = farthestOf(<usize>word(t), load<i32>(t, 4), load<i32>(t, 8), (x >> l) - 1, ((x + 7) >> l) + 1, (y >> l) - 1, ((y + 7) >> l) + 1);
    store<f32>(farthestRead + (<usize>l << 2), m);
  }
}

/** One hidden pixel, seen past the nearest of the four that it lies behind: finer levels first, only taps that the lens sees, to full coverage. */
@inline function reveal(plan: HiddenPlan, x: i32, y: i32): void {
  const w1 = (plan.width + 1) >> 1, i = <usize>(y * w1 + x), rho = load<f32>(plan.nearest + (i << 2));
  let sum = f32x4.splat(0), left: f32 = 1;
  for (let l = 1; l <= plan.levels; l++) {
    const need: f32 = rho + max<f32>(NEED, NEED_PER_CELL * <f32>(1 << l));
    if (load<f32>(farthestRead + (<usize>l << 2)) < need) continue;
    const t = plan.levelTable + <usize>(l - 1) * 12, P = <usize>word(t), w = load<i32>(t, 4), h = load<i32>(t, 8);
    const cells: f32 = <f32>2 / <f32>(1 << l);
    const fx: f32 = (<f32>x + 0.5) * cells - 0.5, fy: f32 = (<f32>y + 0.5) * cells - 0.5, flx = floor<f32>(fx), fly = floor<f32>(fy), tx = fx - flx, ty = fy - fly;
    let ix = <i32>flx, iy = <i32>fly;
    const ix1 = min(w - 1, ix + 1), iy1 = min(h - 1, iy + 1);
    ix = max(0, ix);
    iy = max(0, iy);
    const a = v128.load(P + (<usize>(iy * w + ix) << 4)), b = v128.load(P + (<usize>(iy * w + ix1) << 4));
    const c = v128.load(P + (<usize>(iy1 * w + ix) << 4)), e = v128.load(P + (<usize>(iy1 * w + ix1) << 4));
    const ab = i8x16.shuffle(a, b, 12, 13, 14, 15, 28, 29, 30, 31, 12, 13, 14, 15, 28, 29, 30, 31);
    const ce = i8x16.shuffle(c, e, 12, 13, 14, 15, 28, 29, 30, 31, 12, 13, 14, 15, 28, 29, 30, 31);
    const seen = f32x4.ge(i8x16.shuffle(ab, ce, 0, 1, 2, 3, 4, 5, 6, 7, 16, 17, 18, 19, 20, 21, 22, 23), f32x4.splat(need));
    if (!v128.any_true(seen)) continue;
    const across = f32x4.add(f32x4(1, 0, 1, 0), f32x4.mul(f32x4(-1, 1, -1, 1), f32x4.splat(tx)));
    const down = f32x4.add(f32x4(1, 1, 0, 0), f32x4.mul(f32x4(-1, -1, 1, 1), f32x4.splat(ty)));
    const weights = v128.and(seen, f32x4.mul(across, down));
    const wa = f32x4.extract_lane(weights, 0), wb = f32x4.extract_lane(weights, 1), wc = f32x4.extract_lane(weights, 2), we = f32x4.extract_lane(weights, 3);
    const cover = wa + wb + wc + we;
    if (cover <= 0) continue;
    const taps = f32x4.add(f32x4.add(f32x4.mul(a, f32x4.splat(wa)), f32x4.mul(b, f32x4.splat(wb))), f32x4.add(f32x4.mul(c, f32x4.splat(wc)), f32x4.mul(e, f32x4.splat(we))));
    sum = f32x4.add(sum, f32x4.mul(f32x4.splat(left), taps));
    left *= 1 - cover;
    if (left < 0.03) break;
  }
  if (left >= 0.95) return;
  const hidden = f32x4.mul(sum, f32x4.splat(<f32>1 / (1 - left)));
  v128.store(plan.hidden + (i << 4), hidden);
  store<u8>(plan.bits + i, owners(plan, x, y, f32x4.extract_lane(hidden, 3)));
}

@inline function sliceOf(plan: HiddenPlan, rho: f32): i32 {
  const s = <i32>nearest<f32>(rho * plan.stepsPerPx) + plan.zeroStep;
  return load<u8>(plan.sliceOf + <usize>(s < 0 ? 0 : s >= plan.steps ? plan.steps - 1 : s));
}

/** Behind which of four pixels it lies: those that the lens sees past, and that are of another slice; in their own it would only dilute them. */
@inline function owners(plan: HiddenPlan, x: i32, y: i32, rho: f32): u8 {
  const slice = sliceOf(plan, rho);
  let bits = 0;
  for (let i = 0; i < 4; i++) {
    const u = 2 * x + (i & 1), v = 2 * y + (i >> 1);
    if (u >= plan.width || v >= plan.height) continue;
    const own = load<f32>(plan.image + (<usize>(v * plan.width + u) << 4), 12);
    if (rho >= own + NEED && sliceOf(plan, own) != slice) bits |= 1 << i;
  }
  return <u8>bits;
}

/** Fills `hidden` where something may show, and `bits` everywhere; returns the number of blocks of 8x8 in which something may. */
export function hiddenPlate(plan: HiddenPlan): i32 {
  const width = plan.width, height = plan.height, levels = plan.levels, w1 = (width + 1) >> 1, h1 = (height + 1) >> 1;
  for (let l = 2; l <= levels; l++) {
    const t = plan.levelTable + <usize>(l - 1) * 12, below = t - 12;
    farthest(<usize>word(below), load<i32>(below, 4), load<i32>(below, 8), <usize>word(t), TOLERANCE + TOLERANCE_PER_CELL * <f32>(1 << l));
  }
  lowestOfBlocks(plan);
  memory.fill(plan.bits, 0, <usize>(w1 * h1));
  const bw = (width + 7) >> 3, bh = (height + 7) >> 3;
  let open = 0;
  for (let by = 0; by < bh; by++)
    for (let bx = 0; bx < bw; bx++) {
      const low = load<f32>(plan.blockLow + (<usize>(by * bw + bx) << 2));
      let shows = false;
      for (let l = min(3, levels); l <= levels; l++) {
        const t = plan.levelTable + <usize>(l - 1) * 12, need = l <= 3 ? NEED : max<f32>(NEED, NEED_PER_CELL * <f32>(1 << l)), shift = l > 3 ? l - 3 : 0;
        const x = bx >> shift, y = by >> shift;
        if (farthestOf(<usize>word(t), load<i32>(t, 4), load<i32>(t, 8), x - 1, x + 1, y - 1, y + 1) - low >= need) {
          shows = true;
          break;
        }
      }
      if (!shows) continue;
      open++;
      readFarthest(plan, bx, by);
      for (let y = by * 4; y < min(h1, by * 4 + 4); y++) for (let x = bx * 4; x < min(w1, bx * 4 + 4); x++) reveal(plan, x, y);
    }
  return open;
}
