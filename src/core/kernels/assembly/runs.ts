// Rows of a sheet as runs: stretches of one source row with one quantised signed radius, sorted by depth slice.
import { CUT_PX, cutsOfRow, word } from './discs';
import { lampPart, strength } from './lampLight';
import { BlurPlan } from './plan';

export const FAR_LEFT: i32 = 0x3fffffff;

@inline function stepOf(plan: BlurPlan, rho: f32): i32 {
  const s = <i32>nearest<f32>(rho * plan.stepsPerPx) + plan.zeroStep;
  return s < 0 ? 0 : s >= plan.steps ? plan.steps - 1 : s;
}

@inline export function slotOf(plan: BlurPlan, row: i32): i32 {
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

/** Ends the run of a step that began at column `start` of a row (step −1: none did) before column `end`. Gives how many runs there are then. */
@inline function endRun(plan: BlurPlan, n: i32, step: i32, start: i32, end: i32, colours: usize): i32 {
  if (step < 0) return n;
  putRun(plan.scratchRuns + (<usize>n << 4), start + plan.pad, step, end - start, colours + (<usize>start << 4));
  return n + 1;
}

/** Whether a run must end before column x, whatever follows: discs are cut alike only within a piece of a row. */
@inline function newPiece(plan: BlurPlan, x: i32): bool { return plan.cutPerPx > 0 && !(x & (CUT_PX - 1)); }

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
export function prepareRow(plan: BlurPlan, row: i32): void {
  const width = plan.width, maxRow = plan.maxRow, slices = plan.slices;
  const slot = slotOf(plan, row), marker = plan.rowInSlot + (<usize>slot << 2);
  if (word(marker) == row) return;
  store<i32>(marker, row);
  const y = row < 0 ? 0 : row >= plan.height ? plan.height - 1 : row, outside = y != row;
  if (plan.cutPerPx > 0) cutsOfRow(plan, slot, y);
  const reach = plan.reach + (<usize>(slot * slices) << 2), columns = plan.columns + (<usize>(slot * slices) << 3);
  for (let k = 0; k < slices; k++) {
    store<i32>(reach + (<usize>k << 2), -1);
    store<i32>(columns + (<usize>k << 3), FAR_LEFT);
    store<i32>(columns + (<usize>k << 3), -FAR_LEFT, 4);
  }
  const firstRun = plan.firstRun + (<usize>(slot * (slices + 1)) << 2);
  if (plan.lampsAbove) {
    const lamps = outside ? 0 : lampRunsOfRow(plan, y, plan.colours + <usize>slot * plan.colourRowBytes);
    sortRuns(plan, lamps, plan.runs, slot * plan.runCapacity, firstRun, reach, columns);
    return;
  }
  const image = plan.image + (<usize>(y * width) << 4), cover = plan.cover ? plan.cover + (<usize>(y * width) << 2) : 0;
  const limit: f32 = outside ? 1 : f32.MAX_VALUE;
  const colours = plan.colours + <usize>slot * plan.colourRowBytes, colour0 = colours + (<usize>maxRow << 4);
  repeatBorder(colours, image, cover, maxRow);
  repeatBorder(colour0 + (<usize>width << 4), image + (<usize>(width - 1) << 4), cover ? cover + (<usize>(width - 1) << 2) : 0, maxRow);
  const n = runsOfRow(plan, image, cover, colour0, limit, true);
  sortRuns(plan, n, plan.runs, slot * plan.runCapacity, firstRun, reach, columns);
  const hiddenColours = plan.hiddenColours + <usize>slot * plan.colourRowBytes;
  let m = 0;
  if (plan.hiddenBits) m = hiddenRunsOfRow(plan, y, hiddenColours, limit);
  else if (plan.hiddenCover) {
    const at = <usize>(y * width);
    m = runsOfRow(plan, plan.hidden + (at << 4), plan.hiddenCover + (at << 2), hiddenColours, limit, false);
  }
  sortRuns(plan, m, plan.hiddenRuns, slot * plan.runCapacity, plan.firstHiddenRun + (<usize>(slot * (slices + 1)) << 2), reach, columns);
}

/** The colour of a border pixel, no brighter than white, so many times. */
function repeatBorder(colours: usize, pixel: usize, cover: usize, times: i32): void {
  const share: f32 = cover ? load<f32>(cover) : 1;
  const border = f32x4.replace_lane(f32x4.pmin(v128.load(pixel), f32x4.splat(share)), 3, share);
  for (let t = 0; t < times; t++) v128.store(colours + (<usize>t << 4), border);
}

/** Runs of one row of a sheet, in scratch; `colours` is where its first pixel's goes. At the border its runs go on outside, if they shall. */
function runsOfRow(plan: BlurPlan, source: usize, cover: usize, colours: usize, limit: f32, goesOn: bool): i32 {
  const width = plan.width, least = plan.least, beyond = plan.beyond;
  let n = 0, step = -1, start = 0;
  for (let x = 0; x < width; x++) {
    const v = v128.load(source + (<usize>x << 4)), rho = f32x4.extract_lane(v, 3), share: f32 = cover ? load<f32>(cover + (<usize>x << 2)) : 1;
    let s = -1;
    if (share > 0 && rho >= least && rho < beyond) {
      s = stepOf(plan, rho);
      v128.store(colours + (<usize>x << 4), f32x4.replace_lane(f32x4.pmin(v, f32x4.splat(limit * share)), 3, share));
    }
    if (s == step && !newPiece(plan, x)) continue;
    n = endRun(plan, n, step, start, x, colours);
    step = s;
    start = x > 0 || !goesOn || s < 0 ? x : -word(plan.lastRow + (<usize>s << 2));
  }
  if (step < 0) return n;
  return endRun(plan, n, step, start, goesOn ? width + word(plan.lastRow + (<usize>step << 2)) : width, colours);
}

/** Runs of what lies behind row y of the whole picture. */
function hiddenRunsOfRow(plan: BlurPlan, y: i32, colours: usize, limit: f32): i32 {
  const width = plan.width, w = (width + 1) >> 1, least = plan.least, beyond = plan.beyond;
  const hidden = plan.hidden + (<usize>((y >> 1) * w) << 4), bits = plan.hiddenBits + <usize>((y >> 1) * w), shift = (y & 1) << 1, most = f32x4.splat(limit);
  let n = 0, step = -1, start = 0;
  for (let x = 0; x < width; x++) {
    if (!(x & 7) && !load<u32>(bits + <usize>(x >> 1))) {
      n = endRun(plan, n, step, start, x, colours);
      step = -1;
      x += 7;
      continue;
    }
    let s = -1;
    if ((load<u8>(bits + <usize>(x >> 1)) >> (shift + (x & 1))) & 1) {
      const v = v128.load(hidden + (<usize>(x >> 1) << 4)), rho = f32x4.extract_lane(v, 3);
      if (rho >= least && rho < beyond) {
        s = stepOf(plan, rho);
        v128.store(colours + (<usize>x << 4), f32x4.replace_lane(f32x4.pmin(v, most), 3, 1));
      }
    }
    if (s == step && !newPiece(plan, x)) continue;
    n = endRun(plan, n, step, start, x, colours);
    step = s;
    start = x;
  }
  return endRun(plan, n, step, start, width, colours);
}

/** Runs of the lamps in row y of the whole picture. */
function lampRunsOfRow(plan: BlurPlan, y: i32, colours: usize): i32 {
  const width = plan.width, w = (width + 1) >> 1, least = plan.least, beyond = plan.beyond;
  const image = plan.image + (<usize>(y * width) << 4), aboves = plan.lampsAbove + (<usize>((y >> 1) * w) << 2);
  let n = 0, step = -1, start = 0;
  for (let x = 0; x < width; x++) {
    const above = load<f32>(aboves + (<usize>(x >> 1) << 2));
    let s = -1;
    if (above > 0) {
      const v = v128.load(image + (<usize>x << 4)), rho = f32x4.extract_lane(v, 3);
      if (rho >= least && rho < beyond && strength(v) > above) {
        s = stepOf(plan, rho);
        v128.store(colours + (<usize>x << 4), lampPart(v, above));
      }
    }
    if (s == step && !newPiece(plan, x)) continue;
    n = endRun(plan, n, step, start, x, colours);
    step = s;
    start = x;
  }
  return endRun(plan, n, step, start, width, colours);
}
