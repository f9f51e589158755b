import { luminance, parseHex, srgbToLinear } from '../../raster/colour';
import { newPicture, type Picture } from '../../raster/picture';
import { smoothstep } from '../../scalar';
import { colour, count, percent, pixels, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { madePixels } from '../pixels';

const params = {
  level: percent({ label: 'Above', min: 0, max: 200, highest: 2000, default: 60, help: 'Light, in share of white, from which it glows' }),
  amount: percent({ label: 'Amount', min: 0, max: 100, default: 60, help: 'How much of that light is spread' }),
  lift: percent({
    label: 'Brighter',
    min: 0,
    max: 400,
    highest: 5000,
    default: 60,
    help: 'Light added to what is spread; at 0 the picture keeps its light',
  }),
  size: pixels({ label: 'Size', min: 4, max: 600, lowest: 1, highest: 4000, scale: 'log', default: 160, help: 'How far it reaches' }),
  spread: percent({ label: 'Wide share', min: 0, max: 100, default: 45, help: 'How much of it goes far, and how much stays near' }),
  tint: percent({ label: 'Tinted', min: 0, max: 100, default: 0 }),
  colour: colour({ label: 'Tint', default: '#ffd9a8' }),
  rounds: count({ label: 'Octaves at most', min: 1, max: 9, default: 8 }),
};
export type GlowValues = ValuesOf<typeof params>;

/** Half the size: weights 1 3 3 1 across two cells, mirrored at the border, so that light is kept. */
export function halved({ width, height, data }: Picture): Picture {
  const out = newPicture(Math.max(1, (width + 1) >> 1), Math.max(1, (height + 1) >> 1));
  const weights = [0.125, 0.375, 0.375, 0.125];
  const rows = new Float32Array(out.width * height * 4);
  // mirrored about the border of the pixels
  const at = (v: number, n: number): number => (v < 0 ? Math.min(n - 1, -v - 1) : v >= n ? Math.max(0, 2 * n - 1 - v) : v);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < out.width; x++)
      for (let t = 0; t < 4; t++) {
        const from = (y * width + at(2 * x + t - 1, width)) * 4;
        const o = (y * out.width + x) * 4;
        for (let k = 0; k < 4; k++) rows[o + k]! += weights[t]! * data[from + k]!;
      }
  for (let y = 0; y < out.height; y++)
    for (let t = 0; t < 4; t++) {
      const row = at(2 * y + t - 1, height) * out.width * 4;
      const o = y * out.width * 4;
      for (let i = 0; i < out.width * 4; i++) out.data[o + i]! += weights[t]! * rows[row + i]!;
    }
  return out;
}

/** Adds a coarser level to a finer one, bilinear, times a weight. `fine` is written. */
function addTo(fine: Picture, coarse: Picture, weight: number): void {
  const { width, height, data } = fine;
  for (let y = 0; y < height; y++) {
    const v = Math.min(coarse.height - 1, Math.max(0, (y + 0.5) / 2 - 0.5));
    const [y0, t] = [v | 0, v - (v | 0)];
    const below = y0 < coarse.height - 1 ? coarse.width * 4 : 0;
    for (let x = 0; x < width; x++) {
      const u = Math.min(coarse.width - 1, Math.max(0, (x + 0.5) / 2 - 0.5));
      const [x0, s] = [u | 0, u - (u | 0)];
      const right = x0 < coarse.width - 1 ? 4 : 0;
      const a = (y0 * coarse.width + x0) * 4;
      const o = (y * width + x) * 4;
      const [w00, w10, w01, w11] = [(1 - s) * (1 - t) * weight, s * (1 - t) * weight, (1 - s) * t * weight, s * t * weight];
      for (let k = 0; k < 3; k++)
        data[o + k]! +=
          w00 * coarse.data[a + k]! +
          w10 * coarse.data[a + right + k]! +
          w01 * coarse.data[a + below + k]! +
          w11 * coarse.data[a + below + right + k]!;
    }
  }
}

function apply({ picture, params: p, pxScale, run }: EffectInput<GlowValues>): Picture {
  if (p.amount <= 0) return picture;
  const { width, height, data } = picture;
  const level = p.level / 100;
  const amount = p.amount / 100;
  const bright = madePixels(picture, run, (o, _x, _y, out) => {
    const light = luminance(data[o]!, data[o + 1]!, data[o + 2]!);
    const share = light > 0 ? (amount * Math.max(0, light - level * smoothstep(0, level + 1e-6, light))) / light : 0;
    for (let k = 0; k < 3; k++) out[o + k] = share * data[o + k]!;
  });
  const octaves = Math.max(1, Math.min(p.rounds, Math.round(Math.log2(Math.max(2, p.size * pxScale)))));
  const levels = [bright];
  for (let n = 0; n < octaves; n++) {
    const top = levels[levels.length - 1]!;
    if (top.width < 3 || top.height < 3) break;
    levels.push(halved(top));
    run.checkpoint(0.3 + (0.3 * n) / octaves);
  }
  // each octave's share; together they are all the light there is
  const ratio = 0.35 + (0.9 * p.spread) / 100;
  const shares = levels.slice(1).map((_, n) => ratio ** n);
  const sum = shares.reduce((a, b) => a + b, 0) || 1;
  for (let n = levels.length - 1; n >= 1; n--) {
    const own = levels[n]!;
    // a level holds what came up from below it already, weighted; its own light is weighted now
    const weight = shares[n - 1]! / sum;
    const kept = newPicture(own.width, own.height);
    for (let i = 0; i < kept.data.length; i++) kept.data[i] = own.data[i]! * weight;
    const above = levels[n + 1];
    if (above) addTo(kept, above, 1);
    levels[n] = kept;
    run.checkpoint(0.6 + 0.3 * (1 - n / levels.length));
  }
  const glow = newPicture(width, height, run.shared);
  if (levels[1]) addTo(glow, levels[1], 1);
  const hue = parseHex(p.colour).map(srgbToLinear);
  const white = Math.max(1e-3, luminance(hue[0]!, hue[1]!, hue[2]!));
  const tint = p.tint / 100;
  const gain = 1 + p.lift / 100;
  return madePixels(picture, run, (o, _x, _y, out) => {
    const grey = luminance(glow.data[o]!, glow.data[o + 1]!, glow.data[o + 2]!);
    for (let k = 0; k < 3; k++) {
      const own = glow.data[o + k]!;
      out[o + k] = Math.max(0, data[o + k]! - bright.data[o + k]! + gain * (own + ((grey * hue[k]!) / white - own) * tint));
    }
    // light that falls on what is see-through is seen there too
    out[o + 3] = Math.max(data[o + 3]!, Math.min(1, grey));
  });
}

/** Light above a level, spread over octaves of a pyramid (Burt & Adelson 1983); what is spread is taken from where it was. */
export const glow = defineEffect({
  kind: 'glow',
  group: 'lens',
  label: 'Glow',
  help: 'Bright light spreads round itself',
  params,
  reach: true,
  needs: () => [],
  summary: (p) => `${p.amount.toFixed(0)} %`,
  apply,
});
