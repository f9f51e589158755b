// Snaps in-between values of a soft map edge to the nearer extreme of its 5x5 window.

/** Least and greatest of every 5 values of a row, the border repeated. */
function extremesOfRow(row: usize, width: i32, low: usize, high: usize): void {
  for (let x = 0; x < width; x++) {
    if (x == 2 && width > 20)
      // the middle of the row, four at a time
      for (; x < width - 6; x += 4) {
        const p = row + (<usize>(x - 2) << 2), c0 = v128.load(p), c1 = v128.load(p, 4), c2 = v128.load(p, 8), c3 = v128.load(p, 12), c4 = v128.load(p, 16);
        v128.store(low + (<usize>x << 2), f32x4.pmin(f32x4.pmin(f32x4.pmin(c0, c1), f32x4.pmin(c2, c3)), c4));
        v128.store(high + (<usize>x << 2), f32x4.pmax(f32x4.pmax(f32x4.pmax(c0, c1), f32x4.pmax(c2, c3)), c4));
      }
    let a: f32 = f32.MAX_VALUE, b: f32 = -f32.MAX_VALUE;
    for (let u = max(0, x - 2); u <= min(width - 1, x + 2); u++) {
      const v = load<f32>(row + (<usize>u << 2));
      a = min(a, v);
      b = max(b, v);
    }
    store<f32>(low + (<usize>x << 2), a);
    store<f32>(high + (<usize>x << 2), b);
  }
}

/** Values (f32) in `plane`, in place; scratch holds ten rows. Windows repeat the border. */
export function snapEdges(plane: usize, width: i32, height: i32, threshold: f32, scratch: usize): void {
  const pitch = <usize>width << 2, t = f32x4.splat(threshold);
  // a row's extremes stay in place y % 5 for as long as a window reaches it
  const low = scratch, high = scratch + 5 * pitch;
  for (let y = 0; y < min(2, height); y++) extremesOfRow(plane + <usize>y * pitch, width, low + <usize>y * pitch, high + <usize>y * pitch);
  for (let y = 0; y < height; y++) {
    if (y + 2 < height) {
      const next = <usize>((y + 2) % 5) * pitch;
      extremesOfRow(plane + <usize>(y + 2) * pitch, width, low + next, high + next);
    }
    const o0 = <usize>(max(0, y - 2) % 5) * pitch, o1 = <usize>(max(0, y - 1) % 5) * pitch, o2 = <usize>(y % 5) * pitch;
    const o3 = <usize>(min(height - 1, y + 1) % 5) * pitch, o4 = <usize>(min(height - 1, y + 2) % 5) * pitch;
    const row = plane + <usize>y * pitch;
    let o: usize = 0;
    for (; o + 16 <= pitch; o += 16) {
      const a = f32x4.pmin(f32x4.pmin(f32x4.pmin(v128.load(low + o0 + o), v128.load(low + o1 + o)), f32x4.pmin(v128.load(low + o2 + o), v128.load(low + o3 + o))), v128.load(low + o4 + o));
      const b = f32x4.pmax(f32x4.pmax(f32x4.pmax(v128.load(high + o0 + o), v128.load(high + o1 + o)), f32x4.pmax(v128.load(high + o2 + o), v128.load(high + o3 + o))), v128.load(high + o4 + o));
      const v = v128.load(row + o);
      const snapped = v128.bitselect(a, b, f32x4.lt(f32x4.sub(v, a), f32x4.sub(b, v)));
      v128.store(row + o, v128.bitselect(snapped, v, f32x4.gt(f32x4.sub(b, a), t)));
    }
    for (; o < pitch; o += 4) {
      const a = min(min(min(load<f32>(low + o0 + o), load<f32>(low + o1 + o)), min(load<f32>(low + o2 + o), load<f32>(low + o3 + o))), load<f32>(low + o4 + o));
      const b = max(max(max(load<f32>(high + o0 + o), load<f32>(high + o1 + o)), max(load<f32>(high + o2 + o), load<f32>(high + o3 + o))), load<f32>(high + o4 + o));
      const v = load<f32>(row + o);
      if (b - a > threshold) store<f32>(row + o, v - a < b - v ? a : b);
    }
  }
}
