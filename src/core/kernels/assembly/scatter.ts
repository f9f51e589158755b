// Row-streamed span scatter: the two fronts of each run (see runs.ts) are added to a row difference buffer, whose prefix sum is the blurred row of a
// depth slice.
import { addCut, addLayers, addRun, addRunTwice, word } from './discs';
import { at, besides, between } from './enlarge';
import { strength } from './lampLight';
import { BlurPlan } from './plan';
import { FAR_LEFT, prepareRow, slotOf } from './runs';

/** A plane at 1/2ⁿ of the size, at a pixel of the whole: linear between its cells. */
@inline function coarseAt(plane: usize, width: i32, height: i32, halvings: i32, x: i32, y: i32): f32 {
  const cells: f32 = <f32>1 / <f32>(1 << halvings);
  const fx: f32 = max<f32>(0, (<f32>x + 0.5) * cells - 0.5), fy: f32 = max<f32>(0, (<f32>y + 0.5) * cells - 0.5);
  const x0 = min(width - 1, <i32>fx), y0 = min(height - 1, <i32>fy), x1 = min(width - 1, x0 + 1), y1 = min(height - 1, y0 + 1), tx = fx - <f32>x0, ty = fy - <f32>y0;
  const upper = plane + (<usize>(y0 * width) << 2), lower = plane + (<usize>(y1 * width) << 2);
  const a = load<f32>(upper + (<usize>x0 << 2)) * (1 - tx) + load<f32>(upper + (<usize>x1 << 2)) * tx;
  const b = load<f32>(lower + (<usize>x0 << 2)) * (1 - tx) + load<f32>(lower + (<usize>x1 << 2)) * tx;
  return a * (1 - ty) + b * ty;
}

/** Prefix sum over columns [from, to] of lamps' light; adds what is seen of it to row y; clears the difference row. */
function addLamps(plan: BlurPlan, row: usize, y: i32, shares: usize, from: i32, to: i32): void {
  const pad = plan.pad, zero = f32x4.splat(0);
  let sum = zero;
  for (let column = from; column <= to; column++) {
    const p = row + (<usize>column << 4), x = column - pad;
    sum = f32x4.add(sum, v128.load(p));
    v128.store(p, zero);
    if (x < 0 || x >= plan.width || y >= plan.height || strength(sum) < 1e-5) continue;
    const target = plan.out + (<usize>(y * plan.width + x) << 4), here = v128.load(target);
    let share = coarseAt(shares, plan.shareWidth, plan.shareHeight, plan.halvings, x, y);
    if (plan.openAtHalf) {
      const open = coarseAt(plan.openAtHalf, plan.halfWidth, plan.halfHeight, 1, x, y);
      share *= open < 1e-6 ? 0 : max<f32>(0, 1 - f32x4.extract_lane(here, 3)) / open;
    }
    v128.store(target, f32x4.add(here, f32x4.mul(f32x4.replace_lane(sum, 3, 0), f32x4.splat(share))));
  }
}

/** The share of a slice's light that is seen, of a row, before the slice is laid down; `row` are its weights, still as differences. */
function shareRow(plan: BlurPlan, row: usize, transmittance: usize, shares: usize, from: i32, to: i32): void {
  const pad = plan.pad, width = plan.width;
  for (let x = 0; x < width; x++) store<f32>(shares + (<usize>x << 2), load<f32>(transmittance + (<usize>x << 2)) > 0 ? 1 : 0);
  let weight: f32 = 0;
  for (let column = from; column <= min(to, pad + width - 1); column++) {
    weight += load<f32>(row + (<usize>column << 4), 12);
    if (column < pad) continue;
    const x = <usize>(column - pad) << 2, left = load<f32>(transmittance + x);
    if (weight > left) store<f32>(shares + x, left / weight);
  }
}

/** Prefix sum over columns [from, to]; composites the slice behind what is already there; clears the difference row. */
function composite(plan: BlurPlan, row: usize, transmittance: usize, accumulator: usize, from: i32, to: i32): void {
  const pad = plan.pad, zero = f32x4.splat(0);
  let sum = zero, p = row + (<usize>from << 4);
  const leftEnd = row + (<usize>min(pad, to + 1) << 4), rightEnd = row + (<usize>min(pad + plan.width, to + 1) << 4), end = row + (<usize>(to + 1) << 4);
  while (p < leftEnd) {
    sum = f32x4.add(sum, v128.load(p));
    v128.store(p, zero);
    p += 16;
  }
  const x = <usize>max(from - pad, 0);
  let t = transmittance + (x << 2), c = accumulator + (x << 4);
  while (p < rightEnd) {
    sum = f32x4.add(sum, v128.load(p));
    v128.store(p, zero);
    const weight = f32x4.extract_lane(sum, 3);
    if (weight > 1e-4) {
      const left = load<f32>(t);
      if (weight <= left) {
        v128.store(c, f32x4.add(v128.load(c), sum));
        store<f32>(t, left - weight);
      } else if (left > 0) {
        v128.store(c, f32x4.add(v128.load(c), f32x4.mul(sum, f32x4.splat(left / weight))));
        store<f32>(t, 0);
      }
    }
    p += 16;
    t += 4;
    c += 16;
  }
  while (p < end) {
    v128.store(p, zero);
    p += 16;
  }
}

/** How a row begins: with what lies in front of this sheet, and with what is left to be covered. */
function beginRow(plan: BlurPlan, y: i32, transmittance: usize, accumulator: usize): void {
  const width = plan.width;
  if (plan.front && y < plan.height) {
    const w = plan.frontWidth, bytes = <usize>w << 4;
    const row = between(plan.front + <usize>(y >> 1) * bytes, plan.front + <usize>besides(y, plan.frontHeight) * bytes, w, plan.room);
    for (let x = 0; x < width; x++) {
      const v = at(row, x);
      v128.store(accumulator + (<usize>x << 4), v);
      store<f32>(transmittance + (<usize>x << 2), max<f32>(0, 1 - f32x4.extract_lane(v, 3)));
    }
    return;
  }
  memory.fill(accumulator, 0, <usize>width << 4);
  if (plan.through && y < plan.height) memory.copy(transmittance, plan.through + (<usize>(y * width) << 2), <usize>width << 2);
  else for (let x = 0; x < width; x++) store<f32>(transmittance + (<usize>x << 2), 1);
}

/** What two rows leave open, at half the size. The last row of an odd number is taken twice. */
function leaveOpen(plan: BlurPlan, y: i32, upper: usize, lower: usize): void {
  const width = plan.width, w = (width + 1) >> 1, out = plan.leaves + (<usize>((y >> 1) * w) << 2);
  if (y + 1 >= plan.height) lower = upper;
  for (let x = 0; x < w; x++) {
    const p = <usize>x << 3, q = 2 * x + 1 < width ? p + 4 : p;
    store<f32>(out + (<usize>x << 2), 0.25 * (load<f32>(upper + p) + load<f32>(upper + q) + load<f32>(lower + p) + load<f32>(lower + q)));
  }
}

/** Forgets the rows held; call once before a new picture. */
export function beginScatter(plan: BlurPlan): void {
  for (let i = 0; i < plan.slots; i++) store<i32>(plan.rowInSlot + (<usize>i << 2), i32.MIN_VALUE);
  memory.fill(plan.difference, 0, plan.differenceBytes << 1);
}

/**
 * Gathers output rows y0 … y1−1 in `out`, not yet divided by their coverage. Rows are made in pairs, so y0 must have the parity of the first
 * call's; a row more is written where they are odd.
 */
export function scatterRows(plan: BlurPlan, y0: i32, y1: i32): void {
  const width = plan.width, slices = plan.slices, maxRow = plan.maxRow, pad = plan.pad;
  const row = plan.difference, row2 = row + plan.differenceBytes;
  const one = f32x4.splat(1), cuts = plan.cutPerPx > 0;
  const transmittance = plan.transmittance, transmittance2 = transmittance + (<usize>width << 2);
  const behind = plan.hiddenBits || plan.hiddenCover ? 1 : 0;
  for (let r = y0 - maxRow; r < y0 + maxRow; r++) prepareRow(plan, r);
  for (let y = y0; y < y1; y += 2) {
    prepareRow(plan, y + maxRow);
    prepareRow(plan, y + maxRow + 1);
    const accumulator = plan.out + (<usize>(y * width) << 4), accumulator2 = accumulator + (<usize>width << 4);
    if (!plan.lampsAbove) {
      beginRow(plan, y, transmittance, accumulator);
      beginRow(plan, y + 1, transmittance2, accumulator2);
    }
    for (let k = 0; k < slices; k++) {
      let from = FAR_LEFT, to = -FAR_LEFT;
      // dy is the kernel row for output row y, dy + 1 for row y + 1
      for (let dy = -maxRow - 1; dy <= maxRow; dy++) {
        const slot = slotOf(plan, y - dy), a0 = abs<i32>(dy), a1 = abs<i32>(dy + 1), low = min(a0, a1), high = max(a0, a1);
        if (word(plan.reach + (<usize>(slot * slices + k) << 2)) < low) continue;
        const c = plan.columns + (<usize>(slot * slices + k) << 3);
        from = min(from, word(c));
        to = max(to, load<i32>(c, 4));
        const near = <usize>(dy << 5), single = a0 < a1 ? row : row2, singleSpan = a0 < a1 ? near : near + 32;
        for (let h = 0; h <= behind; h++) {
          const first = (h ? plan.firstHiddenRun : plan.firstRun) + (<usize>(slot * (slices + 1) + k) << 2), runs = h ? plan.hiddenRuns : plan.runs;
          let j = runs + (<usize>word(first) << 4);
          const end = runs + (<usize>load<i32>(first, 4) << 4);
          for (; j < end; j += 16) {
            const step = <usize>load<i32>(j, 4) << 2, last = word(plan.lastRow + step);
            if (last < low) continue;
            if (plan.layers) {
              if (cuts) addCut(plan, row, row2, j, dy, slot);
              else addLayers(plan, row, row2, j, dy);
              continue;
            }
            const span = <usize>word(plan.spanOf + step), column = <usize>word(j), length = load<i32>(j, 8), colour = <usize>load<i32>(j, 12);
            if (last >= high) addRunTwice(row, span + near, row2, span + near + 32, column, length, colour, one);
            else addRun(single, span + singleSpan, column, length, colour, one);
          }
        }
      }
      const shares = plan.shares ? <usize>word(plan.shares + (<usize>k << 2)) : 0;
      if (to < from && (!shares || plan.lampsAbove)) continue;
      from = max(0, from + pad - 1);
      to = min(width + 2 * pad - 1, to + pad + 2);
      if (plan.lampsAbove) {
        addLamps(plan, row, y, shares, from, to);
        addLamps(plan, row2, y + 1, shares, from, to);
        continue;
      }
      if (shares) {
        shareRow(plan, row, transmittance, shares + (<usize>(y * width) << 2), from, to);
        if (y + 1 < plan.height) shareRow(plan, row2, transmittance2, shares + (<usize>((y + 1) * width) << 2), from, to);
      }
      if (to < from) continue;
      composite(plan, row, transmittance, accumulator, from, to);
      composite(plan, row2, transmittance2, accumulator2, from, to);
    }
    if (plan.leaves) leaveOpen(plan, y, transmittance, transmittance2);
  }
}
