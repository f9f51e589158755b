import type { DepthField } from './depthField';
import { FIT, writeNormal } from './normals';

/** The share of W by which a neighbour may miss. */
const MISS = 0.01;

/** The readable twin of the kernel for plane fits of 9x9: half a step is forgiven (weights of Holland & Welsch 1977, Cauchy squared). */
export function fittedTwin(field: DepthField, step: number): Float32Array {
  const { width: w, height: h, inverse } = field;
  const out = new Float32Array(w * h * 3);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const w0 = inverse[i]!;
      if (!(w0 > 0)) continue;
      let [gx, gy, g0] = [0, 0, w0];
      for (let pass = 0; pass < 2; pass++) {
        let [s, sx, sy, sw, sxx, sxy, syy, sxw, syw] = [0, 0, 0, 0, 0, 0, 0, 0, 0];
        const k = 1 / (MISS * w0);
        for (let v = Math.max(0, y - FIT); v <= Math.min(h - 1, y + FIT); v++)
          for (let u = Math.max(0, x - FIT); u <= Math.min(w - 1, x + FIT); u++) {
            const value = inverse[v * w + u]!;
            if (!(value > 0)) continue;
            const [dx, dy] = [u - x, v - y];
            // the first guess is level: a step for each root of the way is forgiven too
            const forgiven = step / 2 + (pass === 0 ? step * Math.sqrt(Math.abs(dx) + Math.abs(dy)) : 0);
            const miss = Math.max(0, Math.abs(value - g0 - gx * dx - gy * dy) - forgiven) * k;
            const q = 1 / (1 + miss * miss) ** 2;
            const e = value - w0;
            s += q;
            sx += q * dx;
            sy += q * dy;
            sw += q * e;
            sxx += q * dx * dx;
            sxy += q * dx * dy;
            syy += q * dy * dy;
            sxw += q * dx * e;
            syw += q * dy * e;
          }
        const [a, b, c] = [sxx - (sx * sx) / s, sxy - (sx * sy) / s, syy - (sy * sy) / s];
        const [p, o] = [sxw - (sx * sw) / s, syw - (sy * sw) / s];
        const det = a * c - b * b;
        if (det <= 1e-6 * s * s) continue;
        gx = (c * p - b * o) / det;
        gy = (a * o - b * p) / det;
        g0 = w0 + (sw - gx * sx - gy * sy) / s;
      }
      writeNormal(field, i, g0, gx, gy, out);
    }
  return out;
}
