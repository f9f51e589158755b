// Fast guided filter with a colour guide (He & Sun 2015). `image` is RGB + the map to refine, 16 bytes a pixel.

/** Box mean of f32x4 pixels, radius r, windows clamped, in place. */
function boxMean(source: usize, rows: usize, w: i32, h: i32, r: i32): void {
  for (let y = 0; y < h; y++) {
    const s = source + (<usize>(y * w) << 4), t = rows + (<usize>(y * w) << 4);
    let a = f32x4.splat(0);
    for (let x = 0; x < min(w, r); x++) a = f32x4.add(a, v128.load(s + (<usize>x << 4)));
    for (let x = 0; x < w; x++) {
      if (x + r < w) a = f32x4.add(a, v128.load(s + (<usize>(x + r) << 4)));
      if (x - r - 1 >= 0) a = f32x4.sub(a, v128.load(s + (<usize>(x - r - 1) << 4)));
      v128.store(t + (<usize>x << 4), f32x4.mul(a, f32x4.splat(<f32>1 / <f32>(min(w - 1, x + r) - max(0, x - r) + 1))));
    }
  }
  const rowBytes = <usize>w << 4;
  for (let x = 0; x < w; x++) {
    const o = <usize>x << 4;
    let a = f32x4.splat(0);
    for (let y = 0; y < min(h, r); y++) a = f32x4.add(a, v128.load(rows + <usize>y * rowBytes + o));
    for (let y = 0; y < h; y++) {
      if (y + r < h) a = f32x4.add(a, v128.load(rows + <usize>(y + r) * rowBytes + o));
      if (y - r - 1 >= 0) a = f32x4.sub(a, v128.load(rows + <usize>(y - r - 1) * rowBytes + o));
      v128.store(source + <usize>y * rowBytes + o, f32x4.mul(a, f32x4.splat(<f32>1 / <f32>(min(h - 1, y + r) - max(0, y - r) + 1))));
    }
  }
}

/** Linear coefficients (R, G, B, offset) per low-resolution pixel of an already small image, smoothed over the window. */
export function guidedCoefficients(image: usize, w: i32, h: i32, r: i32, eps: f32, scratch: usize): usize {
  const n = <usize>(w * h) << 4, A = scratch, B = A + n, C = B + n, D = C + n, rows = D + n;
  for (let i: usize = 0; i < n; i += 16) {
    const a = v128.load(image + i), R = f32x4.extract_lane(a, 0), G = f32x4.extract_lane(a, 1), L = f32x4.extract_lane(a, 2), p = f32x4.extract_lane(a, 3);
    v128.store(A + i, a);
    v128.store(B + i, f32x4.mul(a, f32x4.splat(R)));
    v128.store(C + i, f32x4(G * G, G * L, G * p, L * L));
    v128.store(D + i, f32x4(L * p, 0, 0, 0));
  }
  boxMean(A, rows, w, h, r);
  boxMean(B, rows, w, h, r);
  boxMean(C, rows, w, h, r);
  boxMean(D, rows, w, h, r);
  for (let i: usize = 0; i < n; i += 16) {
    const mR = load<f32>(A + i), mG = load<f32>(A + i, 4), mB = load<f32>(A + i, 8), mP = load<f32>(A + i, 12);
    const a = load<f32>(B + i) - mR * mR + eps, b = load<f32>(B + i, 4) - mR * mG, c = load<f32>(B + i, 8) - mR * mB, v0 = load<f32>(B + i, 12) - mR * mP;
    const d = load<f32>(C + i) - mG * mG + eps, e = load<f32>(C + i, 4) - mG * mB, v1 = load<f32>(C + i, 8) - mG * mP, f = load<f32>(C + i, 12) - mB * mB + eps, v2 = load<f32>(D + i) - mB * mP;
    const k0 = d * f - e * e, k1 = c * e - b * f, k2 = b * e - c * d, k3 = a * f - c * c, k4 = b * c - a * e, k5 = a * d - b * b, q: f32 = 1 / (a * k0 + b * k1 + c * k2);
    const x = (k0 * v0 + k1 * v1 + k2 * v2) * q, y = (k1 * v0 + k3 * v1 + k4 * v2) * q, z = (k2 * v0 + k4 * v1 + k5 * v2) * q;
    v128.store(A + i, f32x4(x, y, z, mP - x * mR - y * mG - z * mB));
  }
  boxMean(A, rows, w, h, r);
  return A;
}

/** Applies w×h coefficients to rows of a larger guide (RGB_, 16 bytes a pixel); `row` holds w+1 pixels of scratch. */
export function guidedApply(coefficients: usize, w: i32, h: i32, guide: usize, width: i32, height: i32, y0: i32, y1: i32, out: usize, row: usize): void {
  const sx: f32 = <f32>w / <f32>width, sy: f32 = <f32>h / <f32>height;
  for (let y = y0; y < y1; y++) {
    const fy = max<f32>(0, (<f32>y + 0.5) * sy - 0.5), iy = min(h - 1, <i32>fy), iy1 = min(h - 1, iy + 1), ty = f32x4.splat(fy - <f32>iy);
    const p0 = coefficients + (<usize>(iy * w) << 4), p1 = coefficients + (<usize>(iy1 * w) << 4);
    for (let x = 0; x < w; x++) {
      const o = <usize>x << 4, u = v128.load(p0 + o);
      v128.store(row + o, f32x4.add(u, f32x4.mul(ty, f32x4.sub(v128.load(p1 + o), u))));
    }
    v128.store(row + (<usize>w << 4), v128.load(row + (<usize>(w - 1) << 4)));
    let p = guide + (<usize>((y - y0) * width) << 4), o = out + (<usize>((y - y0) * width) << 2);
    for (let x = 0; x < width; x++) {
      const fx = max<f32>(0, (<f32>x + 0.5) * sx - 0.5), ix = min(w - 1, <i32>fx), q = row + (<usize>ix << 4), u = v128.load(q);
      const c = f32x4.add(u, f32x4.mul(f32x4.splat(fx - <f32>ix), f32x4.sub(v128.load(q, 16), u)));
      const m = f32x4.mul(c, f32x4.replace_lane(v128.load(p), 3, 1)), m2 = f32x4.add(m, i8x16.shuffle(m, m, 8, 9, 10, 11, 12, 13, 14, 15, 0, 1, 2, 3, 4, 5, 6, 7));
      store<f32>(o, f32x4.extract_lane(m2, 0) + f32x4.extract_lane(m2, 1));
      p += 16;
      o += 4;
    }
  }
}
