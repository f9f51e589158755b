/** A plane's value between its pixels, continued beyond its border: (0, 0) is the middle of the first pixel. */
export function bilinear(data: Float32Array, width: number, height: number, x: number, y: number): number {
  const cx = x < 0 ? 0 : x > width - 1 ? width - 1 : x;
  const cy = y < 0 ? 0 : y > height - 1 ? height - 1 : y;
  const x0 = cx | 0;
  const y0 = cy | 0;
  const fx = cx - x0;
  const fy = cy - y0;
  const i = y0 * width + x0;
  const right = x0 + 1 < width ? 1 : 0;
  const down = y0 + 1 < height ? width : 0;
  return (data[i]! * (1 - fx) + data[i + right]! * fx) * (1 - fy) + (data[i + down]! * (1 - fx) + data[i + down + right]! * fx) * fy;
}
