// A row at half the size, read at twice the size: ¾ of the pixel's own cell and ¼ of the next, along both axes.

/** A row of the coarse level between its own and the next, with its ends repeated on both sides; gives the address of its first pixel. */
// @ts-ignore: decorator
@inline
export function between(own: usize, next: usize, width: i32, room: usize): usize {
  const near = f32x4.splat(0.75), far = f32x4.splat(0.25);
  const first = room + 16, end = <usize>width << 4;
  for (let p: usize = 0; p < end; p += 16) {
    v128.store(first + p, f32x4.add(f32x4.mul(near, v128.load(own + p)), f32x4.mul(far, v128.load(next + p))));
  }
  v128.store(room, v128.load(first));
  v128.store(first + end, v128.load(first + end - 16));
  return first;
}

/** Light of the coarse level at a pixel of the fine one. */
// @ts-ignore: decorator
@inline
export function at(row: usize, x: i32): v128 {
  const own = row + (<usize>(x >> 1) << 4);
  const next = x & 1 ? own + 16 : own - 16;
  return f32x4.add(f32x4.mul(f32x4.splat(0.75), v128.load(own)), f32x4.mul(f32x4.splat(0.25), v128.load(next)));
}

/** The row of the coarse level in which row y of the fine one lies, and the next nearest to it. */
// @ts-ignore: decorator
@inline
export function besides(y: i32, height: i32): i32 {
  const next = (y >> 1) + (y & 1 ? 1 : -1);
  return next < 0 ? 0 : next >= height ? height - 1 : next;
}
