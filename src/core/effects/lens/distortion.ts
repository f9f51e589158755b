import type { Size } from '../../picture';
import { choice, level, toggle, type ValuesOf } from '../../values/params';
import { lengthOf } from '../../scalar';
import { defineEffect, type Places } from '../definition';
import { bent } from '../pixels';

const params = {
  k1: level({
    label: 'Bend, k1',
    min: -0.5,
    max: 0.5,
    lowest: -1,
    highest: 1,
    default: -0.12,
    help: 'Barrel where negative, pincushion where positive',
  }),
  k2: level({ label: 'Outwards, k2', min: -0.5, max: 0.5, lowest: -1, highest: 1, default: 0 }),
  way: choice({
    label: 'It is',
    default: 'added',
    options: [
      { value: 'added', label: 'Added' },
      { value: 'removed', label: 'Removed' },
    ],
  }),
  fills: toggle({ label: 'Fills the frame', default: true, help: 'Enlarged until no border is seen; off: the border is mirrored' }),
};
export type DistortionValues = ValuesOf<typeof params>;

/** Radius after distortion, of radius before; both in half diagonals (Brown 1966, Conrady 1919: r·(1 + k1 r² + k2 r⁴)). */
export const distorted = (r: number, k1: number, k2: number): number => r * (1 + k1 * r * r + k2 * r ** 4);

/** Nothing is fetched from farther out than this, in half diagonals: strong bends never reach some radii. */
const FARTHEST = 3;

/** The radius that is distorted to another one, by Newton's steps; the farthest there is where none is. */
export function undistorted(to: number, k1: number, k2: number): number {
  let r = to;
  for (let n = 0; n < 24; n++) {
    const slope = Math.max(0.05, 1 + 3 * k1 * r * r + 5 * k2 * r ** 4);
    const step = (distorted(r, k1, k2) - to) / slope;
    r = Math.min(FARTHEST, Math.max(0, r - step));
    if (Math.abs(step) < 1e-9) break;
  }
  return r;
}

/** Where each radius of the finished picture is fetched from, in half diagonals. */
export const fetchRadius = ({ k1, k2, way }: Pick<DistortionValues, 'k1' | 'k2' | 'way'>, r: number): number =>
  way === 'added' ? undistorted(r, k1, k2) : Math.min(FARTHEST, Math.max(0, distorted(r, k1, k2)));

const STEPS = 512;
const REACH = 1.02;

/** How much the finished picture is enlarged so that nothing beyond the border is fetched. */
export function enlargement(p: Pick<DistortionValues, 'k1' | 'k2' | 'way'>, width: number, height: number): number {
  const half = Math.hypot(width, height) / 2;
  const beyond = (scale: number): boolean => {
    for (let t = 0; t <= 40; t++) {
      const share = t / 40;
      for (const [x, y] of [
        [width / 2, (share * height) / 2],
        [(share * width) / 2, height / 2],
      ] as const) {
        const r = Math.hypot(x, y) / half / scale;
        const k = r > 0 ? fetchRadius(p, r) / r / scale : 1;
        if (k * x > width / 2 + 1e-6 || k * y > height / 2 + 1e-6) return true;
      }
    }
    return false;
  };
  if (!beyond(1)) return 1;
  let [low, high] = [1, 3];
  for (let n = 0; n < 24; n++) {
    const middle = (low + high) / 2;
    if (beyond(middle)) low = middle;
    else high = middle;
  }
  return high;
}

function bends(p: DistortionValues, { width, height }: Size): Places | null {
  if (p.k1 === 0 && p.k2 === 0) return null;
  const half = Math.hypot(width, height) / 2;
  const scale = p.fills ? enlargement(p, width, height) : 1;
  // fetched radius over radius, by radius
  const table = Float64Array.from({ length: STEPS + 2 }, (_, n) => {
    const r = Math.max(1e-6, (n / STEPS) * REACH);
    return fetchRadius(p, r) / r;
  });
  return (row, to) => {
    const y = (row + 0.5 - height / 2) / scale;
    for (let i = 0; i < width; i++) {
      const x = (i + 0.5 - width / 2) / scale;
      const t = Math.min(STEPS, (lengthOf(x, y) / half / REACH) * STEPS);
      const n = t | 0;
      const k = table[n]! + (table[n + 1]! - table[n]!) * (t - n);
      to[2 * i] = width / 2 + k * x;
      to[2 * i + 1] = height / 2 + k * y;
    }
  };
}

/** Bent lines of a real lens, added or removed (Brown–Conrady). */
export const distortion = defineEffect({
  kind: 'distortion',
  group: 'lens',
  label: 'Distortion',
  help: 'Bends straight lines as lenses do, or straightens them',
  params,
  reach: true,
  spreads: () => true,
  needs: () => [],
  summary: (p) => `${p.way === 'removed' ? 'less ' : ''}${p.k1.toFixed(2)}`,
  bends,
  apply: ({ picture, params, run }) => bent(picture, run, bends(params, picture)),
});
