/** A number 0..1 that belongs to three whole numbers and a seed (mixing steps as in xxHash's avalanche). */
export function hash3(x: number, y: number, z: number, seed: number): number {
  let h = Math.imul(x, 0x27d4eb2d) ^ Math.imul(y, 0x165667b1) ^ Math.imul(z, 0x9e3779b1) ^ Math.imul(seed + 1, 0x85ebca77);
  h = Math.imul(h ^ (h >>> 15), 0x2c1b3c6d);
  h = Math.imul(h ^ (h >>> 12), 0x297a2d39);
  return ((h ^ (h >>> 15)) >>> 0) / 4294967296;
}

const fade = (t: number): number => t * t * t * (t * (6 * t - 15) + 10);

/** Smooth noise 0..1 with a mean of one half: values at whole places, blended by the quintic of Perlin (2002). */
export function smoothNoise(x: number, y: number, z: number, seed: number): number {
  const i = Math.floor(x);
  const j = Math.floor(y);
  const k = Math.floor(z);
  const u = fade(x - i);
  const v = fade(y - j);
  const w = fade(z - k);
  // written out: a function made here would be made millions of times
  const a0 = hash3(i, j, k, seed);
  const a1 = hash3(i, j + 1, k, seed);
  const b0 = hash3(i, j, k + 1, seed);
  const b1 = hash3(i, j + 1, k + 1, seed);
  const a = a0 + (hash3(i + 1, j, k, seed) - a0) * u;
  const c = a1 + (hash3(i + 1, j + 1, k, seed) - a1) * u;
  const b = b0 + (hash3(i + 1, j, k + 1, seed) - b0) * u;
  const d = b1 + (hash3(i + 1, j + 1, k + 1, seed) - b1) * u;
  const front = a + (c - a) * v;
  const back = b + (d - b) * v;
  return front + (back - front) * w;
}

/** Two octaves of it, 0..1. */
export const cloudNoise = (x: number, y: number, z: number, seed: number): number =>
  0.67 * smoothNoise(x, y, z, seed) + 0.33 * smoothNoise(2.1 * x + 11.3, 2.1 * y + 7.7, 2.1 * z + 3.9, seed + 101);

/** Smooth wandering −1..1 over time, one new target every unit of `t`. */
export const wander = (t: number, seed: number): number => 2 * smoothNoise(t, 0.5, 0.5, seed) - 1;
