import { luminance, parseHex, srgbToLinear } from '../../raster/colour';
import { newPlane, type Picture, type Plane } from '../../raster/picture';
import { smoothstep } from '../../scalar';
import { choice, colour, formatMetres, metres, percent, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { madeRows } from '../pixels';

const params = {
  x: percent({
    section: 'Source',
    label: 'Right',
    min: 0,
    max: 100,
    lowest: -500,
    highest: 600,
    decimals: 1,
    default: 70,
    help: 'Where the light comes from, of the width',
  }),
  y: percent({ section: 'Source', label: 'Down', min: 0, max: 100, lowest: -500, highest: 600, decimals: 1, default: 15, help: 'Of the height' }),
  behind: metres({
    section: 'Source',
    label: 'Light lies beyond',
    min: 0.1,
    max: 3000,
    lowest: 0,
    highest: 1e6,
    default: 8,
    help: 'What is nearer cuts the light',
  }),
  level: percent({
    section: 'Source',
    label: 'Brighter than',
    min: 0,
    max: 100,
    highest: 1000,
    default: 40,
    help: 'Only light above this share of white throws beams',
  }),
  amount: percent({ section: 'Beams', label: 'Amount', min: 0, max: 300, highest: 2000, default: 100 }),
  length: percent({ section: 'Beams', label: 'Length', min: 1, max: 100, default: 60, help: 'How far towards the source a beam reaches' }),
  over: choice({
    section: 'Beams',
    label: 'Lie over',
    default: 'all',
    options: [
      { value: 'all', label: 'Everything' },
      { value: 'air', label: 'By distance' },
    ],
    help: 'By distance: the more air before a thing, the more of them is seen',
  }),
  colour: colour({ section: 'Beams', label: 'Colour', default: '#ffe9c4' }),
};
export type BeamsValues = ValuesOf<typeof params>;

/** Longest side at which beams are summed up, px: they are soft. */
const WORKED = 480;
/** Each pass looks at so many places; three passes are so many to the third. */
const TAPS = 6;
const PASSES = 3;

/** Light that comes from beyond a distance, thinned to a small plane by means. */
function farLight({ picture, distance, params: p }: EffectInput<BeamsValues>): Plane {
  const { width, height, data } = picture;
  const step = Math.max(1, Math.ceil(Math.max(width, height) / WORKED));
  const small = newPlane(Math.ceil(width / step), Math.ceil(height / step));
  const above = p.level / 100;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (!(distance.data[i]! >= p.behind)) continue;
      const light = luminance(data[i * 4]!, data[i * 4 + 1]!, data[i * 4 + 2]!);
      small.data[Math.floor(y / step) * small.width + Math.floor(x / step)]! +=
        Math.min(4, light * smoothstep(0.7 * above, above + 0.05, light)) / (step * step);
    }
  return small;
}

/** Every pixel's mean of what lies between it and the source: TAPS^PASSES places by PASSES passes of ever larger strides. */
function gathered(light: Plane, sourceX: number, sourceY: number, length: number): Plane {
  let from = light;
  const { width, height } = light;
  let stride = length / TAPS ** PASSES;
  for (let pass = 0; pass < PASSES; pass++, stride *= TAPS) {
    const out = newPlane(width, height);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const [dx, dy] = [sourceX - x - 0.5, sourceY - y - 0.5];
        let sum = 0;
        for (let t = 0; t < TAPS; t++) {
          const [u, v] = [x + dx * stride * t, y + dy * stride * t];
          const [i, j] = [Math.floor(u), Math.floor(v)];
          if (i < 0 || j < 0 || i >= width - 1 || j >= height - 1) continue;
          const [a, b] = [u - i, v - j];
          const o = j * width + i;
          sum += (1 - b) * ((1 - a) * from.data[o]! + a * from.data[o + 1]!) + b * ((1 - a) * from.data[o + width]! + a * from.data[o + width + 1]!);
        }
        out.data[y * width + x] = sum / TAPS;
      }
    from = out;
  }
  return from;
}

function apply(input: EffectInput<BeamsValues>): Picture {
  const { picture, distance, params: p, run } = input;
  const { width, height, data } = picture;
  const light = farLight(input);
  run.checkpoint(0.2);
  const beams = gathered(light, (p.x / 100) * light.width, (p.y / 100) * light.height, p.length / 100);
  const [r, g, b] = parseHex(p.colour).map(srgbToLinear);
  const gain = (0.9 * p.amount) / 100;
  const [kx, ky] = [light.width / width, light.height / height];
  const air = p.over === 'air';
  const d = beams.data;
  return madeRows(picture, run, (from, end, y, out) => {
    const v = Math.min(light.height - 1.001, Math.max(0, (y + 0.5) * ky - 0.5));
    const j = v | 0;
    const t = v - j;
    for (let o = from, x = 0.5; o < end; o += 4, x++) {
      const u = Math.min(light.width - 1.001, Math.max(0, x * kx - 0.5));
      const i = u | 0;
      const s = u - i;
      const c = j * light.width + i;
      const e = c + light.width;
      let add = gain * ((1 - t) * ((1 - s) * d[c]! + s * d[c + 1]!) + t * ((1 - s) * d[e]! + s * d[e + 1]!)) * data[o + 3]!;
      if (air) add *= 1 - Math.exp((-1.5 * Math.min(1e6, distance.data[o >> 2]!)) / p.behind);
      out[o] = data[o]! + add * r!;
      out[o + 1] = data[o + 1]! + add * g!;
      out[o + 2] = data[o + 2]! + add * b!;
      out[o + 3] = data[o + 3]!;
    }
  });
}

/** Shafts of light from a point, cut by what stands nearer: far light summed up along the lines to the source, in linear light (Mitchell 2007). */
export const beams = defineEffect({
  kind: 'beams',
  group: 'air',
  label: 'Beams',
  help: 'Shafts of light from a point, cut by what stands before it',
  params,
  reach: true,
  centre: { x: 'x', y: 'y' },
  needs: () => ['distance'],
  startOn: ({ subject }) => ({ behind: Number((1.5 * subject).toPrecision(2)) }),
  picking: { param: 'behind', label: 'Pick what cuts them in picture', prompt: 'Click the farthest thing that cuts the light' },
  summary: (p) => `beyond ${formatMetres(p.behind)}`,
  lane: (p) => ({
    caption: `Beams: light from beyond ${formatMetres(p.behind)}`,
    points: [
      { distance: p.behind, strength: 0 },
      { distance: p.behind, strength: 1 },
      { distance: Infinity, strength: 1 },
    ],
    handles: [{ param: 'behind', distance: p.behind }],
  }),
  apply,
});
