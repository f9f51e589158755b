import type { Plane } from '../raster/picture';

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

export const depthField = ({ width, height, data }: Plane, focalPx: number): DepthField => ({
  width,
  height,
  focalPx,
  inverse: data.map((z) => (z > 0 && z < SKY ? 1 / z : 0)),
});

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

/** Values of a thinned field for every pixel of the whole one: bilinear, of those on the same surface. */
export function enlarged(field: DepthField, small: DepthField, values: Float32Array, step: number): Float32Array {
  const { width: w, height: h, inverse } = field;
  const out = new Float32Array(w * h).fill(1);
  const middle = step >> 1;
  for (let y = 0, i = 0; y < h; y++) {
    const v = Math.max(0, (y - middle) / step);
    const y0 = Math.min(small.height - 1, v | 0);
    const y1 = Math.min(small.height - 1, y0 + 1);
    const ty = Math.min(1, v - y0);
    for (let x = 0; x < w; x++, i++) {
      const c = inverse[i]!;
      if (!(c > 0)) continue;
      const u = Math.max(0, (x - middle) / step);
      const x0 = Math.min(small.width - 1, u | 0);
      const x1 = Math.min(small.width - 1, x0 + 1);
      const tx = Math.min(1, u - x0);
      let s = 0;
      let k = 0;
      for (let n = 0; n < 4; n++) {
        const j = (n < 2 ? y0 : y1) * small.width + (n % 2 === 0 ? x0 : x1);
        const apart = Math.abs(small.inverse[j]! - c) / c;
        const weight = ((n < 2 ? 1 - ty : ty) + 1e-3) * ((n % 2 === 0 ? 1 - tx : tx) + 1e-3) * (apart < 0.05 ? 1 : 1e-4 / (apart + 0.01));
        s += weight * values[j]!;
        k += weight;
      }
      out[i] = s / k;
    }
  }
  return out;
}
