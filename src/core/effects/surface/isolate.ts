import { workedRows } from '../../kernels/workedRows';
import { luminance, parseHex, srgbToLinear, type Rgb } from '../../raster/colour';
import type { Picture } from '../../picture';
import { colour, formatSpan, percent, stops, toggle, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { rangeLane, rangeParams, type ReachRange } from '../../matte/reach';

const range = rangeParams('Keep', 'kept', [0, 4]);

const params = {
  from: range.from,
  to: range.to,
  near: range.near,
  far: range.far,
  outside: toggle({ section: 'Keep', label: 'Outside it', default: false, help: 'Keeps everything else instead' }),
  refine: range.refine,
  dim: stops({ section: 'The rest', label: 'Dimmed by', min: 0, max: 8, highest: 30, default: 1.5 }),
  drain: percent({ section: 'The rest', label: 'Drained', min: 0, max: 100, default: 80, help: 'How much of its colour is taken' }),
  tint: percent({ section: 'The rest', label: 'Tinted', min: 0, max: 100, default: 0 }),
  colour: colour({ section: 'The rest', label: 'Tint', default: '#3d5a78' }),
  clear: percent({ section: 'The rest', label: 'Transparent', min: 0, max: 100, default: 0, help: 'Goes out as alpha in PNG, WebP, EXR and WebM' }),
};
export type IsolateValues = ValuesOf<typeof params>;

const kept = (p: IsolateValues): ReachRange => ({ from: Math.min(p.from, p.to), to: Math.max(p.from, p.to), near: p.near, far: p.far });

/** What becomes of what is not kept. */
export interface IsolatePlan {
  /** share of its light that stays, share of its colour that goes, share that is grey in the tint, share of its coverage that stays */
  readonly left: number;
  readonly drain: number;
  readonly tint: number;
  readonly keep: number;
  /** of luminance 1 */
  readonly hue: Rgb;
  /** what is not in front is kept */
  readonly away: boolean;
}

export function isolatePlan(p: IsolateValues): IsolatePlan {
  const keep = 1 - p.clear / 100;
  const hue = parseHex(p.colour).map(srgbToLinear);
  const light = Math.max(1e-3, luminance(hue[0]!, hue[1]!, hue[2]!));
  const [r, g, b] = hue.map((v) => v / light) as [number, number, number];
  return { left: 2 ** -p.dim * keep, drain: p.drain / 100, tint: p.tint / 100, keep, hue: [r, g, b], away: p.outside };
}

/** What the kernel does to one pixel, RGBA: it is its front and what is left of it, and each goes its own way. */
export function isolateTwin({ left, drain, tint, keep, hue, away }: IsolatePlan, pixel: readonly number[], front: readonly number[]): number[] {
  const kept = pixel.map((v, k) => (away ? v - Math.min(v, front[k]!) : Math.min(v, front[k]!)));
  const rest = pixel.map((v, k) => v - kept[k]!);
  const grey = luminance(rest[0]!, rest[1]!, rest[2]!);
  return pixel.map((_, k) =>
    k === 3 ? kept[k]! + keep * rest[k]! : kept[k]! + left * ((1 - tint) * (rest[k]! + (grey - rest[k]!) * drain) + tint * grey * hue[k]!),
  );
}

function apply({ picture, params: p, run, cut }: EffectInput<IsolateValues>): Picture {
  const { front } = cut(kept(p), p.refine);
  const { width } = picture;
  const { left, drain, tint, keep, hue, away } = isolatePlan(p);
  return workedRows(picture, run, (k, row) => {
    const own = k.room(width * 4);
    const fronts = k.floats(own, width * 4);
    return (y) => {
      fronts.set(front.data.subarray(y * width * 4, (y + 1) * width * 4));
      k.run.isolateRow(row, own, width, away ? 1 : 0, left, drain, tint, keep, ...hue);
    };
  });
}

/** Keeps what lies within a reach of distances; the rest is dimmed, drained of colour, tinted or made transparent. */
export const isolate = defineEffect({
  kind: 'isolate',
  group: 'surface',
  label: 'Isolate',
  help: 'Keeps what lies between two distances; dims, drains or clears the rest',
  params,
  needs: () => ['cut'],
  startOn: ({ behind }) => ({ from: 0, to: behind }),
  picking: { param: 'to', by: 1.05, label: 'Pick the far side in picture', prompt: 'Click the farthest thing that is kept' },
  cuts: (p) => ({ ...kept(p), outside: p.outside }),
  pair: { from: 'from', to: 'to', label: 'Pick near and far in picture', prompts: ['Click the near side of what is kept', 'Click its far side'] },
  summary: (p) => formatSpan(p.from, p.to),
  lane: (p) => rangeLane('Isolate', kept(p), p.outside, { from: 'from', to: 'to', near: 'near', far: 'far' }),
  apply,
});
