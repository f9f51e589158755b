import { EDGE, type DepthField } from './depthField';
import type { PointLight } from './lights';

/** No surface returns more than this. */
const MOST_ALBEDO = 0.95;
/** What the ground returns of the sky, and what hidden parts of the sky still give. */
const GROUND = 0.5;
const HIDDEN = 0.4;
/** What the kernel makes fall on one pixel from a light of intensity 1. */
export function fallTwin({ width, height, focalPx: f, inverse }: DepthField, normals: Float32Array, light: PointLight, i: number, seen = 1): number {
  if (!(inverse[i]! > 0)) return 0;
  const z = 1 / inverse[i]!;
  const [u, v] = [((i % width) + 0.5 - width / 2) / f, (Math.floor(i / width) + 0.5 - height / 2) / f];
  const [dx, dy, dz] = light.is === 'lamp' ? [light.place[0] - z * u, light.place[1] - z * v, light.place[2] - z] : light.direction;
  const square = light.is === 'lamp' ? Math.max(1e-4, light.size ** 2, dx * dx + dy * dy + dz * dz) : 1;
  const cosine = (normals[3 * i]! * dx + normals[3 * i + 1]! * dy + normals[3 * i + 2]! * dz) / Math.sqrt(square);
  return (Math.max(0, cosine) / square) * seen;
}

/** What the kernel makes of one value of the picture: `light` arrives, `scale` is one over the even light, `open` the share of the sky that is seen. */
export function relitTwin(
  value: number,
  plate: number,
  light: number,
  up: number,
  open: number | null,
  keep: number,
  shading: number,
  scale: number,
): number {
  const above = GROUND + ((1 - GROUND) * (1 - up)) / 2;
  const share = above * (open === null ? 1 : HIDDEN + (1 - HIDDEN) * open);
  const albedo = Math.min(MOST_ALBEDO, Math.max(0, (plate * scale) / (1 + (share - 1) * shading)));
  return keep * value + albedo * light;
}

/** The readable twin of the kernel: values of a thinned field for every pixel of the whole one: bilinear, of those on the same surface. */
export function enlargedTwin(field: DepthField, small: DepthField, values: Float32Array, step: number): Float32Array {
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

/** Whether the 3x3 about a pixel hold one value. */
function same(values: Float32Array, i: number, w: number): boolean {
  const v = values[i]!;
  return (
    values[i - 1] === v &&
    values[i + 1] === v &&
    values[i - w] === v &&
    values[i + w] === v &&
    values[i - w - 1] === v &&
    values[i - w + 1] === v &&
    values[i + w - 1] === v &&
    values[i + w + 1] === v
  );
}

/** A tent of 3x3 over what lies within surfaces (`inside`) or over the edges between them: the one takes steps off shadows, the other mixes light as the plate's edge pixels are mixed. */
export function tentedTwin({ width: w, height: h, inverse }: DepthField, values: Float32Array, where: 'inside' | 'edges'): Float32Array {
  const out = values.slice();
  const inside = where === 'inside';
  for (let y = 1; y < h - 1; y++)
    for (let x = 1; x < w - 1; x++) {
      const i = y * w + x;
      const c = inverse[i]!;
      if (!(c > 0)) continue;
      const l = inverse[i - 1]!;
      const r = inverse[i + 1]!;
      const u = inverse[i - w]!;
      const d = inverse[i + w]!;
      // nothing changes where all is as it is in the middle
      if (inside && same(values, i, w)) continue;
      if (!inside && Math.abs(l - c) < EDGE * c && Math.abs(r - c) < EDGE * c && Math.abs(u - c) < EDGE * c && Math.abs(d - c) < EDGE * c) continue;
      let s = 0;
      let k = 0;
      for (let j = -1; j <= 1; j++)
        for (let m = -1; m <= 1; m++) {
          const e = i + j * w + m;
          const other = inverse[e]!;
          if (inside ? Math.abs(other - c) >= EDGE * c : !(other > 0)) continue;
          const q = (j === 0 ? 2 : 1) * (m === 0 ? 2 : 1);
          s += q * values[e]!;
          k += q;
        }
      out[i] = s / k;
    }
  return out;
}
