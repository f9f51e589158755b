import { decodex4, encodex4 } from './curves';

// All of effects/frame/blocksTwin.ts: brightness and two differences of colour of a pixel go through the cosines together, as lanes.

// @ts-ignore: decorator
@inline
function times(k: f32, v: v128): v128 {
  return f32x4.mul(f32x4.splat(k), v);
}

/** A row of RGBA floats summed up in cells, each by the `weight` of its row over the px that it has in the row. */
export function cellRow(row: usize, width: i32, cell: i32, weight: f32, sums: usize): void {
  for (let x = 0; x < width; x += cell, sums += 16) {
    const end = min(width, x + cell);
    let sum = f32x4.splat(0);
    for (let u = x; u < end; u++) sum = f32x4.add(sum, v128.load(row + (<usize>u << 4)));
    v128.store(sums, f32x4.add(v128.load(sums), times(weight / <f32>(end - x), sum)));
  }
}

/**
 * Light of a row of cells to brightness, red and blue less brightness, encoded; in place. The last is repeated up to `padded`, which is a
 * multiple of four.
 */
export function toDifferences(row: usize, count: i32, padded: i32): void {
  const last = v128.load(row + (<usize>(count - 1) << 4));
  for (let i = count; i < padded; i++) v128.store(row + (<usize>i << 4), last);
  const end = row + (<usize>padded << 4);
  for (let p = row; p < end; p += 64) {
    const a0 = v128.load(p), a1 = v128.load(p, 16), a2 = v128.load(p, 32), a3 = v128.load(p, 48);
    const t0 = v128.shuffle<f32>(a0, a1, 0, 4, 1, 5), t1 = v128.shuffle<f32>(a2, a3, 0, 4, 1, 5);
    const t2 = v128.shuffle<f32>(a0, a1, 2, 6, 3, 7), t3 = v128.shuffle<f32>(a2, a3, 2, 6, 3, 7);
    const r = encodex4(v128.shuffle<f32>(t0, t1, 0, 1, 4, 5));
    const g = encodex4(v128.shuffle<f32>(t0, t1, 2, 3, 6, 7));
    const b = encodex4(v128.shuffle<f32>(t2, t3, 0, 1, 4, 5));
    const luma = f32x4.add(f32x4.add(times(0.299, r), times(0.587, g)), times(0.114, b));
    store(p, luma, f32x4.sub(r, luma), f32x4.sub(b, luma));
  }
}

/** Four pixels of three numbers each, and 0. */
// @ts-ignore: decorator
@inline
function store(p: usize, a: v128, b: v128, c: v128): void {
  const zero = f32x4.splat(0);
  const u0 = v128.shuffle<f32>(a, b, 0, 4, 1, 5), u1 = v128.shuffle<f32>(c, zero, 0, 4, 1, 5);
  const u2 = v128.shuffle<f32>(a, b, 2, 6, 3, 7), u3 = v128.shuffle<f32>(c, zero, 2, 6, 3, 7);
  v128.store(p, v128.shuffle<f32>(u0, u1, 0, 1, 4, 5));
  v128.store(p, v128.shuffle<f32>(u0, u1, 2, 3, 6, 7), 16);
  v128.store(p, v128.shuffle<f32>(u2, u3, 0, 1, 4, 5), 32);
  v128.store(p, v128.shuffle<f32>(u2, u3, 2, 3, 6, 7), 48);
}

/** The way back, four cells at a time; `count` is a multiple of four. In place. */
export function toLight(row: usize, count: i32): void {
  const end = row + (<usize>count << 4);
  for (let p = row; p < end; p += 64) {
    const a0 = v128.load(p), a1 = v128.load(p, 16), a2 = v128.load(p, 32), a3 = v128.load(p, 48);
    const t0 = v128.shuffle<f32>(a0, a1, 0, 4, 1, 5), t1 = v128.shuffle<f32>(a2, a3, 0, 4, 1, 5);
    const t2 = v128.shuffle<f32>(a0, a1, 2, 6, 3, 7), t3 = v128.shuffle<f32>(a2, a3, 2, 6, 3, 7);
    const luma = v128.shuffle<f32>(t0, t1, 0, 1, 4, 5);
    const r = f32x4.add(luma, v128.shuffle<f32>(t0, t1, 2, 3, 6, 7));
    const b = f32x4.add(luma, v128.shuffle<f32>(t2, t3, 0, 1, 4, 5));
    const g = times(1.7035775, f32x4.sub(f32x4.sub(luma, times(0.299, r)), times(0.114, b)));
    store(p, decodex4(r), decodex4(g), decodex4(b));
  }
}

/** The light of cells over a row of the picture; its coverage stays. */
export function overCells(cells: usize, width: i32, cell: i32, row: usize): void {
  for (let x = 0; x < width; x += cell, cells += 16) {
    const light = v128.load(cells);
    const end = min(width, x + cell);
    for (let u = x; u < end; u++) {
      const p = row + (<usize>u << 4);
      v128.store(p, v128.shuffle<f32>(light, v128.load(p), 0, 1, 2, 7));
    }
  }
}

/** Eight pixels along a row of a block to their coefficients (Ahmed, Natarajan & Rao 1974; orthonormal), put at `to`. */
// @ts-ignore: decorator
@inline
function forward(p: usize, to: usize): void {
  const v0 = v128.load(p), v1 = v128.load(p, 16), v2 = v128.load(p, 32), v3 = v128.load(p, 48);
  const v4 = v128.load(p, 64), v5 = v128.load(p, 80), v6 = v128.load(p, 96), v7 = v128.load(p, 112);
  const s0 = f32x4.add(v0, v7), s1 = f32x4.add(v1, v6), s2 = f32x4.add(v2, v5), s3 = f32x4.add(v3, v4);
  const d0 = f32x4.sub(v0, v7), d1 = f32x4.sub(v1, v6), d2 = f32x4.sub(v2, v5), d3 = f32x4.sub(v3, v4);
  const a = f32x4.add(s0, s3), b = f32x4.add(s1, s2), c = f32x4.sub(s0, s3), d = f32x4.sub(s1, s2);
  v128.store(to, times(0.353553391, f32x4.add(a, b)));
  v128.store(to, times(0.353553391, f32x4.sub(a, b)), 64);
  v128.store(to, f32x4.add(times(0.46193977, c), times(0.191341716, d)), 32);
  v128.store(to, f32x4.sub(times(0.191341716, c), times(0.46193977, d)), 96);
  v128.store(to, odd1(d0, d1, d2, d3), 16);
  v128.store(to, odd3(d0, d1, d2, d3), 48);
  v128.store(to, odd5(d0, d1, d2, d3), 80);
  v128.store(to, odd7(d0, d1, d2, d3), 112);
}

// The odd coefficients of four differences; and, their table being symmetric, the four differences of odd coefficients.

// @ts-ignore: decorator
@inline
function odd1(a: v128, b: v128, c: v128, d: v128): v128 {
  return f32x4.add(f32x4.add(times(0.49039264, a), times(0.415734806, b)), f32x4.add(times(0.277785117, c), times(0.097545161, d)));
}

// @ts-ignore: decorator
@inline
function odd3(a: v128, b: v128, c: v128, d: v128): v128 {
  return f32x4.sub(f32x4.sub(times(0.415734806, a), times(0.097545161, b)), f32x4.add(times(0.49039264, c), times(0.277785117, d)));
}

// @ts-ignore: decorator
@inline
function odd5(a: v128, b: v128, c: v128, d: v128): v128 {
  return f32x4.add(f32x4.sub(times(0.277785117, a), times(0.49039264, b)), f32x4.add(times(0.097545161, c), times(0.415734806, d)));
}

// @ts-ignore: decorator
@inline
function odd7(a: v128, b: v128, c: v128, d: v128): v128 {
  return f32x4.add(f32x4.sub(times(0.097545161, a), times(0.277785117, b)), f32x4.sub(times(0.415734806, c), times(0.49039264, d)));
}

/** Eight coefficients back to the pixels of a row of a block, `stride` bytes apart. */
// @ts-ignore: decorator
@inline
function backward(p: usize, stride: usize, k0: v128, k1: v128, k2: v128, k3: v128, k4: v128, k5: v128, k6: v128, k7: v128): void {
  const e0 = times(0.353553391, k0), e4 = times(0.353553391, k4);
  const a = f32x4.add(e0, e4), b = f32x4.sub(e0, e4);
  const c = f32x4.add(times(0.46193977, k2), times(0.191341716, k6)), d = f32x4.sub(times(0.191341716, k2), times(0.46193977, k6));
  const s0 = f32x4.add(a, c), s1 = f32x4.add(b, d), s2 = f32x4.sub(b, d), s3 = f32x4.sub(a, c);
  const d0 = odd1(k1, k3, k5, k7), d1 = odd3(k1, k3, k5, k7), d2 = odd5(k1, k3, k5, k7), d3 = odd7(k1, k3, k5, k7);
  v128.store(p, f32x4.add(s0, d0));
  v128.store(p + stride, f32x4.add(s1, d1));
  v128.store(p + 2 * stride, f32x4.add(s2, d2));
  v128.store(p + 3 * stride, f32x4.add(s3, d3));
  v128.store(p + 4 * stride, f32x4.sub(s3, d3));
  v128.store(p + 5 * stride, f32x4.sub(s2, d2));
  v128.store(p + 6 * stride, f32x4.sub(s1, d1));
  v128.store(p + 7 * stride, f32x4.sub(s0, d0));
}

/** A coefficient rounded to its step; the inverses of steps stand 64 pixels after them. */
// @ts-ignore: decorator
@inline
function rounded(v: v128, step: usize): v128 {
  return f32x4.mul(f32x4.floor(f32x4.add(f32x4.mul(v, v128.load(step, 1024)), f32x4.splat(0.5))), v128.load(step));
}

/** A column of a block that was transformed along its rows: to its coefficients, rounded, and back. */
// @ts-ignore: decorator
@inline
function roundColumn(p: usize, stride: usize, steps: usize): void {
  const v0 = v128.load(p), v1 = v128.load(p + stride), v2 = v128.load(p + 2 * stride), v3 = v128.load(p + 3 * stride);
  const v4 = v128.load(p + 4 * stride), v5 = v128.load(p + 5 * stride), v6 = v128.load(p + 6 * stride), v7 = v128.load(p + 7 * stride);
  const s0 = f32x4.add(v0, v7), s1 = f32x4.add(v1, v6), s2 = f32x4.add(v2, v5), s3 = f32x4.add(v3, v4);
  const d0 = f32x4.sub(v0, v7), d1 = f32x4.sub(v1, v6), d2 = f32x4.sub(v2, v5), d3 = f32x4.sub(v3, v4);
  const a = f32x4.add(s0, s3), b = f32x4.add(s1, s2), c = f32x4.sub(s0, s3), d = f32x4.sub(s1, s2);
  backward(
    p,
    stride,
    rounded(times(0.353553391, f32x4.add(a, b)), steps),
    rounded(odd1(d0, d1, d2, d3), steps + 128),
    rounded(f32x4.add(times(0.46193977, c), times(0.191341716, d)), steps + 256),
    rounded(odd3(d0, d1, d2, d3), steps + 384),
    rounded(times(0.353553391, f32x4.sub(a, b)), steps + 512),
    rounded(odd5(d0, d1, d2, d3), steps + 640),
    rounded(f32x4.sub(times(0.191341716, c), times(0.46193977, d)), steps + 768),
    rounded(odd7(d0, d1, d2, d3), steps + 896),
  );
}

/**
 * The blocks of eight rows of `width` pixels there and back, in place. `steps`: 64 of four lanes each, and then their inverses. `room`: of 64
 * pixels: rows that lie a power of two apart would get into each other's way.
 */
export function roundBlocks(rows: usize, width: i32, steps: usize, room: usize): void {
  const down = <usize>width << 4;
  for (let x = 0; x < width; x += 8) {
    const block = rows + (<usize>x << 4);
    for (let y: usize = 0; y < 8; y++) forward(block + y * down, room + (y << 7));
    for (let u: usize = 0; u < 8; u++) roundColumn(room + (u << 4), 128, steps + (u << 4));
    for (let y: usize = 0; y < 8; y++) {
      const p = room + (y << 7);
      backward(
        block + y * down, 16, v128.load(p), v128.load(p, 16), v128.load(p, 32), v128.load(p, 48), v128.load(p, 64), v128.load(p, 80),
        v128.load(p, 96), v128.load(p, 112),
      );
    }
  }
}
