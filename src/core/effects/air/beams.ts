import { workedRows } from '../../kernels/workedRows';
import { luminance, parseHex, srgbToLinear } from '../../raster/colour';
import { newPlane, type Picture, type Plane } from '../../picture';
import { smoothstep } from '../../scalar';
import { choice, colour, formatMetres, metres, percent, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';

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
  const share = 1 / (step * step);
  for (let y = 0; y < height; y++) {
    const row = Math.floor(y / step) * small.width;
    for (let cell = 0, x = 0; cell < small.width; cell++) {
      let sum = 0;
      for (const end = Math.min(width, x + step); x < end; x++) {
        const i = y * width + x;
        if (!(distance.data[i]! >= p.behind)) continue;
        const light = luminance(data[i * 4]!, data[i * 4 + 1]!, data[i * 4 + 2]!);
        if (light > 0.7 * above) sum += Math.min(4, light * smoothstep(0.7 * above, above + 0.05, light));
      }
      small.data[row + cell]! += sum * share;
    }
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
    const d = from.data;
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        // variables of their own: taken apart from lists they cost more than twice the time
        const stepX = (sourceX - x - 0.5) * stride;
        const stepY = (sourceY - y - 0.5) * stride;
        let sum = 0;
        for (let t = 0; t < TAPS; t++) {
          const u = x + stepX * t;
          const v = y + stepY * t;
          if (u < 0 || v < 0 || u >= width - 1 || v >= height - 1) continue;
          const i = u | 0;
          const j = v | 0;
          const a = u - i;
          const o = j * width + i;
          const top = d[o]! + (d[o + 1]! - d[o]!) * a;
          const low = d[o + width]! + (d[o + width + 1]! - d[o + width]!) * a;
          sum += top + (low - top) * (v - j);
        }
        out.data[y * width + x] = sum / TAPS;
      }
    from = out;
  }
  return from;
}

/** Light of beams at a pixel, as the kernel finds it: between the four values of the small plane about it. */
export function beamsTwin({ width, height, data }: Plane, x: number, y: number): number {
  const u = Math.min(width - 1.001, Math.max(0, x));
  const v = Math.min(height - 1.001, Math.max(0, y));
  const [i, j] = [Math.floor(u), Math.floor(v)];
  const of = (row: number): number => data[row * width + i]! + (data[row * width + i + 1]! - data[row * width + i]!) * (u - i);
  return of(j) + (of(j + 1) - of(j)) * (v - j);
}

/** How thick the air is that beams are seen in, for the distance from which the light comes. */
const DENSE = 1.5;

/** The small plane of beams of a picture. */
export function beamsOf(input: EffectInput<BeamsValues>): Plane {
  const { params: p, run } = input;
  const light = farLight(input);
  run.checkpoint(0.2);
  return gathered(light, (p.x / 100) * light.width, (p.y / 100) * light.height, p.length / 100);
}

function apply(input: EffectInput<BeamsValues>): Picture {
  const { picture, distance, params: p, run } = input;
  const { width, height } = picture;
  const beams = beamsOf(input);
  const gain = (0.9 * p.amount) / 100;
  const [r, g, b] = parseHex(p.colour).map((v) => gain * srgbToLinear(v)) as [number, number, number];
  const [kx, ky] = [beams.width / width, beams.height / height];
  const air = p.over === 'air';
  return workedRows(picture, run, (k, row) => {
    const [plane, far] = [k.put(beams.data), k.room(width)];
    return (y) => {
      if (air) k.floats(far, width).set(distance.data.subarray(y * width, (y + 1) * width));
      const v = Math.min(beams.height - 1.001, Math.max(0, (y + 0.5) * ky - 0.5));
      const upper = plane + Math.floor(v) * beams.width * 4;
      k.run.beamsRow(row, upper, upper + beams.width * 4, beams.width, v % 1, kx, width, air ? far : 0, DENSE / p.behind, r, g, b);
    };
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
