// Planes of floats, row by row.

// @ts-ignore: decorator
@inline
export function at(p: usize, i: i32): usize { return p + (<usize>i << 2); }
// @ts-ignore: decorator
@inline
export function rf(p: usize, i: i32): f32 { return load<f32>(at(p, i)); }
// @ts-ignore: decorator
@inline
export function wf(p: usize, i: i32, v: f32): void { store<f32>(at(p, i), v); }
// @ts-ignore: decorator
@inline
export function sum4(v: v128): f32 {
  return f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3));
}

/** A plane's value between its pixels, continued beyond its border. */
// @ts-ignore: decorator
@inline
export function bilinear(data: usize, w: i32, h: i32, x: f32, y: f32): f32 {
  const cx = x < 0 ? <f32>0 : x > <f32>(w - 1) ? <f32>(w - 1) : x, cy = y < 0 ? <f32>0 : y > <f32>(h - 1) ? <f32>(h - 1) : y;
  const x0 = <i32>cx, y0 = <i32>cy, fx = cx - <f32>x0, fy = cy - <f32>y0;
  const i = y0 * w + x0, right = x0 + 1 < w ? 1 : 0, down = y0 + 1 < h ? w : 0;
  return (rf(data, i) * (1 - fx) + rf(data, i + right) * fx) * (1 - fy) + (rf(data, i + down) * (1 - fx) + rf(data, i + down + right) * fx) * fy;
}

/** Half the difference of the neighbours along rows, one-sided at the border. */
export function acrossX(data: usize, w: i32, h: i32, out: usize): void {
  const half = f32x4.splat(0.5);
  for (let y = 0, i = 0; y < h; y++, i += w) {
    wf(out, i, 0.5 * (rf(data, w > 1 ? i + 1 : i) - rf(data, i)));
    let x = 1;
    for (; x + 4 < w; x += 4) {
      const p = at(data, i + x);
      v128.store(at(out, i + x), f32x4.mul(half, f32x4.sub(v128.load(p, 4), v128.load(p - 4))));
    }
    for (; x < w; x++) wf(out, i + x, 0.5 * (rf(data, x + 1 < w ? i + x + 1 : i + x) - rf(data, i + x - 1)));
  }
}

/** The same along columns. */
export function acrossY(data: usize, w: i32, h: i32, out: usize): void {
  const half = f32x4.splat(0.5);
  for (let y = 0, i = 0; y < h; y++, i += w) {
    const below = y + 1 < h ? i + w : i, above = y > 0 ? i - w : i;
    let x = 0;
    for (; x + 4 <= w; x += 4) {
      v128.store(at(out, i + x), f32x4.mul(half, f32x4.sub(v128.load(at(data, below + x)), v128.load(at(data, above + x)))));
    }
    for (; x < w; x++) wf(out, i + x, 0.5 * (rf(data, below + x) - rf(data, above + x)));
  }
}
