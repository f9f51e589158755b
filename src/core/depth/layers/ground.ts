import { newPlane } from '../../picture';
import { choice, degrees, percent } from '../../values/params';
import { defineLayer } from '../definition';

/**
 * A ground plane under a horizon line. Below it 1/z of a level ground grows linearly with the distance from the horizon in the
 * picture, n = (y − h)/(bottom − h), which is exact for a flat ground and a level camera. It covers what lies under the horizon.
 */
export const groundLayer = defineLayer({
  kind: 'ground',
  label: 'Ground',
  help: 'A ground plane under a horizon line',
  params: {
    horizon: percent({
      label: 'Horizon',
      min: 0,
      max: 100,
      lowest: -200,
      highest: 300,
      default: 45,
      decimals: 1,
      help: 'From the upper border of the plate, in the middle',
    }),
    tilt: degrees({ label: 'Tilt', min: -30, max: 30, lowest: -90, highest: 90, default: 0 }),
    spacing: choice({
      label: 'Spacing',
      default: 'perspective',
      help: 'Perspective: as a level ground. Even: grey falls slowly near the camera and fast at the horizon',
      options: [
        { value: 'perspective', label: 'Perspective' },
        { value: 'even', label: 'Even' },
      ],
    }),
    soft: percent({ label: 'Soft edge', min: 0, max: 20, highest: 100, default: 0.5, decimals: 1, help: 'Of the plate’s height, at the horizon' }),
    nearest: percent({ label: 'At the bottom', min: 0, max: 100, default: 100, help: 'Nearness at the lower border' }),
  },
  summary: (p) => `horizon ${p.horizon.toFixed(0)} %`,
  build({ width, height, framing: f, plateSize, params }) {
    const nearness = newPlane(width, height);
    const coverage = newPlane(width, height);
    const angle = (params.tilt * Math.PI) / 180;
    const [across, down] = [-Math.sin(angle), Math.cos(angle)];
    const hx = plateSize.width / 2;
    const hy = (params.horizon / 100) * plateSize.height;
    /** px of the plate below the horizon, measured across it */
    const below = (x: number, y: number): number => (x - hx) * across + (y - hy) * down;
    const deepest = Math.max(1, below(0, plateSize.height), below(plateSize.width, plateSize.height), below(hx, plateSize.height));
    const soft = (params.soft / 100) * plateSize.height;
    for (let v = 0; v < height; v++)
      for (let u = 0; u < width; u++) {
        const d = below(f.a * (u + 0.5) + f.b * (v + 0.5) + f.c, f.d * (u + 0.5) + f.e * (v + 0.5) + f.f);
        // a soft horizon bends into the far end instead of meeting it in a crease
        const depth = soft > 0 ? softPlus(d, soft) : Math.max(0, d);
        const n = Math.min(1, depth / deepest);
        // above the horizon there is no ground: what lies below the layer shows
        coverage.data[v * width + u] = d >= 0 ? 1 : soft > 0 ? Math.max(0, 1 + d / soft) : 0;
        nearness.data[v * width + u] = (params.nearest / 100) * (params.spacing === 'perspective' ? n : evenly(n));
      }
    return { nearness, coverage };
  },
});

/** Positive part with a rounded corner `width` wide; equal to it outside. */
function softPlus(d: number, width: number): number {
  if (d <= -width) return 0;
  if (d >= width) return d;
  return ((d + width) * (d + width)) / (4 * width);
}

/** Share of the range of distances that a ground seen at 4 % of its depth and beyond fills: even in distance from near to far. */
const FARTHEST = 0.04;
const evenly = (n: number): number => (n <= FARTHEST ? 0 : (1 - FARTHEST / n) / (1 - FARTHEST));
