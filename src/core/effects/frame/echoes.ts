import { newPicture, type Picture } from '../../picture';
import { choice, count, degrees, frames, percent, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { overlaid, type Copy } from '../pixels';

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

/** How many frames ago each echo was. */
const ago = (p: EchoesValues): readonly number[] => Array.from({ length: p.count }, (_, n) => (n + 1) * Math.max(1, Math.round(p.every)));

/** The nth copy: moved, scaled and turned n times. */
const copyOf = ({ width, height }: Picture, p: EchoesValues, n: number): Copy => ({
  x: (width * n * p.x) / 100,
  y: (height * n * p.y) / 100,
  turn: (n * p.turn * Math.PI) / 180,
  scale: (p.scale / 100) ** n,
  strength: (p.fade / 100) ** n,
});

async function apply({ picture, params: p, run, earlier }: EffectInput<EchoesValues>): Promise<Picture> {
  if (p.fade <= 0) return picture;
  const even = p.mix === 'mean';
  const echoes = Array.from({ length: p.count }, (_, n) => copyOf(picture, p, n + 1));
  const own: Copy = { x: 0, y: 0, turn: 0, scale: 1, strength: 1 };
  const total = even ? echoes.reduce((sum, { strength }) => sum + strength, 1) : 1;
  if (p.where === 'place') {
    const copies = [own, ...echoes].map((copy) => ({ ...copy, strength: copy.strength / total }));
    return overlaid(picture, run, copies, even ? 'added' : 'lighter');
  }
  const out = newPicture(picture.width, picture.height, run.shared);
  const to = out.data;
  for (let i = 0; i < to.length; i++) to[i] = picture.data[i]! / total;
  const frames = ago(p);
  for (const [n, { strength }] of echoes.entries()) {
    const { data } = await earlier(frames[n]!);
    const share = strength / total;
    if (even) for (let i = 0; i < to.length; i++) to[i]! += share * data[i]!;
    else for (let i = 0; i < to.length; i++) if (share * data[i]! > to[i]!) to[i] = share * data[i]!;
  }
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
  looksBack: (p) => (p.where === 'time' ? ago(p) : []),
  summary: (p) => `${p.count}`,
  apply,
});
