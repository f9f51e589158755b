import { wander } from '../../noise';
import type { Picture } from '../../picture';
import { choice, count, perSecond, stops, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { madeRows } from '../pixels';

const params = {
  amount: stops({ label: 'Amount', min: 0, max: 2, highest: 10, default: 0.4 }),
  speed: perSecond({ label: 'How often', min: 0.1, max: 30, lowest: 0, highest: 120, default: 9 }),
  channels: choice({
    label: 'Of',
    default: 'all',
    options: [
      { value: 'all', label: 'All light' },
      { value: 'each', label: 'Each colour' },
    ],
  }),
  seed: count({ label: 'Seed', min: 1, max: 99, highest: 99999, default: 1 }),
};
export type FlickerValues = ValuesOf<typeof params>;

/** Gains of red, green and blue at a time, seconds. */
export function gains({ amount, speed, channels, seed }: FlickerValues, seconds: number): readonly [number, number, number] {
  const of = (n: number): number => 2 ** (amount * Math.max(-1, Math.min(1, 1.6 * wander(speed * seconds + 0.31, seed * 13 + n))));
  return channels === 'all' ? [of(0), of(0), of(0)] : [of(0), of(1), of(2)];
}

function apply({ picture, params: p, run, at }: EffectInput<FlickerValues>): Picture {
  const now = gains(p, at.frame / at.fps);
  const [r, g, b] = now;
  const { data } = picture;
  return madeRows(picture, run, (from, end, _y, out) => {
    for (let o = from; o < end; o += 4) {
      out[o] = data[o]! * r;
      out[o + 1] = data[o + 1]! * g;
      out[o + 2] = data[o + 2]! * b;
      out[o + 3] = data[o + 3]!;
    }
  });
}

/** Light that is unsteady, in stops. */
export const flicker = defineEffect({
  kind: 'flicker',
  group: 'frame',
  label: 'Flicker',
  help: 'Light that is unsteady over time',
  params,
  reach: true,
  needs: () => ['time'],
  summary: (p) => `±${p.amount.toFixed(1)} st`,
  apply,
});
