import { hash3, wander } from '../../noise';
import { parseHex, srgbToLinear } from '../../raster/colour';
import type { Picture } from '../../picture';
import { colour, count, percent, perSecond, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { CoarseGrid } from '../coarse';
import { madeRows } from '../pixels';

const params = {
  amount: percent({ label: 'Amount', min: 0, max: 100, highest: 1000, default: 18 }),
  count: count({ label: 'Veils', min: 1, max: 8, default: 3 }),
  size: percent({ label: 'Size', min: 10, max: 200, lowest: 1, highest: 1000, default: 70, help: 'Of the picture’s width' }),
  warm: colour({ label: 'Colour', default: '#ff8a3c' }),
  cool: colour({ label: 'Second colour', default: '#ff3d6a' }),
  border: percent({ label: 'Towards the border', min: 0, max: 100, default: 70 }),
  speed: perSecond({ label: 'Wanders', min: 0, max: 2, highest: 50, default: 0.2, help: 'Turns of mind a second' }),
  seed: count({ label: 'Seed', min: 1, max: 99, highest: 99999, default: 1 }),
};
export type StrayLightValues = ValuesOf<typeof params>;

/** px of a cell on which the veils are worked out */
const CELL = 8;

function apply(input: EffectInput<StrayLightValues>): Picture {
  const { picture, params: p, run } = input;
  const { width, height, data } = picture;
  if (p.amount <= 0) return picture;
  const t = p.speed > 0 ? (p.speed * input.at.frame) / input.at.fps : 0;
  const [warm, cool] = [p.warm, p.cool].map((hex) => parseHex(hex).map(srgbToLinear));
  const veils = Array.from({ length: p.count }, (_, n) => {
    const angle = 2 * Math.PI * hash3(n, 1, 0, p.seed) + 0.8 * wander(t, p.seed * 31 + n);
    const out = 0.15 + (0.45 * p.border) / 100 + 0.15 * wander(t + 7, p.seed * 53 + n);
    const share = hash3(n, 2, 0, p.seed);
    const radius = (p.size / 100) * width * (0.5 + 0.5 * hash3(n, 3, 0, p.seed));
    return {
      x: width * (0.5 + out * Math.cos(angle)),
      y: height * (0.5 + out * Math.sin(angle)),
      scale: -2 / (radius * radius),
      light: warm!.map((v, k) => (p.amount / 100) * (v + (cool![k]! - v) * share) * (0.7 + 0.3 * wander(t + 3, p.seed * 71 + n))),
    };
  });
  // soft light needs few places: worked out on a coarse grid
  const grid = new CoarseGrid(width, height, CELL, 3).fill((x, y, o, soft) => {
    for (const v of veils) {
      const g = Math.exp(v.scale * ((x - v.x) ** 2 + (y - v.y) ** 2));
      for (let k = 0; k < 3; k++) soft[o + k]! += g * v.light[k]!;
    }
  });
  return madeRows(picture, run, (from, end, y, out) => {
    for (let o = from, x = 0.5; o < end; o += 4, x++) {
      const a = data[o + 3]!;
      out[o] = data[o]! + grid.at(x, y + 0.5, 0) * a;
      out[o + 1] = data[o + 1]! + grid.at(x, y + 0.5, 1) * a;
      out[o + 2] = data[o + 2]! + grid.at(x, y + 0.5, 2) * a;
      out[o + 3] = a;
    }
  });
}

/** Soft coloured veils, as of light that found its way past the lens; they wander. */
export const strayLight = defineEffect({
  kind: 'stray-light',
  group: 'lens',
  label: 'Stray light',
  help: 'Soft coloured veils that wander over the picture',
  params,
  reach: true,
  needs: (p) => (p.speed > 0 ? ['time'] : []),
  summary: (p) => `${p.amount.toFixed(0)} %`,
  apply,
});
