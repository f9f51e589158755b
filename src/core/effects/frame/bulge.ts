import type { Size } from '../../picture';
import { percent, type ValuesOf } from '../../values/params';
import { lengthOf } from '../../scalar';
import { defineEffect, type Places } from '../definition';
import { bent } from '../pixels';

const params = {
  amount: percent({ label: 'Amount', min: -100, max: 100, default: 50, help: 'Swells, or shrinks where negative' }),
  radius: percent({ label: 'Radius', min: 1, max: 100, highest: 400, default: 35, help: 'Of the picture’s height' }),
  x: percent({ label: 'Right', min: 0, max: 100, lowest: -100, highest: 200, decimals: 1, default: 50 }),
  y: percent({ label: 'Down', min: 0, max: 100, lowest: -100, highest: 200, decimals: 1, default: 50 }),
};
export type BulgeValues = ValuesOf<typeof params>;

function bends(p: BulgeValues, { width, height }: Size): Places | null {
  if (p.amount === 0) return null;
  const [cx, cy] = [(p.x / 100) * width, (p.y / 100) * height];
  const radius = (p.radius / 100) * height;
  // what lies at share r of the radius is fetched from r^power: monotonic, and still at the rim
  const power = 2 ** (p.amount / 100);
  return (y, to) => {
    const dy = y + 0.5 - cy;
    for (let x = 0; x < width; x++) {
      const dx = x + 0.5 - cx;
      const r = lengthOf(dx, dy) / radius;
      // eased towards the rim, so that the picture goes on smoothly there
      const k = r >= 1 || r === 0 ? 1 : 1 + (r ** (power - 1) - 1) * (1 - r * r) ** 2;
      to[2 * x] = cx + k * dx;
      to[2 * x + 1] = cy + k * dy;
    }
  };
}

/** Part of the picture swells or shrinks about a point. */
export const bulge = defineEffect({
  kind: 'bulge',
  group: 'frame',
  label: 'Bulge',
  help: 'Swells or shrinks about a point',
  params,
  reach: true,
  spreads: () => true,
  centre: { x: 'x', y: 'y' },
  needs: () => [],
  summary: (p) => `${p.amount > 0 ? '+' : ''}${p.amount.toFixed(0)} %`,
  bends,
  apply: ({ picture, params, run }) => bent(picture, run, bends(params, picture)),
});
