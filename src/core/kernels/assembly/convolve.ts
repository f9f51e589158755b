/** What becomes of a sum: nothing, cut off below zero, or x · min(max(x + 3, 0), 6) / 6 (hard swish: Howard et al. 2019). */
// @ts-ignore: decorator
@inline
function bent(sum: v128, activation: i32): v128 {
  if (activation == 1) return f32x4.max(sum, f32x4.splat(0));
  if (activation == 2)
    return f32x4.mul(sum, f32x4.mul(f32x4.min(f32x4.max(f32x4.add(sum, f32x4.splat(3)), f32x4.splat(0)), f32x4.splat(6)), f32x4.splat(1.0 / 6)));
  return sum;
}

/**
 * Convolution by size x size taps. `from`: inputs planes of (pitch x rows) floats with their border; `weights`: for every group of
 * four outputs, for every input and tap, four floats; `bias`: outputs floats (a multiple of four); `out`: outputs planes of
 * (width x height), width a multiple of eight and at most pitch − size + 1.
 */
export function convolve(
  from: usize,
  inputs: i32,
  pitch: i32,
  rows: i32,
  weights: usize,
  bias: usize,
  outputs: i32,
  size: i32,
  width: i32,
  height: i32,
  activation: i32,
  out: usize,
): void {
  const plane = <usize>(width * height) << 2;
  const step = <usize>(pitch * rows) << 2;
  const line = <usize>pitch << 2;
  const across = <usize>size << 2;
  const group = <usize>(inputs * size * size) << 4;
  for (let y = 0; y < height; y++)
    for (let o = 0; o < outputs; o += 4) {
      const first = weights + <usize>(o >> 2) * group;
      const b = bias + (<usize>o << 2);
      for (let x = 0; x < width; x += 8) {
        let a0 = v128.load32_splat(b);
        let a1 = v128.load32_splat(b, 4);
        let a2 = v128.load32_splat(b, 8);
        let a3 = v128.load32_splat(b, 12);
        let b0 = a0;
        let b1 = a1;
        let b2 = a2;
        let b3 = a3;
        let k = first;
        let input = from + ((<usize>(y * pitch + x)) << 2);
        for (let c = 0; c < inputs; c++) {
          let row = input;
          for (let dy = 0; dy < size; dy++) {
            const end = row + across;
            for (let at = row; at < end; at += 4) {
              const p = v128.load(at);
              const q = v128.load(at, 16);
              const k0 = v128.load32_splat(k);
              const k1 = v128.load32_splat(k, 4);
              const k2 = v128.load32_splat(k, 8);
              const k3 = v128.load32_splat(k, 12);
              a0 = f32x4.add(a0, f32x4.mul(p, k0));
              a1 = f32x4.add(a1, f32x4.mul(p, k1));
              a2 = f32x4.add(a2, f32x4.mul(p, k2));
              a3 = f32x4.add(a3, f32x4.mul(p, k3));
              b0 = f32x4.add(b0, f32x4.mul(q, k0));
              b1 = f32x4.add(b1, f32x4.mul(q, k1));
              b2 = f32x4.add(b2, f32x4.mul(q, k2));
              b3 = f32x4.add(b3, f32x4.mul(q, k3));
              k += 16;
            }
            row += line;
          }
          input += step;
        }
        let to = out + <usize>o * plane + ((<usize>(y * width + x)) << 2);
        v128.store(to, bent(a0, activation));
        v128.store(to, bent(b0, activation), 16);
        to += plane;
        v128.store(to, bent(a1, activation));
        v128.store(to, bent(b1, activation), 16);
        to += plane;
        v128.store(to, bent(a2, activation));
        v128.store(to, bent(b2, activation), 16);
        to += plane;
        v128.store(to, bent(a3, activation));
        v128.store(to, bent(b3, activation), 16);
      }
    }
}

/** Every plane convolved by taps of its own (size x size floats each); planes, border and sizes as in convolve. */
export function depthwise(
  from: usize,
  planes: i32,
  pitch: i32,
  rows: i32,
  weights: usize,
  bias: usize,
  size: i32,
  width: i32,
  height: i32,
  activation: i32,
  out: usize,
): void {
  const line = <usize>pitch << 2;
  const across = <usize>size << 2;
  let to = out;
  for (let c = 0; c < planes; c++) {
    const first = weights + ((<usize>(c * size * size)) << 2);
    const b = v128.load32_splat(bias + (<usize>c << 2));
    for (let y = 0; y < height; y++) {
      let input = from + ((<usize>((c * rows + y) * pitch)) << 2);
      for (let x = 0; x < width; x += 4) {
        let sum = b;
        let k = first;
        let row = input;
        for (let dy = 0; dy < size; dy++) {
          const end = row + across;
          for (let at = row; at < end; at += 4) {
            sum = f32x4.add(sum, f32x4.mul(v128.load(at), v128.load32_splat(k)));
            k += 4;
          }
          row += line;
        }
        v128.store(to, bent(sum, activation));
        to += 16;
        input += 16;
      }
    }
  }
}
