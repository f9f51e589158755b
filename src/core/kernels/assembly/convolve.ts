/**
 * 3x3 convolution over padded planes. `from`: inputs planes of (w x h) floats with their border; `weights`: for every group of four
 * outputs, for every input and tap, four floats; `bias`: outputs floats (a multiple of four); `out`: outputs planes of width x height.
 */
export function convolve(
  from: usize,
  inputs: i32,
  w: i32,
  h: i32,
  weights: usize,
  bias: usize,
  outputs: i32,
  stride: i32,
  width: i32,
  height: i32,
  rectify: i32,
  patch: usize,
  out: usize,
): void {
  const length = inputs * 9;
  const plane = <usize>(width * height) << 2;
  const zero = f32x4.splat(0);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let to = patch;
      for (let c = 0; c < inputs; c++) {
        let at = from + ((<usize>((c * h + y * stride) * w + x * stride)) << 2);
        for (let row = 0; row < 3; row++) {
          f32.store(to, f32.load(at));
          f32.store(to, f32.load(at, 4), 4);
          f32.store(to, f32.load(at, 8), 8);
          to += 12;
          at += <usize>w << 2;
        }
      }
      const pixel = out + ((<usize>(y * width + x)) << 2);
      for (let o = 0; o < outputs; o += 4) {
        let sum = v128.load(bias + (<usize>o << 2));
        let k = weights + ((<usize>(o * length)) << 2);
        const end = patch + (<usize>length << 2);
        for (let p = patch; p < end; p += 4) {
          sum = f32x4.add(sum, f32x4.mul(v128.load32_splat(p), v128.load(k)));
          k += 16;
        }
        if (rectify) sum = f32x4.max(sum, zero);
        const first = pixel + <usize>o * plane;
        f32.store(first, f32x4.extract_lane(sum, 0));
        f32.store(first + plane, f32x4.extract_lane(sum, 1));
        f32.store(first + 2 * plane, f32x4.extract_lane(sum, 2));
        f32.store(first + 3 * plane, f32x4.extract_lane(sum, 3));
      }
    }
}
