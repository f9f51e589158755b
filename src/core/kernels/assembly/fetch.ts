/** A place brought into 0..n by mirrors at both ends. */
// @ts-ignore: decorator
@inline
function mirrored(v: f32, n: f32): f32 {
  if (v >= 0 && v <= n) return v;
  const period: f32 = n + n;
  const t = v - period * Mathf.floor(v / period);
  return t <= n ? t : period - t;
}

/** The light at a place, px, of a picture of RGBA floats: bilinear, mirrored at the border. */
// @ts-ignore: decorator
@inline
function lightAt(source: usize, width: i32, height: i32, x: f32, y: f32): v128 {
  const rowStep = <usize>width << 4, lastX = width - 1, lastY = height - 1;
  const u = Mathf.min(<f32>lastX, Mathf.max(0, mirrored(x, <f32>width) - 0.5));
  const v = Mathf.min(<f32>lastY, Mathf.max(0, mirrored(y, <f32>height) - 0.5));
  const x0 = <i32>u, y0 = <i32>v;
  const tx = f32x4.splat(u - <f32>x0), ty = f32x4.splat(v - <f32>y0);
  const a = source + <usize>y0 * rowStep + (<usize>x0 << 4);
  const b = x0 < lastX ? a + 16 : a;
  const down: usize = y0 < lastY ? rowStep : 0;
  const top = f32x4.add(v128.load(a), f32x4.mul(tx, f32x4.sub(v128.load(b), v128.load(a))));
  const low = f32x4.add(v128.load(a + down), f32x4.mul(tx, f32x4.sub(v128.load(b + down), v128.load(a + down))));
  return f32x4.add(top, f32x4.mul(ty, f32x4.sub(low, top)));
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
  for (let i = 0; i < count; i++, out += 16) {
    const light = f32x4.mul(times, lightAt(source, width, height, x + <f32>i * dx, y + <f32>i * dy));
    v128.store(out, how == SET ? light : how == ADDED ? f32x4.add(v128.load(out), light) : f32x4.max(v128.load(out), light));
  }
}
