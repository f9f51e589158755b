import type { Kernels } from '../../kernels/loader';
import type { EffectInput } from '../definition';
import { worldOf } from './world';

/** A ray is looked at in so many places, and one ray for so many px: fog is softer than both. */
const SLICES = 20;
const CELL = 12;

/** What of fog's settings decides where its patches lie. */
interface PatchSettings {
  readonly start: number;
  readonly visibility: number;
  readonly patches: number;
  readonly size: number;
  readonly wind: number;
  readonly seed: number;
}

interface AirPatches {
  /** Writes to `out` the means up to `count` distances, m, along row y of the picture. Both are addresses in the kernels' memory. */
  meansTo(y: number, distances: number, count: number, out: number): void;
}

/**
 * How thick uneven air is on the mean between where fog begins and a distance, as a multiple of even air: noise in the world's metres, carried
 * along by the wind, summed up along rays on a coarse grid. Its mean over the world is 1. What is taken of the kernels' memory stays taken.
 */
export function airPatches(input: EffectInput<PatchSettings>, k: Kernels): AirPatches {
  const { picture, distance, lens, params: p } = input;
  const { width, height } = picture;
  const { place } = worldOf(input);
  const moved = p.wind === 0 ? 0 : (p.wind * input.at.frame) / input.at.fps;
  let farthest = p.start + 8 * p.size;
  for (let i = 0; i < distance.data.length; i += 7) if (distance.data[i]! < 1e5) farthest = Math.max(farthest, distance.data[i]!);
  // beyond this little is left to be seen
  farthest = Math.min(farthest, p.start + 2 * p.visibility);
  // pixels are worked four at a time
  const [columns, rows] = [Math.ceil((width + 4) / CELL) + 1, Math.ceil(height / CELL) + 1];
  const stride = SLICES + 1;
  const first = Math.max(0.05, p.start);
  const octaves = Math.log2(1 + (farthest - p.start) / first);
  const ends = Float64Array.from({ length: stride }, (_, s) => p.start + first * (2 ** ((octaves * s) / SLICES) - 1));
  const strength = p.patches / 100;
  const mean = k.room(columns * rows * stride);
  const [way, noise, middles] = [k.room(6), k.room(SLICES), k.room(SLICES)];
  const [ray, found, means] = [k.floats(way, 6), k.floats(noise, SLICES), k.floats(mean, columns * rows * stride)];
  for (let s = 0; s < SLICES; s++) k.floats(middles, SLICES)[s] = (ends[s]! + ends[s + 1]!) / 2;
  const origin = place(0, 0, 0);
  for (let j = 0; j < rows; j++)
    for (let i = 0; i < columns; i++) {
      const ahead = place((i * CELL - width / 2) / lens.focalPx, (j * CELL - height / 2) / lens.focalPx, 1);
      for (let c = 0; c < 3; c++) {
        ray[c] = (origin[c]! - (c === 0 ? moved : 0)) / p.size;
        ray[c + 3] = (ahead[c]! - origin[c]!) / p.size;
      }
      k.run.cloudAlong(way, middles, SLICES, p.seed, noise);
      const o = (j * columns + i) * stride;
      let sum = 0;
      for (let s = 0; s < SLICES; s++) {
        // between nothing and twice as thick
        sum += (ends[s + 1]! - ends[s]!) * Math.min(2, Math.max(0, 1 + strength * 3.2 * (found[s]! - 0.5)));
        means[o + s + 1] = sum / (ends[s + 1]! - p.start);
      }
      means[o] = means[o + 1]!;
    }
  const rowBytes = columns * stride * 4;
  return {
    meansTo: (y, distances, count, out) => {
      const v = (y + 0.5) / CELL;
      const upper = mean + Math.floor(v) * rowBytes;
      k.run.patchRow(upper, upper + rowBytes, SLICES, CELL, v % 1, p.start, first, SLICES / octaves, distances, count, out);
    },
  };
}
