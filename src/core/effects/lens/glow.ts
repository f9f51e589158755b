import { workedRows } from '../../kernels/workedRows';
import { luminance, parseHex, srgbToLinear } from '../../raster/colour';
import type { Picture } from '../../picture';
import { colour, count, percent, pixels, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';

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

/** What glow is made of, as the kernel and its twin take it. */
export interface GlowPlan {
  /** light from which it sets in, and above which all of it glows */
  readonly from: number;
  readonly to: number;
  /** share of that light that is spread */
  readonly share: number;
  /** of each octave, from half the size on; together they are all the light there is */
  readonly octaves: readonly number[];
  /** of what glows: how much is added in its own colour, and of its grey in each of the tint's */
  readonly plain: number;
  readonly tint: readonly number[];
}

export function glowPlan(p: GlowValues, pxScale: number, { width, height }: Picture): GlowPlan {
  const level = p.level / 100;
  const wanted = Math.max(1, Math.min(p.rounds, Math.round(Math.log2(Math.max(2, p.size * pxScale)))));
  const ratio = 0.35 + (0.9 * p.spread) / 100;
  const shares: number[] = [];
  for (let [w, h] = [width, height]; shares.length < wanted && w >= 3 && h >= 3; [w, h] = [(w + 1) >> 1, (h + 1) >> 1])
    shares.push(ratio ** shares.length);
  const sum = shares.reduce((a, b) => a + b, 0) || 1;
  const hue = parseHex(p.colour).map(srgbToLinear);
  const white = Math.max(1e-3, luminance(hue[0]!, hue[1]!, hue[2]!));
  const [gain, tint] = [1 + p.lift / 100, p.tint / 100];
  return {
    from: 0.5 * level,
    to: 1.2 * level + 0.05,
    share: p.amount / 100,
    octaves: shares.map((v) => v / sum),
    plain: gain * (1 - tint),
    tint: hue.map((v) => (gain * tint * v) / white),
  };
}

/** A side halved so many times; what is left over counts as a whole. */
const halfOf = (size: number, times: number): number => Math.max(1, Math.ceil(size / 2 ** times));

/** The row of the coarse level in which row y of the fine one lies, and the next nearest. */
const rowsAbout = (y: number, height: number): readonly [number, number] => [y >> 1, Math.min(height - 1, Math.max(0, (y >> 1) + (y & 1 ? 1 : -1)))];

function apply({ picture, params: p, pxScale, run }: EffectInput<GlowValues>): Picture {
  const { width, height, data } = picture;
  const { from, to, share, octaves, plain, tint } = glowPlan(p, pxScale, picture);
  if (share <= 0 || octaves.length === 0) return picture;
  const inverse = 1 / (to - from);
  return workedRows(picture, run, (k, row) => {
    const sizes = octaves.map((_, n) => ({ width: halfOf(width, n + 1), height: halfOf(height, n + 1) }));
    const levels = sizes.map((size) => ({ ...size, bytes: size.width * 16, at: k.take(size.width * size.height * 16) }));
    const [below, room] = [k.take(width * 16), k.take((sizes[0]!.width + 2) * 16)];
    const lineOf = (y: number): Float32Array => data.subarray(y * width * 4, (y + 1) * width * 4);
    const [finest] = levels as [(typeof levels)[number]];
    for (let y = 0; y < finest.height; y++) {
      if (y % 32 === 0) run.checkpoint((0.4 * y) / finest.height);
      k.floats(row, width * 4).set(lineOf(2 * y));
      k.floats(below, width * 4).set(lineOf(Math.min(height - 1, 2 * y + 1)));
      k.run.glowDown(row, below, width, from, inverse, share, finest.at + y * finest.bytes);
    }
    for (const [n, level] of levels.entries()) {
      const finer = levels[n - 1];
      if (!finer) continue;
      for (let y = 0; y < level.height; y++) {
        const upper = finer.at + 2 * y * finer.bytes;
        k.run.halfRow(upper, 2 * y + 1 < finer.height ? upper + finer.bytes : upper, finer.width, level.at + y * level.bytes);
      }
    }
    // from the coarsest on each level takes up what is below it
    for (let n = levels.length - 1; n >= 0; n--) {
      const [level, coarse] = [levels[n]!, levels[n + 1]];
      if (!coarse) {
        const all = k.floats(level.at, level.width * level.height * 4);
        for (let i = 0; i < all.length; i++) all[i]! *= octaves[n]!;
        continue;
      }
      for (let y = 0; y < level.height; y++) {
        const [own, next] = rowsAbout(y, coarse.height).map((r) => coarse.at + r * coarse.bytes) as [number, number];
        k.run.octaveRow(level.at + y * level.bytes, level.width, octaves[n]!, own, next, coarse.width, room);
      }
    }
    const [red, green, blue] = tint as [number, number, number];
    return (y) => {
      const [own, next] = rowsAbout(y, finest.height).map((r) => finest.at + r * finest.bytes) as [number, number];
      k.run.glowOver(row, width, from, inverse, share, own, next, finest.width, room, plain, red, green, blue);
    };
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
