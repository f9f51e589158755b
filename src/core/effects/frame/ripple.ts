import { smoothNoise } from '../../noise';
import { newPicture, type Picture } from '../../picture';
import { choice, count, percent, perSecond, pixels, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { CoarseGrid } from '../coarse';
import { fetched } from '../pixels';

const params = {
  amount: pixels({ label: 'Amount', min: 0, max: 100, highest: 2000, default: 10 }),
  size: pixels({ label: 'Size', min: 4, max: 800, lowest: 1, highest: 8000, scale: 'log', default: 90 }),
  stretch: percent({ label: 'Flat', min: 0, max: 100, default: 50, help: 'Wide and low, as on water' }),
  speed: perSecond({ label: 'Speed', min: 0, max: 5, highest: 100, default: 0.8, help: 'Changes a second' }),
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
export type RippleValues = ValuesOf<typeof params>;

/** px of a cell of the coarse grid on which displacements are worked out */
const CELLS = 8;

function apply(input: EffectInput<RippleValues>): Picture {
  const { picture, params: p, pxScale, run } = input;
  if (p.amount === 0) return picture;
  const { width, height } = picture;
  const t = p.speed > 0 ? (p.speed * input.at.frame) / input.at.fps : 0;
  const size = Math.max(1, p.size * pxScale);
  const flat = 1 + (3 * p.stretch) / 100;
  const cell = Math.max(1, Math.min(CELLS, size / flat / 4));
  const out = newPicture(width, height, run.shared);
  const each = p.channels === 'each';
  for (const [n, channels] of (each ? [[0], [1], [2], [3]] : [[0, 1, 2, 3]]).entries()) {
    const amount = 2.4 * p.amount * pxScale;
    // alpha goes with green
    const own = n === 3 ? 1 : n;
    const grid = new CoarseGrid(width, height, cell, 2).fill((x, y, o, data) => {
      for (let k = 0; k < 2; k++) data[o + k] = amount * (smoothNoise(x / size, (y * flat) / size, t, p.seed * 11 + k + own * 29) - 0.5);
    });
    fetched(
      picture,
      run,
      (y, to) => {
        for (let x = 0; x < width; x++) {
          to[2 * x] = x + 0.5 + grid.at(x + 0.5, y + 0.5, 0);
          to[2 * x + 1] = y + 0.5 + grid.at(x + 0.5, y + 0.5, 1);
        }
      },
      out,
      channels,
    );
  }
  return out;
}

/** The picture displaced by smooth noise that moves, all of it or each colour by its own. */
export const ripple = defineEffect({
  kind: 'ripple',
  group: 'frame',
  label: 'Ripple',
  help: 'Displaced by moving noise: water, heat, glass',
  params,
  reach: true,
  spreads: () => true,
  needs: (p) => (p.speed > 0 ? ['time'] : []),
  summary: (p) => `${p.amount.toFixed(0)} px`,
  apply,
});
