/** A place brought into 0..n by mirrors at both ends. */
// @ts-ignore: decorator
@inline
function mirrored(v: f32, n: f32): f32 {
  if (v >= 0 && v <= n) return v;
  const period: f32 = n + n;
  const t = v - period * Mathf.floor(v / period);
  return t <= n ? t : period - t;
}

/**
 * One row of a picture whose pixels are fetched from elsewhere: `places` are x and y of every pixel, px, centres at halves. RGBA floats,
 * bilinear, mirrored at the border; only the lanes set in `mask` are written.
 */
export function fetchRow(source: usize, width: i32, height: i32, places: usize, count: i32, mask: usize, out: usize): void {
  const rowStep = <usize>width << 4;
  const lastX = width - 1;
  const lastY = height - 1;
  const wanted = v128.load(mask);
  for (let i = 0; i < count; i++, places += 8, out += 16) {
    const u = Mathf.min(<f32>lastX, Mathf.max(0, mirrored(load<f32>(places), <f32>width) - 0.5));
    const v = Mathf.min(<f32>lastY, Mathf.max(0, mirrored(load<f32>(places + 4), <f32>height) - 0.5));
    const x0 = <i32>u;
    const y0 = <i32>v;
    const tx = u - <f32>x0;
    const ty = v - <f32>y0;
    const a = source + <usize>y0 * rowStep + (<usize>x0 << 4);
    const b = x0 < lastX ? a + 16 : a;
    const down: usize = y0 < lastY ? rowStep : 0;
    const top = f32x4.add(v128.load(a), f32x4.mul(f32x4.splat(tx), f32x4.sub(v128.load(b), v128.load(a))));
    const low = f32x4.add(v128.load(a + down), f32x4.mul(f32x4.splat(tx), f32x4.sub(v128.load(b + down), v128.load(a + down))));
    const light = f32x4.add(top, f32x4.mul(f32x4.splat(ty), f32x4.sub(low, top)));
    v128.store(out, v128.bitselect(light, v128.load(out), wanted));
  }
}
