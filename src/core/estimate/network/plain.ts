import { convolve, type Maps, type Taps } from '../../kernels/convolveHost';
import type { Plane } from '../../raster/picture';
import { join, writePlace } from './layers';

const STAGES = 5;

/** The smaller network's answer to a picture of 8-bit sRGB values 0..1, three planes, sides multiples of 16: half its size, near is 1. */
export function plainAnswer(rgb: Maps, layers: readonly Taps[]): Plane {
  const { width, height } = rgb;
  const n = width * height;
  const data = new Float32Array(5 * n);
  for (let i = 0; i < 3 * n; i++) data[i] = 2 * rgb.data[i]! - 1;
  let current: Maps = { channels: 5, width, height, data };
  writePlace(current);
  const kept: Maps[] = [];
  for (let s = 0; s < STAGES; s++) {
    current = convolve(current, layers[2 * s]!, 'rectify', 2, 1);
    current = convolve(current, layers[2 * s + 1]!, 'rectify');
    kept.push(current);
  }
  for (let s = STAGES - 2; s >= 0; s--) current = convolve(join(current, kept[s]!), layers[2 * STAGES + s]!, 'rectify');
  const out = convolve(current, layers[3 * STAGES - 1]!, 'none');
  return { width: out.width, height: out.height, data: out.data };
}
