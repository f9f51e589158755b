import { kernels } from '../kernels/loader';
import type { Plane } from '../picture';

/**
 * Inverse distances, 1/m (0: sky), as a pinhole camera sees them: u = (x+½−w/2)/f, v = (y+½−h/2)/f, y down, P = (u, v, 1)/W. A plane is
 * affine in W, and a straight ray a straight line in (u, v, W).
 */
export interface DepthField {
  readonly width: number;
  readonly height: number;
  readonly focalPx: number;
  readonly inverse: Float32Array;
}

/** From here on there is nothing but sky, m. */
const SKY = 5000;

export function depthField({ width, height, data }: Plane, focalPx: number): DepthField {
  const inverse = new Float32Array(data.length);
  for (let i = 0; i < data.length; i++) {
    const z = data[i]!;
    if (z > 0 && z < SKY) inverse[i] = 1 / z;
  }
  return { width, height, focalPx, inverse };
}

/** Neighbours whose inverse distances differ by more than this share lie on different surfaces. */
export const EDGE = 0.03;

/** Every `step`th pixel of a field. */
export function thinned(field: DepthField, step: number): DepthField {
  const [width, height] = [Math.ceil(field.width / step), Math.ceil(field.height / step)];
  const inverse = new Float32Array(width * height);
  const middle = step >> 1;
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++)
      inverse[i] = field.inverse[Math.min(field.height - 1, y * step + middle) * field.width + Math.min(field.width - 1, x * step + middle)]!;
  return { width, height, focalPx: field.focalPx / step, inverse };
}

/** Values of a thinned field for every pixel of the whole one: bilinear, of those on the same surface; 1 in the sky. By a kernel. */
export function enlarged({ width, height, inverse }: DepthField, small: DepthField, values: Float32Array, step: number): Float32Array {
  const out = new Float32Array(width * height);
  const k = kernels();
  const bookmark = k.bookmark();
  const [own, smaller, given, made] = [k.take(width * 4), k.put(small.inverse), k.put(values), k.take(width * 4)];
  const [row, line] = [k.floats(own, width), k.floats(made, width)];
  for (let y = 0; y < height; y++) {
    row.set(inverse.subarray(y * width, (y + 1) * width));
    k.run.enlargeRow(own, width, smaller, given, small.width, small.height, y, step, made);
    out.set(line, y * width);
  }
  k.back(bookmark);
  return out;
}
