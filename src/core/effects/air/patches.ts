import { cloudNoise } from '../../noise';
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

/**
 * How thick uneven air is on the mean between where fog begins and a distance, as a multiple of even air: noise in the world's metres, carried
 * along by the wind, summed up along rays on a coarse grid. Its mean over the world is 1.
 */
export function airPatches(input: EffectInput<PatchSettings>): { meanTo(x: number, y: number, z: number): number } {
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
  const stride = SLICES + 1;
  return {
    meanTo: (x, y, z) => {
      const slice = Math.min(SLICES - 1e-6, (SLICES * Math.log(1 + Math.max(0, z - p.start) / first)) / span);
      const n = slice | 0;
      const t = slice - n;
      const u = (x + 0.5) / CELL;
      const v = (y + 0.5) / CELL;
      const i = u | 0;
      const j = v | 0;
      const tx = u - i;
      const ty = v - j;
      const a = (j * columns + i) * stride + n;
      const b = a + stride;
      const c = a + columns * stride;
      const d = c + stride;
      const ma = mean[a]! + (mean[a + 1]! - mean[a]!) * t;
      const mb = mean[b]! + (mean[b + 1]! - mean[b]!) * t;
      const mc = mean[c]! + (mean[c + 1]! - mean[c]!) * t;
      const md = mean[d]! + (mean[d + 1]! - mean[d]!) * t;
      const top = ma + (mb - ma) * tx;
      return top + (mc + (md - mc) * tx - top) * ty;
    },
  };
}
