import { newPicture, type Picture } from '../../raster/picture';
import { choice, count, degrees, percent, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { fetched } from '../pixels';

const params = {
  count: count({ label: 'Echoes', min: 1, max: 12, default: 3 }),
  x: percent({
    label: 'Right',
    min: -50,
    max: 50,
    lowest: -200,
    highest: 200,
    decimals: 1,
    default: 4,
    help: 'Each from the one before, of the width',
  }),
  y: percent({ label: 'Down', min: -50, max: 50, lowest: -200, highest: 200, decimals: 1, default: 0, help: 'Of the height' }),
  scale: percent({ label: 'Scale', min: 50, max: 150, lowest: 5, highest: 400, decimals: 1, default: 104 }),
  turn: degrees({ label: 'Turn', min: -45, max: 45, lowest: -180, highest: 180, default: 0 }),
  fade: percent({ label: 'Strength', min: 0, max: 100, default: 55, help: 'Each of the one before' }),
  mix: choice({
    label: 'Mixed',
    default: 'light',
    options: [
      { value: 'light', label: 'Lighter' },
      { value: 'mean', label: 'Evenly' },
    ],
    help: 'The lighter of picture and echo, or both mixed by their strength',
  }),
};
export type EchoesValues = ValuesOf<typeof params>;

function apply({ picture, params: p, run }: EffectInput<EchoesValues>): Picture {
  const { width, height } = picture;
  const out = newPicture(width, height, run.shared);
  out.data.set(picture.data);
  if (p.fade <= 0) return out;
  let total = 1;
  for (let n = 1; n <= p.count; n++) {
    const strength = (p.fade / 100) ** n;
    const k = (p.scale / 100) ** -n;
    const angle = (n * p.turn * Math.PI) / 180;
    const [cos, sin] = [k * Math.cos(angle), k * Math.sin(angle)];
    const [cx, cy] = [width * (0.5 + (n * p.x) / 100), height * (0.5 + (n * p.y) / 100)];
    const echo = fetched(picture, run, (at) => {
      const [x, y] = [at.x - cx, at.y - cy];
      at.x = width / 2 + cos * x + sin * y;
      at.y = height / 2 - sin * x + cos * y;
    });
    total += strength;
    for (let i = 0; i < out.data.length; i++) {
      const e = strength * echo.data[i]!;
      out.data[i] = p.mix === 'mean' ? out.data[i]! + e : Math.max(out.data[i]!, e);
    }
  }
  if (p.mix === 'mean') for (let i = 0; i < out.data.length; i++) out.data[i]! /= total;
  return out;
}

/** Copies of the picture in place, each moved, scaled and turned from the one before, and fainter. */
export const echoes = defineEffect({
  kind: 'echoes',
  group: 'frame',
  label: 'Echoes',
  help: 'Fainter copies, each moved and scaled from the one before',
  params,
  reach: true,
  spreads: true,
  needs: () => [],
  summary: (p) => `${p.count}`,
  apply,
});
