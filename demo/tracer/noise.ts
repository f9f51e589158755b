import { createNoise3D } from 'simplex-noise';
import { seededRandom } from '../../src/core/random';

const simplex = createNoise3D(seededRandom(7));

/** Simplex noise in −1..1. */
export const noise = (x: number, y: number, z: number): number => simplex(x, y, z);

/** Fractal sum of `octaves` of noise, roughly −1..1. */
export function fractal(x: number, y: number, z: number, octaves: number): number {
  let sum = 0;
  let weight = 0.5;
  let scale = 1;
  for (let i = 0; i < octaves; i++) {
    sum += weight * simplex(x * scale, y * scale, z * scale);
    scale *= 2.03;
    weight *= 0.5;
  }
  return sum;
}

/** Ridged fractal noise, 0..1, with crests. */
export function ridged(x: number, y: number, z: number, octaves: number): number {
  let sum = 0;
  let weight = 0.5;
  let scale = 1;
  for (let i = 0; i < octaves; i++) {
    sum += weight * (1 - Math.abs(simplex(x * scale, y * scale, z * scale)));
    scale *= 2.1;
    weight *= 0.5;
  }
  return sum;
}

const hash2 = (i: number, j: number): number => {
  const s = Math.sin(i * 127.1 + j * 311.7) * 43758.5453;
  return s - Math.floor(s);
};

/** Cellular pattern: distance to the nearest cell border (0 at the border) and a random number for the cell. */
export function cells(x: number, y: number): { border: number; id: number } {
  const ix = Math.floor(x);
  const iy = Math.floor(y);
  let first = 9;
  let second = 9;
  let id = 0;
  for (let j = -1; j <= 1; j++)
    for (let i = -1; i <= 1; i++) {
      const cx = ix + i + 0.5 + 0.7 * (hash2(ix + i, iy + j) - 0.5);
      const cy = iy + j + 0.5 + 0.7 * (hash2(iy + j + 57, ix + i) - 0.5);
      const d = Math.hypot(x - cx, y - cy);
      if (d < first) {
        second = first;
        first = d;
        id = hash2(ix + i + 13, iy + j + 71);
      } else if (d < second) second = d;
    }
  return { border: second - first, id };
}

export const smoothstep = (from: number, to: number, x: number): number => {
  const t = Math.min(1, Math.max(0, (x - from) / (to - from)));
  return t * t * (3 - 2 * t);
};

export const mix = (a: number, b: number, t: number): number => a + (b - a) * t;
