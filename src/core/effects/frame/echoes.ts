import { newPicture, type Picture } from '../../raster/picture';
import { choice, count, degrees, frames, percent, type ValuesOf } from '../../values/params';
import type { Run } from '../../run';
import { defineEffect, type EffectInput } from '../definition';
import { fetched } from '../pixels';

const PLACE = { where: ['place'] };
const TIME = { where: ['time'] };

const params = {
  where: choice({
    label: 'Copies',
    default: 'place',
    options: [
      { value: 'place', label: 'In place' },
      { value: 'time', label: 'In time' },
    ],
    help: 'Of this moment, each moved from the one before; or of earlier moments',
  }),
  every: frames({ label: 'Each earlier by', min: 1, max: 24, highest: 1000, default: 3, only: TIME }),
  count: count({ label: 'Echoes', min: 1, max: 12, default: 3 }),
  x: percent({
    only: PLACE,
    label: 'Right',
    min: -50,
    max: 50,
    lowest: -200,
    highest: 200,
    decimals: 1,
    default: 4,
    help: 'Each from the one before, of the width',
  }),
  y: percent({ only: PLACE, label: 'Down', min: -50, max: 50, lowest: -200, highest: 200, decimals: 1, default: 0, help: 'Of the height' }),
  scale: percent({ only: PLACE, label: 'Scale', min: 50, max: 150, lowest: 5, highest: 400, decimals: 1, default: 104 }),
  turn: degrees({ only: PLACE, label: 'Turn', min: -45, max: 45, lowest: -180, highest: 180, default: 0 }),
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

/** The nth copy: moved, scaled and turned n times. */
function echoInPlace(picture: Picture, p: EchoesValues, n: number, run: Run): Picture {
  const { width, height } = picture;
  const k = (p.scale / 100) ** -n;
  const angle = (n * p.turn * Math.PI) / 180;
  const [cos, sin] = [k * Math.cos(angle), k * Math.sin(angle)];
  const [cx, cy] = [width * (0.5 + (n * p.x) / 100), height * (0.5 + (n * p.y) / 100)];
  return fetched(picture, run, (at) => {
    const [x, y] = [at.x - cx, at.y - cy];
    at.x = width / 2 + cos * x + sin * y;
    at.y = height / 2 - sin * x + cos * y;
  });
}

async function apply({ picture, params: p, run, earlier }: EffectInput<EchoesValues>): Promise<Picture> {
  const { width, height } = picture;
  const out = newPicture(width, height, run.shared);
  out.data.set(picture.data);
  if (p.fade <= 0) return out;
  let total = 1;
  for (let n = 1; n <= p.count; n++) {
    const strength = (p.fade / 100) ** n;
    const echo = p.where === 'time' ? await earlier(n * Math.max(1, Math.round(p.every))) : echoInPlace(picture, p, n, run);
    total += strength;
    for (let i = 0; i < out.data.length; i++) {
      const e = strength * echo.data[i]!;
      out.data[i] = p.mix === 'mean' ? out.data[i]! + e : Math.max(out.data[i]!, e);
    }
  }
  if (p.mix === 'mean') for (let i = 0; i < out.data.length; i++) out.data[i]! /= total;
  return out;
}

/** Fainter copies of the picture: in place, each moved, scaled and turned from the one before; or of earlier moments. */
export const echoes = defineEffect({
  kind: 'echoes',
  group: 'frame',
  label: 'Echoes',
  help: 'Fainter copies, each moved and scaled from the one before',
  params,
  reach: true,
  spreads: (p) => p.where === 'place',
  needs: (p) => (p.where === 'time' ? ['time', 'earlier'] : []),
  summary: (p) => `${p.count}`,
  apply,
});
