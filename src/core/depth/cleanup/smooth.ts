import { newPlane, type Plane } from '../../picture';
import { percent, pixels } from '../../values/params';
import { defineCleanup } from './definition';
import { selfGuided } from './selfGuided';

/** Mean bend of the map from pixel to pixel, per cent of its range: what shows as grain. */
function roughness(map: Plane): number {
  const { width, height, data } = map;
  let sum = 0;
  let n = 0;
  for (let y = 1; y < height - 1; y += 2)
    for (let x = 1; x < width - 1; x += 2) {
      const i = y * width + x;
      const bend = Math.abs(data[i - 1]! + data[i + 1]! + data[i - width]! + data[i + width]! - 4 * data[i]!);
      // bends of edges are no grain
      if (!(bend < 0.1)) continue;
      sum += bend;
      n++;
    }
  return n > 0 ? (100 * sum) / n / 4 : 0;
}

/** Smooths the map but for its edges. */
export const smooth = defineCleanup({
  kind: 'smooth',
  label: 'Smooth',
  help: 'Smooths the map but for its edges',
  params: {
    radius: pixels({ label: 'Radius', min: 1, max: 40, highest: 200, default: 6, decimals: 0, step: 1 }),
    keep: percent({
      label: 'Keep edges of',
      min: 0.5,
      max: 30,
      lowest: 0.1,
      highest: 100,
      default: 4,
      decimals: 1,
      help: 'Differences of nearness larger than this stay',
    }),
  },
  apply({ map, params, pxScale }) {
    const soft = selfGuided(map, Math.max(1, Math.round(params.radius * pxScale)), params.keep / 100 / 2);
    const out = newPlane(map.width, map.height);
    for (let i = 0; i < out.data.length; i++) out.data[i] = Math.min(1, Math.max(0, soft.data[i]!));
    return out;
  },
  figure: (before, after) => `grain ${roughness(before).toFixed(2)} → ${roughness(after).toFixed(2)} %`,
});
