// Snaps in-between values of a soft map edge to the nearer extreme of its 5x5 window.

/** Radii (f32) in `plane`; scratch holds four planes with 8 spare values at the end. Windows repeat the border. */
export function snapEdges(plane: usize, width: i32, height: i32, threshold: f32, scratch: usize): void {
  const bytes = <usize>(width * height) << 2, gap = bytes + 64;
  const low = scratch, high = low + gap;
  for (let y = 0; y < height; y++) {
    const row = plane + (<usize>(y * width) << 2), lo = low + (<usize>(y * width) << 2), hi = high + (<usize>(y * width) << 2);
    for (let x = 0; x < width; x++) {
      let a: f32 = f32.MAX_VALUE, b: f32 = -f32.MAX_VALUE;
      for (let u = max(0, x - 2); u <= min(width - 1, x + 2); u++) {
        const v = load<f32>(row + (<usize>u << 2));
        a = min(a, v);
        b = max(b, v);
      }
      store<f32>(lo + (<usize>x << 2), a);
      store<f32>(hi + (<usize>x << 2), b);
      if (x == 1 && width > 20) {
        // the middle of the row, four at a time
        for (x = 2; x < width - 6; x += 4) {
          const p = row + (<usize>(x - 2) << 2), c0 = v128.load(p), c1 = v128.load(p, 4), c2 = v128.load(p, 8), c3 = v128.load(p, 12), c4 = v128.load(p, 16);
          v128.store(lo + (<usize>x << 2), f32x4.min(f32x4.min(f32x4.min(c0, c1), f32x4.min(c2, c3)), c4));
          v128.store(hi + (<usize>x << 2), f32x4.max(f32x4.max(f32x4.max(c0, c1), f32x4.max(c2, c3)), c4));
        }
        x--;
      }
    }
  }
  const t = f32x4.splat(threshold);
  for (let y = 0; y < height; y++) {
    const o0 = <usize>(max(0, y - 2) * width) << 2, o1 = <usize>(max(0, y - 1) * width) << 2, o2 = <usize>(y * width) << 2, o3 = <usize>(min(height - 1, y + 1) * width) << 2, o4 = <usize>(min(height - 1, y + 2) * width) << 2;
    let x = 0;
    for (; x + 4 <= width; x += 4) {
      const o = <usize>x << 2;
      const a = f32x4.min(f32x4.min(f32x4.min(v128.load(low + o0 + o), v128.load(low + o1 + o)), f32x4.min(v128.load(low + o2 + o), v128.load(low + o3 + o))), v128.load(low + o4 + o));
      const b = f32x4.max(f32x4.max(f32x4.max(v128.load(high + o0 + o), v128.load(high + o1 + o)), f32x4.max(v128.load(high + o2 + o), v128.load(high + o3 + o))), v128.load(high + o4 + o));
      const p = plane + o2 + o, v = v128.load(p);
      const snapped = v128.bitselect(a, b, f32x4.lt(f32x4.sub(v, a), f32x4.sub(b, v)));
      v128.store(p, v128.bitselect(snapped, v, f32x4.gt(f32x4.sub(b, a), t)));
    }
    for (; x < width; x++) {
      const o = <usize>x << 2;
      const a = min(min(min(load<f32>(low + o0 + o), load<f32>(low + o1 + o)), min(load<f32>(low + o2 + o), load<f32>(low + o3 + o))), load<f32>(low + o4 + o));
      const b = max(max(max(load<f32>(high + o0 + o), load<f32>(high + o1 + o)), max(load<f32>(high + o2 + o), load<f32>(high + o3 + o))), load<f32>(high + o4 + o));
      const p = plane + o2 + o, v = load<f32>(p);
      if (b - a > threshold) store<f32>(p, v - a < b - v ? a : b);
    }
  }
}
