/** Added to a number it leaves the nearest whole one in the lowest bits: 1½ · 2^23, and its own bits. */
const WHOLE: f32 = 12582912;
const WHOLE_BITS: i32 = 0x4b400000;

/** A place brought into 0..n by mirrors at both ends. */
// @ts-ignore: decorator
@inline
function mirrored(v: f32, n: f32): f32 {
  if (v >= 0 && v <= n) return v;
  const period: f32 = n + n;
  const t = v - period * Mathf.floor(v / period);
  return t <= n ? t : period - t;
}

/** Between four pixels, at `a` and on, by shares of the way to the right and down. */
// @ts-ignore: decorator
@inline
function between(a: usize, right: usize, down: usize, tx: f32, ty: f32): v128 {
  const across = f32x4.splat(tx);
  const top = v128.load(a), low = v128.load(a + down);
  const upper = f32x4.add(top, f32x4.mul(across, f32x4.sub(v128.load(a + right), top)));
  const lower = f32x4.add(low, f32x4.mul(across, f32x4.sub(v128.load(a + down + right), low)));
  return f32x4.add(upper, f32x4.mul(f32x4.splat(ty), f32x4.sub(lower, upper)));
}

/** The same beside the border and beyond it, where the picture is mirrored. */
function lightBeyond(source: usize, width: i32, height: i32, x: f32, y: f32): v128 {
  const rowStep = <usize>width << 4, lastX = width - 1, lastY = height - 1;
  const u = Mathf.min(<f32>lastX, Mathf.max(0, mirrored(x, <f32>width) - 0.5));
  const v = Mathf.min(<f32>lastY, Mathf.max(0, mirrored(y, <f32>height) - 0.5));
  const x0 = <i32>u, y0 = <i32>v;
  const a = source + <usize>y0 * rowStep + (<usize>x0 << 4);
  return between(a, x0 < lastX ? 16 : 0, y0 < lastY ? rowStep : 0, u - <f32>x0, v - <f32>y0);
}

/** The light at a place, px, of a picture of RGBA floats: bilinear, mirrored at the border. */
// @ts-ignore: decorator
@inline
function lightAt(source: usize, width: i32, height: i32, x: f32, y: f32): v128 {
  const u = x - 0.5, v = y - 0.5;
  if (u >= 0 && v >= 0 && u < <f32>(width - 1) && v < <f32>(height - 1)) {
    // the whole parts as the lowest bits of floats; halfway between two either will do
    const across: f32 = u - 0.5 + WHOLE, down: f32 = v - 0.5 + WHOLE;
    const x0 = <usize>(reinterpret<i32>(across) - WHOLE_BITS), y0 = <usize>(reinterpret<i32>(down) - WHOLE_BITS);
    const rowStep = <usize>width << 4;
    return between(source + y0 * rowStep + (x0 << 4), 16, rowStep, u - (across - WHOLE), v - (down - WHOLE));
  }
  return lightBeyond(source, width, height, x, y);
}

/**
 * One row of a picture whose pixels are fetched from elsewhere: `places` are x and y of every pixel, px, centres at halves; only the lanes
 * set in `mask` are written.
 */
export function fetchRow(source: usize, width: i32, height: i32, places: usize, count: i32, mask: usize, out: usize): void {
  const wanted = v128.load(mask);
  for (let i = 0; i < count; i++, places += 8, out += 16) {
    const light = lightAt(source, width, height, load<f32>(places), load<f32>(places + 4));
    v128.store(out, v128.bitselect(light, v128.load(out), wanted));
  }
}

/** How a copy is laid on a row. */
const SET: i32 = 0;
const ADDED: i32 = 1;

/**
 * One row of a copy of a picture along a straight line: its first pixel is fetched at (x, y), each next one (dx, dy) farther. Its light times
 * `strength` takes the place of what is there, is added to it, or shows where it is lighter.
 */
export function fetchLine(
  source: usize, width: i32, height: i32, x: f32, y: f32, dx: f32, dy: f32, count: i32, how: i32, strength: f32, out: usize,
): void {
  const times = f32x4.splat(strength);
  const v = y - 0.5;
  if (dy == 0 && v >= 0 && v < <f32>(height - 1)) {
    // along a row of the picture its place between two rows stays
    const down: f32 = v - 0.5 + WHOLE;
    const rowStep = <usize>width << 4;
    const row = source + <usize>(reinterpret<i32>(down) - WHOLE_BITS) * rowStep;
    const ty = v - (down - WHOLE);
    for (let i = 0; i < count; i++, out += 16) {
      const place = x + <f32>i * dx;
      const u = place - 0.5;
      let light: v128;
      if (u >= 0 && u < <f32>(width - 1)) {
        const across: f32 = u - 0.5 + WHOLE;
        light = between(row + (<usize>(reinterpret<i32>(across) - WHOLE_BITS) << 4), 16, rowStep, u - (across - WHOLE), ty);
      } else light = lightBeyond(source, width, height, place, y);
      lay(out, f32x4.mul(times, light), how);
    }
    return;
  }
  for (let i = 0; i < count; i++, out += 16) {
    lay(out, f32x4.mul(times, lightAt(source, width, height, x + <f32>i * dx, y + <f32>i * dy)), how);
  }
}

// @ts-ignore: decorator
@inline
function lay(out: usize, light: v128, how: i32): void {
  v128.store(out, how == SET ? light : how == ADDED ? f32x4.add(v128.load(out), light) : f32x4.pmax(v128.load(out), light));
}
