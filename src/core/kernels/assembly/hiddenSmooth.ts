// What lies behind the edges of a plate, smoothed in depth and colour. The twin is core/camera/behindTwin.ts.

import { at } from './behind';

/** What a neighbour is to a hidden pixel: nothing, hidden too, or seen; two bits each, of the left, the right, the upper and the lower one. */
const HIDDEN: i32 = 1;
const SEEN: i32 = 2;

/**
 * Smooths how far hidden pixels lie, in place: `behind`, inverse distances over the whole plate, −1 where nothing is hidden. `hiddenAt`: which of
 * the `count` pixels lies at a place, −1. `masks`: for each sweep and pixel which neighbours counted.
 */
export function smoothBehind(
  q: usize, behind: usize, hiddenAt: usize, pixels: usize, count: i32, masks: usize, sweeps: i32, w: i32, h: i32, within: f64,
): void {
  const last = w * h - w - 1;
  for (let sweep = 0; sweep < sweeps; sweep++, masks += <usize>count)
    for (let m = 0; m < count; m++) {
      const k = sweep & 1 ? count - 1 - m : m, i = load<i32>(pixels + (<usize>k << 2));
      let mask = 0, total = 0, depth: f64 = 0;
      if (i > w && i < last) {
        const here = at(behind, i);
        for (let n = 0; n < 4; n++) {
          const j = i + (n == 0 ? -1 : n == 1 ? 1 : n == 2 ? -w : w);
          if (load<i32>(hiddenAt + (<usize>j << 2)) >= 0 && abs(at(behind, j) - here) < within) {
            mask |= HIDDEN << (2 * n);
            depth += at(behind, j);
          } else if (abs(at(q, j) - here) < within) {
            mask |= SEEN << (2 * n);
            depth += at(q, j);
          } else continue;
          total++;
        }
        if (total) store<f32>(behind + (<usize>i << 2), <f32>(depth / <f64>total));
      }
      store<u8>(masks + <usize>k, <u8>mask);
    }
}

/** Smooths the colours of hidden pixels alike. `links`: of each pixel and neighbour which hidden one, and which of the `seen` colours, it is. */
export function smoothHidden(colours: usize, seen: usize, links: usize, masks: usize, count: i32, sweeps: i32): void {
  for (let sweep = 0; sweep < sweeps; sweep++, masks += <usize>count)
    for (let m = 0; m < count; m++) {
      const k = sweep & 1 ? count - 1 - m : m, mask = <i32>load<u8>(masks + <usize>k);
      if (!mask) continue;
      const own = links + (<usize>k << 5);
      let sum = f32x4.splat(0), total: f32 = 0;
      for (let n = 0; n < 4; n++) {
        const what = (mask >> (2 * n)) & 3;
        if (!what) continue;
        const other = <usize>load<i32>(own + (<usize>n << 3) + (what == SEEN ? 4 : 0)) << 4;
        sum = f32x4.add(sum, v128.load((what == SEEN ? seen : colours) + other));
        total += 1;
      }
      v128.store(colours + (<usize>k << 4), f32x4.div(sum, f32x4.splat(total)));
    }
}

/** Square roots of `n` pixels, of what is above 0. */
export function rootPixels(from: usize, n: i32, out: usize): void {
  const end = from + (<usize>n << 4), zero = f32x4.splat(0);
  for (; from < end; from += 16, out += 16) v128.store(out, f32x4.sqrt(f32x4.pmax(zero, v128.load(from))));
}

/**
 * What neighbours counted in any sweep are: for each pixel and neighbour which hidden one, and which of those that are `seen`, each listed once;
 * −1: none. `seenAt`: room for one word a place of the plate. Gives how many are seen.
 */
export function linkHidden(masks: usize, sweeps: i32, count: i32, pixels: usize, hiddenAt: usize, seenAt: usize, w: i32, h: i32, links: usize, seen: usize): i32 {
  memory.fill(seenAt, 0xff, <usize>(w * h) << 2);
  let n = 0;
  for (let k = 0; k < count; k++) {
    let mask = 0;
    for (let sweep = 0; sweep < sweeps; sweep++) mask |= <i32>load<u8>(masks + <usize>(sweep * count + k));
    const i = load<i32>(pixels + (<usize>k << 2)), own = links + (<usize>k << 5);
    for (let m = 0; m < 4; m++) {
      const link = own + (<usize>m << 3), what = (mask >> (2 * m)) & 3;
      const p = <usize>(i + (m == 0 ? -1 : m == 1 ? 1 : m == 2 ? -w : w)) << 2;
      store<i32>(link, what & HIDDEN ? load<i32>(hiddenAt + p) : -1);
      store<i32>(link, -1, 4);
      if (!(what & SEEN)) continue;
      if (load<i32>(seenAt + p) < 0) {
        store<i32>(seenAt + p, n);
        store<i32>(seen + (<usize>(n++) << 2), <i32>(p >> 2));
      }
      store<i32>(link, load<i32>(seenAt + p), 4);
    }
  }
  return n;
}
