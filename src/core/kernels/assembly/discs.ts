// What the discs of a run add to rows: even ones, uneven ones, and those that the barrel cuts. The readable twin is core/kernels/discProfile.ts.
import { BlurPlan } from './plan';

/** As in discProfile.ts. */
export const CUT_PX: i32 = 16;
const ANGLES: i32 = 32;
const DISTANCES: i32 = 17;
const FARTHEST: f32 = 1.2;
const RADIUS_STEP: f32 = 0.25;

@inline export function word(p: usize): i32 { return load<i32>(p); }

/** Adds both fronts of a run to one difference row. A span is 32 bytes: left and right offset, then the four weights. */
@inline export function addRun(row: usize, span: usize, column: usize, length: i32, colour: usize, share: v128): void {
  let l = row + column + <usize>word(span), r = row + column + <usize>load<i32>(span, 4);
  const l0 = f32x4.mul(v128.load32_splat(span, 16), share), l1 = f32x4.mul(v128.load32_splat(span, 20), share),
    r0 = f32x4.mul(v128.load32_splat(span, 24), share), r1 = f32x4.mul(v128.load32_splat(span, 28), share);
  let before = f32x4.splat(0);
  const end = colour + (<usize>length << 4);
  for (; colour < end; colour += 16) {
    const v = v128.load(colour);
    v128.store(l, f32x4.add(v128.load(l), f32x4.add(f32x4.mul(v, l0), f32x4.mul(before, l1))));
    v128.store(r, f32x4.add(v128.load(r), f32x4.add(f32x4.mul(v, r0), f32x4.mul(before, r1))));
    before = v;
    l += 16;
    r += 16;
  }
  v128.store(l, f32x4.add(v128.load(l), f32x4.mul(before, l1)));
  v128.store(r, f32x4.add(v128.load(r), f32x4.mul(before, r1)));
}

/** The same for two output rows at once: the colours are read only once. */
@inline export function addRunTwice(row: usize, span: usize, row2: usize, span2: usize, column: usize, length: i32, colour: usize, share: v128): void {
  let l = row + column + <usize>word(span), r = row + column + <usize>load<i32>(span, 4);
  let m = row2 + column + <usize>word(span2), s = row2 + column + <usize>load<i32>(span2, 4);
  const l0 = f32x4.mul(v128.load32_splat(span, 16), share), l1 = f32x4.mul(v128.load32_splat(span, 20), share),
    r0 = f32x4.mul(v128.load32_splat(span, 24), share), r1 = f32x4.mul(v128.load32_splat(span, 28), share);
  const m0 = f32x4.mul(v128.load32_splat(span2, 16), share), m1 = f32x4.mul(v128.load32_splat(span2, 20), share),
    s0 = f32x4.mul(v128.load32_splat(span2, 24), share), s1 = f32x4.mul(v128.load32_splat(span2, 28), share);
  let before = f32x4.splat(0);
  const end = colour + (<usize>length << 4);
  for (; colour < end; colour += 16) {
    const v = v128.load(colour);
    v128.store(l, f32x4.add(v128.load(l), f32x4.add(f32x4.mul(v, l0), f32x4.mul(before, l1))));
    v128.store(r, f32x4.add(v128.load(r), f32x4.add(f32x4.mul(v, r0), f32x4.mul(before, r1))));
    v128.store(m, f32x4.add(v128.load(m), f32x4.add(f32x4.mul(v, m0), f32x4.mul(before, m1))));
    v128.store(s, f32x4.add(v128.load(s), f32x4.add(f32x4.mul(v, s0), f32x4.mul(before, s1))));
    before = v;
    l += 16;
    r += 16;
    m += 16;
    s += 16;
  }
  v128.store(l, f32x4.add(v128.load(l), f32x4.mul(before, l1)));
  v128.store(r, f32x4.add(v128.load(r), f32x4.mul(before, r1)));
  v128.store(m, f32x4.add(v128.load(m), f32x4.mul(before, m1)));
  v128.store(s, f32x4.add(v128.load(s), f32x4.mul(before, s1)));
}

/** A run of uneven discs, into the rows that lie dy and dy + 1 from it: discs of several sizes are laid over each other. */
export function addLayers(plan: BlurPlan, row: usize, row2: usize, j: usize, dy: i32): void {
  const column = <usize>word(j), step = load<i32>(j, 4), length = load<i32>(j, 8), colour = <usize>load<i32>(j, 12);
  for (let layer = 0; layer < plan.layers; layer++) {
    const share = v128.load32_splat(plan.layerTable + (<usize>layer << 3), 4), own = <usize>layerStep(plan, step, layer) << 2;
    const last = word(plan.lastRow + own), span = <usize>word(plan.spanOf + own) + <usize>(dy << 5);
    const first = abs<i32>(dy) <= last, second = abs<i32>(dy + 1) <= last;
    if (first && second) addRunTwice(row, span, row2, span + 32, column, length, colour, share);
    else if (first) addRun(row, span, column, length, colour, share);
    else if (second) addRun(row2, span + 32, column, length, colour, share);
  }
}

/** The radius step of one of the discs that a disc is made of. */
@inline function layerStep(plan: BlurPlan, step: i32, layer: i32): i32 {
  const scale = load<f32>(plan.layerTable + (<usize>layer << 3));
  const q = <i32>Mathf.floor(<f32>abs<i32>(step - plan.zeroStep) * scale + 0.5);
  return step < plan.zeroStep ? plan.zeroStep - q : plan.zeroStep + q;
}

/** How the discs of each piece of a row are cut, as cutAt of discProfile.ts says: where the circle's middle lies, in radii, and the gain. */
export function cutsOfRow(plan: BlurPlan, slot: i32, y: i32): void {
  let p = plan.cuts + <usize>(slot * plan.pieces) * 12;
  const cy = -plan.cutPerPx * (<f32>y + 0.5 - plan.cutY);
  for (let piece = 0; piece < plan.pieces; piece++, p += 12) {
    const cx = -plan.cutPerPx * (<f32>(piece * CUT_PX + (CUT_PX >> 1)) - plan.cutX);
    let turn = Mathf.atan2(cy, cx) * <f32>(1 / (2 * Math.PI));
    if (turn < 0) turn += 1;
    const angle = (<i32>nearest<f32>(turn * <f32>ANGLES) % ANGLES) * DISTANCES;
    const at = min<f32>(<f32>DISTANCES - 1.001, sqrt<f32>(cx * cx + cy * cy) * <f32>(DISTANCES - 1) / FARTHEST), first = <i32>at;
    const g = plan.gains + (<usize>(angle + first) << 2);
    store<f32>(p, cx);
    store<f32>(p, cy, 4);
    store<f32>(p, load<f32>(g) + (at - <f32>first) * (load<f32>(g, 4) - load<f32>(g)), 8);
  }
}

/** A run of discs that are cut, even or not, into the rows that lie dy and dy + 1 from its own: cutSpan of discProfile.ts. */
export function addCut(plan: BlurPlan, row: usize, row2: usize, j: usize, dy: i32, slot: i32): void {
  const column = <usize>word(j), step = load<i32>(j, 4), length = load<i32>(j, 8), colour = <usize>load<i32>(j, 12), span = plan.span;
  let x = (<i32>column >> 4) - plan.pad + (length >> 1);
  x = x < 0 ? 0 : x >= plan.width ? plan.width - 1 : x;
  const cut = plan.cuts + <usize>(slot * plan.pieces + x / CUT_PX) * 12, side: f32 = step < plan.zeroStep ? -1 : 1;
  const cx = side * load<f32>(cut), cy = side * load<f32>(cut, 4), gain = load<f32>(cut, 8), one = f32x4.splat(1);
  for (let layer = 0; layer < plan.layers; layer++) {
    const share = load<f32>(plan.layerTable + (<usize>layer << 3), 4) * gain, at = layerStep(plan, step, layer), own = <usize>at << 2;
    const last = word(plan.lastRow + own), radius = max<f32>(0.05, <f32>abs<i32>(at - plan.zeroStep) * RADIUS_STEP);
    for (let r = 0; r < 2; r++) {
      const d = dy + r;
      if (abs<i32>(d) > last) continue;
      const t = <f32>d - cy * radius, h = radius * radius - t * t;
      if (h <= 0) continue;
      const e = <usize>word(plan.spanOf + own) + <usize>(d << 5);
      const l0 = load<f32>(e, 16), l1 = load<f32>(e, 20), r0 = load<f32>(e, 24), r1 = load<f32>(e, 28), weight = l0 + l1;
      if (weight <= 0) continue;
      const half = sqrt<f32>(h), middle: f32 = 0.5 + cx * radius;
      const from = max<f32>(<f32>(word(e) >> 4) + l1 / weight, middle - half);
      const to = min<f32>(<f32>(load<i32>(e, 4) >> 4) + r1 / (r0 + r1), middle + half);
      if (to <= from) continue;
      const left = Mathf.floor(from), right = Mathf.floor(to), w = weight * share;
      store<i32>(span, <i32>left << 4);
      store<i32>(span, <i32>right << 4, 4);
      store<f32>(span, w * (1 - (from - left)), 16);
      store<f32>(span, w * (from - left), 20);
      store<f32>(span, -w * (1 - (to - right)), 24);
      store<f32>(span, -w * (to - right), 28);
      addRun(r ? row2 : row, span, column, length, colour, one);
    }
  }
}
