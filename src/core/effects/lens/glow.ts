import { luminance, parseHex, srgbToLinear } from '../../raster/colour';
import { newPicture, type Picture } from '../../raster/picture';
import { smoothstep } from '../../scalar';
import { colour, count, percent, pixels, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { madeRows } from '../pixels';

const params = {
  level: percent({ label: 'Above', min: 0, max: 200, highest: 2000, default: 45, help: 'Light, in share of white, from which it glows' }),
  amount: percent({ label: 'Amount', min: 0, max: 100, default: 75, help: 'How much of that light is spread' }),
  lift: percent({
    label: 'Brighter',
    min: 0,
    max: 400,
    highest: 5000,
    default: 90,
    help: 'Light added to what is spread; at 0 the picture keeps its light',
  }),
  size: pixels({ label: 'Size', min: 4, max: 600, lowest: 1, highest: 4000, scale: 'log', default: 160, help: 'How far it reaches' }),
  spread: percent({ label: 'Wide share', min: 0, max: 100, default: 45, help: 'How much of it goes far, and how much stays near' }),
  tint: percent({ label: 'Tinted', min: 0, max: 100, default: 0 }),
  colour: colour({ label: 'Tint', default: '#ffd9a8' }),
  rounds: count({ label: 'Octaves at most', min: 1, max: 9, default: 8 }),
};
export type GlowValues = ValuesOf<typeof params>;

/** Half the size: means of 2x2; a last row or column without a partner counts as two. */
export function halved({ width, height, data }: Picture): Picture {
  const out = newPicture(Math.max(1, (width + 1) >> 1), Math.max(1, (height + 1) >> 1));
  const to = out.data;
  const rowStep = width * 4;
  for (let y = 0, o = 0; y < out.height; y++) {
    const row = 2 * y * rowStep;
    const below = 2 * y + 1 < height ? rowStep : 0;
    for (let x = 0; x < out.width; x++, o += 4) {
      const a = row + 8 * x;
      const b = 2 * x + 1 < width ? a + 4 : a;
      const c = a + below;
      const d = b + below;
      to[o] = 0.25 * (data[a]! + data[b]! + data[c]! + data[d]!);
      to[o + 1] = 0.25 * (data[a + 1]! + data[b + 1]! + data[c + 1]! + data[d + 1]!);
      to[o + 2] = 0.25 * (data[a + 2]! + data[b + 2]! + data[c + 2]! + data[d + 2]!);
    }
  }
  return out;
}

/** Adds a coarser level to a finer one, bilinear, colours alone: of two pixels each takes ¾ of its own cell and ¼ of the next. `fine` is written. */
export function addTo(fine: Picture, coarse: Picture): void {
  const { width, height, data } = fine;
  const from = coarse.data;
  const length = coarse.width * 4;
  // one row of the coarse level between its own, with its ends repeated on both sides
  const row = new Float32Array(length + 8);
  for (let y = 0, o = 0; y < height; y++) {
    const own = y >> 1;
    const next = Math.min(coarse.height - 1, Math.max(0, own + (y & 1 ? 1 : -1)));
    const [a, b] = [own * length, next * length];
    for (let i = 0; i < length; i++) row[i + 4] = 0.75 * from[a + i]! + 0.25 * from[b + i]!;
    for (let k = 0; k < 4; k++) {
      row[k] = row[k + 4]!;
      row[length + 4 + k] = row[length + k]!;
    }
    for (let x = 0; x < width; x++, o += 4) {
      const i = 4 + (x >> 1) * 4;
      const j = x & 1 ? i + 4 : i - 4;
      data[o]! += 0.75 * row[i]! + 0.25 * row[j]!;
      data[o + 1]! += 0.75 * row[i + 1]! + 0.25 * row[j + 1]!;
      data[o + 2]! += 0.75 * row[i + 2]! + 0.25 * row[j + 2]!;
    }
  }
}

function apply({ picture, params: p, pxScale, run }: EffectInput<GlowValues>): Picture {
  if (p.amount <= 0) return picture;
  const { width, height, data } = picture;
  const level = p.level / 100;
  const amount = p.amount / 100;
  const bright = madeRows(picture, run, (from, end, _y, out) => {
    for (let o = from; o < end; o += 4) {
      const light = luminance(data[o]!, data[o + 1]!, data[o + 2]!);
      if (light <= 0.5 * level) continue;
      // it sets in softly from half the level on
      const share = amount * smoothstep(0.5 * level, 1.2 * level + 0.05, light);
      out[o] = share * data[o]!;
      out[o + 1] = share * data[o + 1]!;
      out[o + 2] = share * data[o + 2]!;
    }
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
    if (above) addTo(kept, above);
    levels[n] = kept;
    run.checkpoint(0.6 + 0.3 * (1 - n / levels.length));
  }
  const glow = newPicture(width, height, run.shared);
  if (levels[1]) addTo(glow, levels[1]);
  const hue = parseHex(p.colour).map(srgbToLinear);
  const white = Math.max(1e-3, luminance(hue[0]!, hue[1]!, hue[2]!));
  const tint = p.tint / 100;
  const gain = 1 + p.lift / 100;
  // of what glows: its own colour, and its grey in the tint
  const plain = gain * (1 - tint);
  const [tr, tg, tb] = hue.map((v) => (gain * tint * v) / white) as [number, number, number];
  const taken = bright.data;
  const light = glow.data;
  return madeRows(picture, run, (from, end, _y, out) => {
    for (let o = from; o < end; o += 4) {
      const r = light[o]!;
      const g = light[o + 1]!;
      const b = light[o + 2]!;
      const grey = luminance(r, g, b);
      out[o] = Math.max(0, data[o]! - taken[o]! + plain * r + tr * grey);
      out[o + 1] = Math.max(0, data[o + 1]! - taken[o + 1]! + plain * g + tg * grey);
      out[o + 2] = Math.max(0, data[o + 2]! - taken[o + 2]! + plain * b + tb * grey);
      // light that falls on what is see-through is seen there too
      out[o + 3] = Math.max(data[o + 3]!, Math.min(1, grey));
    }
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
