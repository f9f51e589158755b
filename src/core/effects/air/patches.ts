import { cloudNoise } from '../../noise';
import type { EffectInput } from '../definition';
import type { FogValues } from './fog';
import { worldOf } from './world';

/** A ray is looked at in so many places, and one ray for so many px: fog is softer than both. */
const SLICES = 24;
const CELL = 8;

/**
 * How thick uneven air is on the mean between where fog begins and a distance, as a multiple of even air: noise in the world's metres, carried
 * along by the wind, summed up along rays on a coarse grid. Its mean over the world is 1.
 */
export function airPatches(input: EffectInput<FogValues>): { meanTo(x: number, y: number, z: number): number } {
  const { picture, distance, lens, params: p } = input;
  const { width, height } = picture;
  const { place } = worldOf(input);
  const moved = p.wind === 0 ? 0 : (p.wind * input.at.frame) / input.at.fps;
  let farthest = p.start + 8 * p.size;
  for (let i = 0; i < distance.data.length; i += 7) if (distance.data[i]! < 1e5) farthest = Math.max(farthest, distance.data[i]!);
  // beyond this little is left to be seen
  farthest = Math.min(farthest, p.start + 2 * p.visibility);
  const [columns, rows] = [Math.ceil(width / CELL) + 1, Math.ceil(height / CELL) + 1];
  const mean = new Float32Array(columns * rows * (SLICES + 1));
  const first = Math.max(0.05, p.start);
  const span = Math.log(1 + (farthest - p.start) / first);
  const at = (slice: number): number => p.start + first * (Math.exp((span * slice) / SLICES) - 1);
  const strength = p.patches / 100;
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const [a, b] = [(i * CELL - width / 2) / lens.focalPx, (j * CELL - height / 2) / lens.focalPx];
      const o = (j * columns + i) * (SLICES + 1);
      let sum = 0;
      let before = p.start;
      for (let s = 1; s <= SLICES; s++) {
        const z = at(s);
        const m = (z + before) / 2;
        const [x, y, d] = place(a * m, b * m, m);
        const n = cloudNoise((x - moved) / p.size, y / p.size, d / p.size, p.seed);
        // between nothing and twice as thick
        sum += (z - before) * Math.min(2, Math.max(0, 1 + strength * 3.2 * (n - 0.5)));
        before = z;
        mean[o + s] = sum / (z - p.start);
      }
      mean[o] = mean[o + 1]!;
    }
  const sampled = (column: number, row: number, slice: number): number => {
    const s = slice | 0;
    const o = (row * columns + column) * (SLICES + 1) + s;
    const t = slice - s;
    return s >= SLICES ? mean[o]! : mean[o]! + (mean[o + 1]! - mean[o]!) * t;
  };
  return {
    meanTo: (x, y, z) => {
      const slice = Math.min(SLICES, (SLICES * Math.log(1 + Math.max(0, z - p.start) / first)) / span);
      const [u, v] = [(x + 0.5) / CELL, (y + 0.5) / CELL];
      const [i, j] = [u | 0, v | 0];
      const [tx, ty] = [u - i, v - j];
      const top = sampled(i, j, slice) * (1 - tx) + sampled(i + 1, j, slice) * tx;
      const below = sampled(i, j + 1, slice) * (1 - tx) + sampled(i + 1, j + 1, slice) * tx;
      return top + (below - top) * ty;
    },
  };
}
