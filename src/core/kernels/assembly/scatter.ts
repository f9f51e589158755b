// Row-streamed span scatter with run lengths. A run is a stretch of one source row with one quantised signed radius; its two
// fronts are added to a row difference buffer, whose prefix sum is the blurred row of a depth slice.
import { addCut, addLayers, addRun, addRunTwice, CUT_PX, cutsOfRow, word } from './discs';
import { BlurPlan } from './plan';

const NOTHING: f32 = -1e9;
const FAR_LEFT: i32 = 0x3fffffff;

@inline function stepOf(plan: BlurPlan, rho: f32): i32 {
  const s = <i32>nearest<f32>(rho * plan.stepsPerPx) + plan.zeroStep;
  return s < 0 ? 0 : s >= plan.steps ? plan.steps - 1 : s;
}

@inline function slotOf(plan: BlurPlan, row: i32): i32 {
  const r = row % plan.slots;
  return r < 0 ? r + plan.slots : r;
}

/** A run is 16 bytes: byte offset of its first column in the difference row, radius step, length, address of its colours. */
@inline function putRun(p: usize, column: i32, step: i32, length: i32, colour: usize): void {
  store<i32>(p, column << 4);
  store<i32>(p, step, 4);
  store<i32>(p, length, 8);
  store<i32>(p, <i32>colour, 12);
}

/** Counting sort of `n` scratch runs by slice into the slot's run list; widens the slot's reach and column range. */
function sortRuns(plan: BlurPlan, n: i32, runs: usize, offset: i32, first: usize, reach: usize, columns: usize): void {
  const slices = plan.slices, count = plan.count, scratch = plan.scratchRuns;
  memory.fill(count, 0, <usize>slices << 2);
  for (let i = 0; i < n; i++) {
    const p = scratch + (<usize>i << 4), step = <usize>load<i32>(p, 4);
    const k = <usize>load<u8>(plan.sliceOf + step) << 2, r = word(plan.lastRow + (step << 2));
    const x0 = (word(p) >> 4) - plan.pad, x1 = x0 + load<i32>(p, 8) - 1;
    store<i32>(count + k, word(count + k) + 1);
    if (r > word(reach + k)) store<i32>(reach + k, r);
    const c = columns + (k << 1);
    if (x0 - r < word(c)) store<i32>(c, x0 - r);
    if (x1 + r > load<i32>(c, 4)) store<i32>(c, x1 + r, 4);
  }
  let at = offset;
  for (let k = 0; k < slices; k++) {
    const o = <usize>k << 2, c = word(count + o);
    store<i32>(first + o, at);
    store<i32>(count + o, at);
    at += c;
  }
  store<i32>(first + (<usize>slices << 2), at);
  for (let i = 0; i < n; i++) {
    const p = scratch + (<usize>i << 4), k = <usize>load<u8>(plan.sliceOf + load<i32>(p, 4)) << 2, j = word(count + k);
    store<i32>(count + k, j + 1);
    v128.store(runs + (<usize>j << 4), v128.load(p));
  }
}

/** Prepares source row `row` (rows outside the picture repeat the border, with highlights clamped to 1). */
function prepareRow(plan: BlurPlan, row: i32): void {
  const width = plan.width, pad = plan.pad, maxRow = plan.maxRow, slices = plan.slices;
  const slot = slotOf(plan, row), marker = plan.rowInSlot + (<usize>slot << 2);
  if (word(marker) == row) return;
  store<i32>(marker, row);
  const y = row < 0 ? 0 : row >= plan.height ? plan.height - 1 : row, outside = y != row;
  if (plan.cutPerPx > 0) cutsOfRow(plan, slot, y);
  const image = plan.image + (<usize>(y * width) << 4), scratch = plan.scratchRuns;
  const reach = plan.reach + (<usize>(slot * slices) << 2), columns = plan.columns + (<usize>(slot * slices) << 3);
  for (let k = 0; k < slices; k++) {
    store<i32>(reach + (<usize>k << 2), -1);
    store<i32>(columns + (<usize>k << 3), FAR_LEFT);
    store<i32>(columns + (<usize>k << 3), -FAR_LEFT, 4);
  }
  const ones = f32x4.splat(1), limit = outside ? ones : f32x4.splat(f32.MAX_VALUE);
  const colours = plan.colours + <usize>slot * plan.colourRowBytes, colour0 = colours + (<usize>maxRow << 4);
  let border = f32x4.replace_lane(f32x4.pmin(v128.load(image), ones), 3, 1);
  for (let t = 0; t < maxRow; t++) v128.store(colours + (<usize>t << 4), border);
  border = f32x4.replace_lane(f32x4.pmin(v128.load(image + (<usize>(width - 1) << 4)), ones), 3, 1);
  for (let t = 0; t < maxRow; t++) v128.store(colour0 + (<usize>(width + t) << 4), border);
  const pieces = plan.cutPerPx > 0;
  let n = 0, step = stepOf(plan, load<f32>(image, 12)), start = -word(plan.lastRow + (<usize>step << 2));
  for (let x = 0; x < width; x++) {
    const v = v128.load(image + (<usize>x << 4)), s = stepOf(plan, f32x4.extract_lane(v, 3));
    v128.store(colour0 + (<usize>x << 4), f32x4.replace_lane(f32x4.pmin(v, limit), 3, 1));
    if (s != step || (pieces && !(x & (CUT_PX - 1)) && x > 0)) {
      putRun(scratch + (<usize>(n++) << 4), start + pad, step, x - start, colour0 + (<usize>start << 4));
      step = s;
      start = x;
    }
  }
  putRun(scratch + (<usize>(n++) << 4), start + pad, step, width + word(plan.lastRow + (<usize>step << 2)) - start, colour0 + (<usize>start << 4));
  sortRuns(plan, n, plan.runs, slot * plan.runCapacity, plan.firstRun + (<usize>(slot * (slices + 1)) << 2), reach, columns);
  if (plan.useHidden) prepareHidden(plan, slot, y, image, limit, reach, columns);
}

function prepareHidden(plan: BlurPlan, slot: i32, y: i32, image: usize, limit: v128, reach: usize, columns: usize): void {
  const width = plan.width, pad = plan.pad, scratch = plan.scratchRuns, sliceOf = plan.sliceOf;
  const hidden = plan.hidden + (<usize>(y * width) << 4), colours = plan.hiddenColours + <usize>slot * plan.colourRowBytes;
  const mask = plan.hiddenMask + <usize>((y >> 3) * ((width + 7) >> 3));
  const pieces = plan.cutPerPx > 0;
  let n = 0, step = -1, start = 0;
  for (let x = 0; x < width; x++) {
    if (!(x & 7) && !load<u8>(mask + (x >> 3))) {
      if (step >= 0) {
        putRun(scratch + (<usize>(n++) << 4), start + pad, step, x - start, colours + (<usize>start << 4));
        step = -1;
      }
      x += 7;
      continue;
    }
    const v = v128.load(hidden + (<usize>x << 4)), rho = f32x4.extract_lane(v, 3);
    let s = -1;
    if (rho > NOTHING) {
      s = stepOf(plan, rho);
      // a hidden pixel in its owner's own slice would only dilute it
      const owner = stepOf(plan, load<f32>(image + (<usize>x << 4), 12));
      if (load<u8>(sliceOf + s) == load<u8>(sliceOf + owner)) s = -1;
      else v128.store(colours + (<usize>x << 4), f32x4.replace_lane(f32x4.pmin(v, limit), 3, 1));
    }
    if (s != step || (pieces && !(x & (CUT_PX - 1)) && step >= 0)) {
      if (step >= 0) putRun(scratch + (<usize>(n++) << 4), start + pad, step, x - start, colours + (<usize>start << 4));
      step = s;
      start = x;
    }
  }
  if (step >= 0) putRun(scratch + (<usize>(n++) << 4), start + pad, step, width - start, colours + (<usize>start << 4));
  sortRuns(plan, n, plan.hiddenRuns, slot * plan.runCapacity, plan.firstHiddenRun + (<usize>(slot * (plan.slices + 1)) << 2), reach, columns);
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

function writeRow(plan: BlurPlan, y: i32, accumulator: usize): void {
  const width = plan.width, out = plan.out + (<usize>(y * width) << 4);
  for (let x = 0; x < width; x++) {
    const v = v128.load(accumulator + (<usize>x << 4)), gain: f32 = 1 / max<f32>(1e-4, f32x4.extract_lane(v, 3));
    v128.store(out + (<usize>x << 4), f32x4.replace_lane(f32x4.mul(v, f32x4.splat(gain)), 3, 1));
  }
}

/** Forgets the rows held; call once before a new picture. */
export function beginScatter(plan: BlurPlan): void {
  for (let i = 0; i < plan.slots; i++) store<i32>(plan.rowInSlot + (<usize>i << 2), i32.MIN_VALUE);
  memory.fill(plan.difference, 0, plan.differenceBytes << 1);
}

/** Blurs output rows y0 … y1−1. Rows are made in pairs, so y0 must have the parity of the first call's. */
export function scatterRows(plan: BlurPlan, y0: i32, y1: i32): void {
  const width = plan.width, slices = plan.slices, maxRow = plan.maxRow, pad = plan.pad;
  const row = plan.difference, row2 = row + plan.differenceBytes;
  const one = f32x4.splat(1), cuts = plan.cutPerPx > 0;
  const transmittance = plan.transmittance, transmittance2 = transmittance + (<usize>width << 2);
  const accumulator = plan.accumulator, accumulator2 = accumulator + (<usize>width << 4);
  for (let r = y0 - maxRow; r < y0 + maxRow; r++) prepareRow(plan, r);
  for (let y = y0; y < y1; y += 2) {
    prepareRow(plan, y + maxRow);
    prepareRow(plan, y + maxRow + 1);
    for (let x = 0; x < 2 * width; x++) store<f32>(transmittance + (<usize>x << 2), 1);
    memory.fill(accumulator, 0, <usize>width << 5);
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
        for (let h = 0; h <= plan.useHidden; h++) {
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
      if (to < from) continue;
      from = max(0, from + pad - 1);
      to = min(width + 2 * pad - 1, to + pad + 2);
      composite(plan, row, transmittance, accumulator, from, to);
      composite(plan, row2, transmittance2, accumulator2, from, to);
    }
    writeRow(plan, y, accumulator);
    if (y + 1 < y1) writeRow(plan, y + 1, accumulator2);
  }
}
