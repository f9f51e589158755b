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
  const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)];
  const [u, v, w] = [fade(x - i), fade(y - j), fade(z - k)];
  const edge = (b: number, c: number): number => {
    const near = hash3(i, j + b, k + c, seed);
    return near + (hash3(i + 1, j + b, k + c, seed) - near) * u;
  };
  const [a, b] = [edge(0, 0), edge(0, 1)];
  const front = a + (edge(1, 0) - a) * v;
  const back = b + (edge(1, 1) - b) * v;
  return front + (back - front) * w;
}

/** Two octaves of it, 0..1. */
export const cloudNoise = (x: number, y: number, z: number, seed: number): number =>
  0.67 * smoothNoise(x, y, z, seed) + 0.33 * smoothNoise(2.1 * x + 11.3, 2.1 * y + 7.7, 2.1 * z + 3.9, seed + 101);

/** Smooth wandering −1..1 over time, one new target every unit of `t`. */
export const wander = (t: number, seed: number): number => 2 * smoothNoise(t, 0.5, 0.5, seed) - 1;
