/** What lies on one surface, and what is forgiven: as in light/shadowTwin.ts. */
const EDGE: f64 = 0.03;
const BIAS: f64 = 0.0005;
const SLOPE_BIAS: f64 = 0.25;
const INTERVALS: i32 = 192;

// @ts-ignore: decorator
@inline
function at(values: usize, i: i32): f64 {
  return <f64>load<f32>(values + (<usize>i << 2));
}

/** So far about the last place it is looked for one by one. */
const ABOUT: i32 = 4;

/** How many of `count` rising values lie below `m`. Pixels beside each other have slopes beside each other: it is looked for about `last` first. */
// @ts-ignore: decorator
@inline
function below(values: usize, count: i32, m: f64, last: i32): i32 {
  let p = min(last, count);
  const from = max(0, p - ABOUT), to = min(count, p + ABOUT);
  while (p > from && !(at(values, p - 1) < m)) p--;
  while (p < to && at(values, p) < m) p++;
  if ((p > from || p == 0) && (p < to || p == count)) return p;
  p = 0;
  let e = count;
  while (p < e) {
    const k = (p + e) >> 1;
    if (at(values, k) < m) p = k + 1;
    else e = k;
  }
  return p;
}

// @ts-ignore: decorator
@inline
function add(sums: usize, i: i32): void {
  const p = sums + (<usize>i << 2);
  store<f32>(p, load<f32>(p) + 1);
}

/** Shifts `count` floats by one or more places. */
// @ts-ignore: decorator
@inline
function shift(values: usize, to: i32, from: i32, end: i32): void {
  const by: isize = (<isize>to - <isize>from) << 2;
  if (by > 0) {
    for (let p = values + (<usize>end << 2); p > values + (<usize>from << 2); p -= 4) store<f32>(p - 4 + by, load<f32>(p - 4));
  } else {
    for (let p = values + (<usize>from << 2); p < values + (<usize>end << 2); p += 4) store<f32>(p + by, load<f32>(p));
  }
}

/**
 * Slopes `a` to `b` are hidden from now on: joined with the intervals that they touch, or put in as one of their own at `p0`, in the place of the
 * narrowest where there is no room. How many there are then.
 */
// @ts-ignore: decorator
@inline
function hide(low: usize, high: usize, held: i32, p0: i32, a: f64, b: f64): i32 {
  let count = held;
  let p1 = p0;
  while (p1 < count && at(low, p1) <= b) p1++;
  if (p1 > p0) {
    if (at(low, p0) < a) a = at(low, p0);
    if (at(high, p1 - 1) > b) b = at(high, p1 - 1);
    if (p1 - p0 > 1) {
      shift(low, p0 + 1, p1, count);
      shift(high, p0 + 1, p1, count);
      count -= p1 - p0 - 1;
    }
  } else {
    if (count === INTERVALS) {
      let narrowest = 0;
      for (let k = 1; k < count; k++) if (at(high, k) - at(low, k) < at(high, narrowest) - at(low, narrowest)) narrowest = k;
      if (b - a <= at(high, narrowest) - at(low, narrowest)) return count;
      shift(low, narrowest, narrowest + 1, count);
      shift(high, narrowest, narrowest + 1, count);
      count--;
      if (narrowest < p0) p0--;
    }
    shift(low, p0 + 1, p0, count);
    shift(high, p0 + 1, p0, count);
    count++;
  }
  store<f32>(low + (<usize>p0 << 2), <f32>a);
  store<f32>(high + (<usize>p0 << 2), <f32>b);
  return count;
}

/**
 * One line of a sweep, aimed at pixel (bx, by) of the border from the lamp's image at (fromX, fromY), inverse distance `fromQ`. Adds to `sums`
 * who sees the lamp and to `crossings` who was looked at. `low`, `high`: room for the hidden intervals.
 */
export function sweepLine(
  inverse: usize,
  backs: usize,
  sums: usize,
  crossings: usize,
  low: usize,
  high: usize,
  w: i32,
  h: i32,
  fromX: f64,
  fromY: f64,
  fromQ: f64,
  bx: i32,
  by: i32,
): void {
  const dx = <f64>bx + 0.5 - fromX;
  const dy = <f64>by + 0.5 - fromY;
  const n = Math.max(Math.abs(dx), Math.abs(dy));
  if (n < 0.5) return;
  const outward = fromQ > 0;
  const level = Math.abs(dx) >= Math.abs(dy);
  const slope = (level ? dy : dx) / n;
  const direction = (level ? dx : dy) > 0 ? 1 : -1;
  const mainFrom = level ? fromX : fromY;
  const otherFrom = level ? fromY : fromX;
  const mainSize = level ? w : h;
  const otherSize = level ? h : w;
  const mainStep = level ? 1 : w;
  const otherStep = level ? w : 1;
  let first = Math.max(0.5, direction > 0 ? 0.5 - mainFrom : mainFrom - <f64>mainSize + 0.5);
  let last = n;
  if (slope !== 0) {
    const a = (0.5 - otherFrom) / slope;
    const b = (<f64>otherSize - 0.5 - otherFrom) / slope;
    first = Math.max(first, Math.min(a, b));
    last = Math.min(last, Math.max(a, b) + 1e-6);
  } else if (otherFrom < 0.5 || otherFrom > <f64>otherSize - 0.5) return;
  if (last < n - 1e-3) return;
  const steps = <i32>Math.floor(n - first + 1e-6);
  const end = level ? bx : by;
  let count = 0;
  let lastLow = 0;
  let lastHigh = 0;
  let beforeLow: f64 = 0;
  let beforeHigh: f64 = 0;
  let before: f64 = 0;
  let beforeBack: f64 = 0;
  for (let c = 0; c <= steps; c++) {
    const back = outward ? steps - c : c;
    const t = n - <f64>back;
    const main = end - direction * back;
    if (main < 0 || main >= mainSize) continue;
    const place = otherFrom + slope * t - 0.5;
    let j = <i32>Math.floor(place);
    if (j < 0) j = 0;
    else if (j > otherSize - 2) j = otherSize - 2;
    const share = place - <f64>j;
    const i0 = main * mainStep + j * otherStep;
    const i = share < 0.5 ? i0 : i0 + otherStep;
    const e0 = at(inverse, i0);
    const e1 = at(inverse, i0 + otherStep);
    const q = Math.abs(e0 - e1) > EDGE * Math.max(e0, e1) ? at(inverse, i) : e0 + (e1 - e0) * Math.min(1, Math.max(0, share));
    add(crossings, i);
    if (!(q > 0)) {
      before = 0;
      add(sums, i);
      continue;
    }
    const m = (q - fromQ) / t;
    const change = Math.abs(q - before);
    const forgiven = (BIAS * q + (change < EDGE * q ? SLOPE_BIAS * change : 0)) / t;
    const p = below(low, count, m, lastLow);
    lastLow = p;
    if (!(p > 0 && m < at(high, p - 1) - forgiven)) add(sums, i);
    const own = Math.min(at(backs, i), q);
    let a = (own - fromQ) / t;
    let b = m;
    const ownLow = a;
    if (before > 0 && own <= before && beforeBack <= q) {
      if (beforeLow < a) a = beforeLow;
      if (beforeHigh > b) b = beforeHigh;
    }
    beforeLow = ownLow;
    beforeHigh = m;
    before = q;
    beforeBack = own;
    const p0 = below(high, count, a, lastHigh);
    lastHigh = p0;
    count = hide(low, high, count, p0, a, b);
  }
}
