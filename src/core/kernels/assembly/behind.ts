// A plate taken apart for a camera that moves: which neighbours are one surface, and what lies behind edges. The twin is core/camera/behindTwin.ts.

const JOINED_RIGHT: u8 = 1;
const JOINED_BELOW: u8 = 2;
const NEAR_EDGE: u8 = 16;
const AT_EDGE: u8 = 32;
const INNER: u8 = 128;
/** px beyond the widest gap that are filled too. */
const SLACK: f64 = 2;

// @ts-ignore: decorator
@inline
export function at(plane: usize, i: i32): f64 { return <f64>load<f32>(plane + (<usize>i << 2)); }

// @ts-ignore: decorator
@inline
function flag(flags: usize, i: i32): u8 { return load<u8>(flags + <usize>i); }

// @ts-ignore: decorator
@inline
function addFlag(flags: usize, i: i32, bits: u8): void { store<u8>(flags + <usize>i, load<u8>(flags + <usize>i) | bits); }

/** How far samples a, b, c, d in line are from a plane between b and c (see links of the twin). */
// @ts-ignore: decorator
@inline
function gap(a: f64, b: f64, c: f64, d: f64): f64 {
  const left = b + (b - a) / 2, right = c + (c - d) / 2, middle = (b + c) / 2;
  return min(abs(b - c), min(abs(left - right), abs(left - middle) + abs(right - middle)));
}

/** Joins neighbours of one surface in `flags`, marks what lies near the edges between surfaces, and in `cut` what touches one. */
export function linkPlate(q: usize, flags: usize, cut: usize, w: i32, h: i32, tau: f64): void {
  memory.fill(cut, 0, <usize>(w * h));
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x, here = at(q, i);
      let joined: u8 = 0;
      if (x + 1 < w) {
        const next = at(q, i + 1);
        if (abs(here - next) <= tau || gap(at(q, x > 0 ? i - 1 : i), here, next, at(q, x + 2 < w ? i + 2 : i + 1)) <= tau) joined |= JOINED_RIGHT;
        else {
          store<u8>(cut + <usize>i, 1);
          store<u8>(cut + <usize>i, 1, 1);
        }
      }
      if (y + 1 < h) {
        const below = at(q, i + w);
        if (abs(here - below) <= tau || gap(at(q, y > 0 ? i - w : i), here, below, at(q, y + 2 < h ? i + 2 * w : i + w)) <= tau) joined |= JOINED_BELOW;
        else {
          store<u8>(cut + <usize>i, 1);
          store<u8>(cut + <usize>(i + w), 1);
        }
      }
      store<u8>(flags + <usize>i, joined);
    }
  for (let y = 1; y < h - 1; y++)
    for (let i = y * w + 1; i < (y + 1) * w - 1; i++) {
      const own = flag(flags, i);
      if (own & flag(flags, i - 1) & JOINED_RIGHT && own & flag(flags, i - w) & JOINED_BELOW) addFlag(flags, i, INNER);
    }
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      if (!flag(cut, y * w + x)) continue;
      for (let v = max(0, y - 2); v <= min(h - 1, y + 2); v++)
        for (let u = max(0, x - 2); u <= min(w - 1, x + 2); u++)
          addFlag(flags, v * w + u, abs(u - x) <= 1 && abs(v - y) <= 1 ? AT_EDGE | NEAR_EDGE : NEAR_EDGE);
    }
}

/** What a search for seeds works on; the host writes these words in this order (see behindHost.ts). */
@unmanaged
export class SeedPlan {
  q: usize;
  flags: usize;
  /** per pixel: where its nearest farther surface lies (−1: nowhere), how far that is in px, and whether it waits in the queue */
  seed: usize;
  away: usize;
  waiting: usize;
  /** a ring of one more than there are pixels */
  queue: usize;
  width: i32;
  height: i32;
  head: i32;
  tail: i32;
  found: i32;
  unused: i32;
  tau: f64;
  gain: f64;
}

// @ts-ignore: decorator
@inline
function inside(plan: SeedPlan, i: i32): bool {
  const x = i % plan.width;
  return x > 0 && x < plan.width - 1 && i >= plan.width && i < plan.width * (plan.height - 1);
}

function offer(plan: SeedPlan, i: i32, s: i32): void {
  const nearer = at(plan.q, i) - at(plan.q, s), w = plan.width;
  if (nearer <= plan.tau) return;
  const dx = s % w - i % w, dy = s / w - i / w, d = <f32>sqrt<f64>(<f64>(dx * dx + dy * dy)), p = <usize>i << 2;
  if (d >= load<f32>(plan.away + p) || <f64>d > plan.gain * nearer + SLACK) return;
  if (load<i32>(plan.seed + p) == -1) plan.found++;
  store<f32>(plan.away + p, d);
  store<i32>(plan.seed + p, s);
  if (load<u8>(plan.waiting + <usize>i)) return;
  store<u8>(plan.waiting + <usize>i, 1);
  store<i32>(plan.queue + (<usize>plan.tail << 2), i);
  plan.tail = plan.tail == w * plan.height ? 0 : plan.tail + 1;
}

/** Finds what lies behind each near pixel, handed on from neighbour to neighbour; how many such pixels there are is left in the plan. */
export function seedBehind(plan: SeedPlan): void {
  const w = plan.width, h = plan.height, n = w * h;
  for (let i = 0; i < n; i++) {
    store<i32>(plan.seed + (<usize>i << 2), -1);
    store<f32>(plan.away + (<usize>i << 2), 1e9);
  }
  memory.fill(plan.waiting, 0, <usize>n);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x, f = flag(plan.flags, i);
      if (x + 1 < w && !(f & JOINED_RIGHT)) {
        if (inside(plan, i)) offer(plan, i, i + 1);
        if (inside(plan, i + 1)) offer(plan, i + 1, i);
      }
      if (y + 1 < h && !(f & JOINED_BELOW)) {
        if (inside(plan, i)) offer(plan, i, i + w);
        if (inside(plan, i + w)) offer(plan, i + w, i);
      }
    }
  while (plan.head != plan.tail) {
    const i = load<i32>(plan.queue + (<usize>plan.head << 2));
    plan.head = plan.head == n ? 0 : plan.head + 1;
    store<u8>(plan.waiting + <usize>i, 0);
    const s = load<i32>(plan.seed + (<usize>i << 2));
    if (inside(plan, i - 1)) offer(plan, i - 1, s);
    if (inside(plan, i + 1)) offer(plan, i + 1, s);
    if (inside(plan, i - w)) offer(plan, i - w, s);
    if (inside(plan, i + w)) offer(plan, i + w, s);
    if (inside(plan, i - w - 1)) offer(plan, i - w - 1, s);
    if (inside(plan, i - w + 1)) offer(plan, i - w + 1, s);
    if (inside(plan, i + w - 1)) offer(plan, i + w - 1, s);
    if (inside(plan, i + w + 1)) offer(plan, i + w + 1, s);
  }
}

/** Windows leave the plate nearer to its border than this, px. */
const MARGIN: i32 = 4;
const PURE_WITHIN: i32 = 3;

/** The nearest pixel of the same surface, within 3 px, that touches no cut; −1 where there is none. */
function pureNear(q: usize, cut: usize, w: i32, tau: f64, i: i32): i32 {
  const here = at(q, i);
  let best = -1, least = PURE_WITHIN * PURE_WITHIN + 1;
  for (let v = -PURE_WITHIN; v <= PURE_WITHIN; v++)
    for (let u = -PURE_WITHIN; u <= PURE_WITHIN; u++) {
      const d = u * u + v * v, j = i + v * w + u;
      if (d >= least || flag(cut, j)) continue;
      if (abs(at(q, j) - here) < tau * (1 + sqrt<f64>(<f64>d))) {
        least = d;
        best = j;
      }
    }
  return best;
}

/**
 * Where pixels on the far side of cuts may be mixed: `pixels`, and five others for each: the near neighbour, the surface's nearest pure pixel, and
 * three that may be the near side's, −1 where there is none. Gives how many.
 */
export function mixedPlaces(q: usize, cut: usize, w: i32, h: i32, tau: f64, pixels: usize, candidates: usize): i32 {
  let n = 0;
  for (let y = MARGIN; y < h - MARGIN; y++)
    for (let x = MARGIN; x < w - MARGIN; x++) {
      const i = y * w + x;
      if (!flag(cut, i)) continue;
      let near = -1, most = at(q, i) + tau;
      for (let k = 0; k < 4; k++) {
        const j = i + (k == 0 ? -1 : k == 1 ? 1 : k == 2 ? -w : w);
        if (at(q, j) > most) {
          most = at(q, j);
          near = j;
        }
      }
      if (near < 0) continue;
      const back = pureNear(q, cut, w, tau, i);
      if (back < 0) continue;
      store<i32>(pixels + (<usize>n << 2), i);
      const c = candidates + <usize>n * 20;
      store<i32>(c, near);
      store<i32>(c, back, 4);
      for (let k = 0; k < 3; k++) {
        const f = k == 0 ? pureNear(q, cut, w, tau, near) : k == 1 ? near : 2 * near - i;
        store<i32>(c + (<usize>k << 2), f < 0 || abs(at(q, f) - at(q, near)) > 3 * tau ? -1 : f, 8);
      }
      n++;
    }
  return n;
}

/** How far beyond the edge the texture is mirrored, tried in turn; the first and last by how far the pixel lies from it. */
// @ts-ignore: decorator
@inline
function shareOf(n: i32, away: f64): f64 { return n == 0 ? 1 + 1 / away : n == 1 ? 0.6 : n == 2 ? 0.3 : 1 / away; }

/**
 * Lists what seedBehind found, in order: pixels, how far off their surface is seen, its inverse distance, and which pixel their texture comes from:
 * mirrored about the edge, drawn in until it lies on the surface that goes on there. `hiddenAt`: which of them lies at a place, −1.
 */
export function listHidden(plan: SeedPlan, cut: usize, pixels: usize, off: usize, seeded: usize, from: usize, hiddenAt: usize): void {
  const w = plan.width, h = plan.height, q = plan.q, tau = plan.tau;
  let k: usize = 0;
  for (let i = 0; i < w * h; i++) {
    const p = <usize>i << 2, s = load<i32>(plan.seed + p);
    store<i32>(hiddenAt + p, s < 0 ? -1 : <i32>(k >> 2));
    if (s < 0) continue;
    const away = load<f32>(plan.away + p), sx = s % w, sy = s / w, dx = <f64>(sx - i % w), dy = <f64>(sy - i / w);
    let place = s;
    for (let n = 0; n < 4; n++) {
      const share = shareOf(n, <f64>away), x = sx + <i32>floor<f64>(dx * share + 0.5), y = sy + <i32>floor<f64>(dy * share + 0.5);
      if (x < 0 || y < 0 || x >= w || y >= h) continue;
      const j = y * w + x;
      if (abs(at(q, j) - at(q, s)) < 6 * tau && !(share > 0.3 && flag(cut, j))) {
        place = j;
        break;
      }
    }
    store<i32>(pixels + k, i);
    store<f32>(off + k, away);
    store<f32>(seeded + k, load<f32>(q + (<usize>s << 2)));
    store<i32>(from + k, place);
    k += 4;
  }
}
