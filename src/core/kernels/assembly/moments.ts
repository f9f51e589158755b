// matte/statistics.ts and its twin: ten moments of the front and ten of the back to a cell, 80 bytes.
const CELL: usize = 80;
/** How much less a coarser level says. */
const KAPPA: f32 = 0.25;

/** Adds moments of one side to a cell: weight and means, RR RG RB GG, GB BB. */
// @ts-ignore: decorator
@inline
function put(at: usize, means: v128, products: v128, rest: v128): void {
  v128.store(at, f32x4.add(v128.load(at), means));
  v128.store(at, f32x4.add(v128.load(at, 16), products), 16);
  v128.store64_lane(at, f32x4.add(v128.load64_zero(at, 32), rest), 0, 32);
}

/** Adds the moments of a row of pixels to their cells, four to a cell: `codes` tell the weight of each in the tables of both sides. Light is limited to 0 … 1. */
export function momentRow(light: usize, codes: usize, front: usize, back: usize, count: i32, share: f32, cells: usize): void {
  const zero = f32x4.splat(0), one = f32x4.splat(1), times = f32x4.splat(share);
  for (let x = 0; x < count; x += 4, cells += CELL) {
    let f0 = zero, f1 = zero, f2 = zero, b0 = zero, b1 = zero, b2 = zero;
    const end = min(count, x + 4);
    for (let i = x; i < end; i++) {
      const p = f32x4.pmin(one, f32x4.pmax(zero, v128.load(light + (<usize>i << 4))));
      const code = <usize>load<u8>(codes + <usize>i) << 2;
      const wf = f32x4.mul(times, v128.load32_splat(front + code)), wb = f32x4.mul(times, v128.load32_splat(back + code));
      const means = v128.shuffle<f32>(one, p, 0, 4, 5, 6);
      const products = f32x4.mul(v128.shuffle<f32>(p, p, 0, 0, 0, 1), v128.shuffle<f32>(p, p, 0, 1, 2, 1));
      const rest = f32x4.mul(v128.shuffle<f32>(p, p, 1, 2, 1, 2), v128.shuffle<f32>(p, p, 2, 2, 2, 2));
      f0 = f32x4.add(f0, f32x4.mul(wf, means));
      f1 = f32x4.add(f1, f32x4.mul(wf, products));
      f2 = f32x4.add(f2, f32x4.mul(wf, rest));
      b0 = f32x4.add(b0, f32x4.mul(wb, means));
      b1 = f32x4.add(b1, f32x4.mul(wb, products));
      b2 = f32x4.add(b2, f32x4.mul(wb, rest));
    }
    put(cells, f0, f1, f2);
    put(cells + 40, b0, b1, b2);
  }
}

/** Means of 2x2 cells, added to the cells of a level of half the size, which are 0 before. */
export function halveCells(fine: usize, width: i32, height: i32, coarse: usize): void {
  const quarter = f32x4.splat(0.25);
  const pitch = <usize>((width + 1) >> 1) * CELL;
  for (let y = 0; y < height; y++) {
    const row = coarse + <usize>(y >> 1) * pitch;
    for (let x = 0; x < width; x++, fine += CELL) {
      const to = row + <usize>(x >> 1) * CELL;
      for (let j: usize = 0; j < CELL; j += 16) {
        v128.store(to + j, f32x4.add(v128.load(to + j), f32x4.mul(quarter, v128.load(fine + j))));
      }
    }
  }
}

/** Adds to every cell of a level κ times what the next coarser level has around it, bilinear. */
export function addCells(fine: usize, width: i32, height: i32, coarse: usize): void {
  const w = (width + 1) >> 1, h = (height + 1) >> 1;
  for (let y = 0; y < height; y++) {
    const fy = min<f32>(<f32>(h - 1), max<f32>(0, (<f32>y + 0.5) * 0.5 - 0.5));
    const y0 = <i32>fy, v = fy - <f32>y0;
    const upper = coarse + <usize>(y0 * w) * CELL, lower = coarse + <usize>(min(h - 1, y0 + 1) * w) * CELL;
    for (let x = 0; x < width; x++, fine += CELL) {
      const fx = min<f32>(<f32>(w - 1), max<f32>(0, (<f32>x + 0.5) * 0.5 - 0.5));
      const x0 = <i32>fx, u = fx - <f32>x0;
      const left = <usize>x0 * CELL, right = <usize>min(w - 1, x0 + 1) * CELL;
      const k0 = f32x4.splat(KAPPA * (1 - u) * (1 - v)), k1 = f32x4.splat(KAPPA * u * (1 - v));
      const k2 = f32x4.splat(KAPPA * (1 - u) * v), k3 = f32x4.splat(KAPPA * u * v);
      for (let j: usize = 0; j < CELL; j += 16) {
        const top = f32x4.add(f32x4.mul(k0, v128.load(upper + left + j)), f32x4.mul(k1, v128.load(upper + right + j)));
        const low = f32x4.add(f32x4.mul(k2, v128.load(lower + left + j)), f32x4.mul(k3, v128.load(lower + right + j)));
        v128.store(fine + j, f32x4.add(v128.load(fine + j), f32x4.add(top, low)));
      }
    }
  }
}
