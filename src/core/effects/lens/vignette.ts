import type { Picture } from '../../picture';
import { lengthOf, smoothstep } from '../../scalar';
import { percent, stops, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { madeRows } from '../pixels';

const params = {
  amount: stops({ label: 'Corners', min: -4, max: 2, lowest: -20, highest: 10, default: -1.2, help: 'How much darker the corners are' }),
  begins: percent({ label: 'Begins at', min: 0, max: 100, default: 25, help: 'Of the way from the middle to the corners' }),
  round: percent({ label: 'Roundness', min: 0, max: 100, default: 60, help: 'From the frame’s own shape to a circle' }),
  x: percent({ label: 'Right', min: 0, max: 100, lowest: -200, highest: 300, decimals: 1, default: 50 }),
  y: percent({ label: 'Down', min: 0, max: 100, lowest: -200, highest: 300, decimals: 1, default: 50 }),
};
export type VignetteValues = ValuesOf<typeof params>;

/** Steps of the table of gains. */
const STEPS = 1024;

/** Share of the way from the middle to the corners, 0..1 and beyond. */
export function cornerward(p: Pick<VignetteValues, 'x' | 'y' | 'round'>, width: number, height: number): (x: number, y: number) => number {
  const round = p.round / 100;
  const [cx, cy] = [(p.x / 100) * width, (p.y / 100) * height];
  // half the diagonal of a circle's frame, and that of the frame's own
  const half = Math.hypot(width, height) / 2;
  const [sx, sy] = [(width / 2) * Math.SQRT2, (height / 2) * Math.SQRT2];
  const [rx, ry] = [sx + (half - sx) * round, sy + (half - sy) * round];
  return (x, y) => lengthOf((x + 0.5 - cx) / rx, (y + 0.5 - cy) / ry);
}

function apply({ picture, params: p, run }: EffectInput<VignetteValues>): Picture {
  const { width, height } = picture;
  if (p.amount === 0) return picture;
  const way = cornerward(p, width, height);
  const begins = Math.min(0.99, p.begins / 100);
  // beyond the corners it goes on as it is there
  const gains = Float32Array.from({ length: STEPS + 1 }, (_, i) => 2 ** (p.amount * smoothstep(begins, 1, i / STEPS)));
  const { data } = picture;
  return madeRows(picture, run, (from, end, y, out) => {
    for (let o = from, x = 0; o < end; o += 4, x++) {
      const t = Math.min(STEPS - 1e-3, way(x, y) * STEPS);
      const i = t | 0;
      const gain = gains[i]! + (gains[i + 1]! - gains[i]!) * (t - i);
      out[o] = data[o]! * gain;
      out[o + 1] = data[o + 1]! * gain;
      out[o + 2] = data[o + 2]! * gain;
      out[o + 3] = data[o + 3]!;
    }
  });
}

/** Darker, or brighter, corners, in stops. */
export const vignette = defineEffect({
  kind: 'vignette',
  group: 'lens',
  label: 'Vignette',
  help: 'Corners darker, or brighter, than the middle',
  params,
  reach: true,
  centre: { x: 'x', y: 'y' },
  needs: () => [],
  summary: (p) => `${p.amount > 0 ? '+' : ''}${p.amount.toFixed(1)} st`,
  apply,
});
