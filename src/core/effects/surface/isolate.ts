import { luminance, parseHex, srgbToLinear } from '../../raster/colour';
import type { Picture } from '../../raster/picture';
import { colour, formatSpan, percent, stops, toggle, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { madeRows } from '../pixels';
import { rangeLane, rangeParams, type ReachRange } from '../reach';

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

function apply({ picture, params: p, run, cut }: EffectInput<IsolateValues>): Picture {
  const { front } = cut(kept(p), p.refine);
  const { data } = picture;
  const left = 2 ** -p.dim;
  const [drain, tint, keep] = [p.drain / 100, p.tint / 100, 1 - p.clear / 100];
  const hue = parseHex(p.colour).map(srgbToLinear);
  const light = Math.max(1e-3, luminance(hue[0]!, hue[1]!, hue[2]!));
  const [tr, tg, tb] = hue.map((v) => v / light) as [number, number, number];
  const own = front.data;
  const rest = left * keep;
  const away = p.outside;
  return madeRows(picture, run, (from, end, _y, out) => {
    for (let o = from; o < end; o += 4) {
      // a shared pixel is its front and what is left of it: each goes its own way
      const r = data[o]!;
      const g = data[o + 1]!;
      const b = data[o + 2]!;
      const a = data[o + 3]!;
      const fr = Math.min(own[o]!, r);
      const fg = Math.min(own[o + 1]!, g);
      const fb = Math.min(own[o + 2]!, b);
      const fa = Math.min(own[o + 3]!, a);
      const kr = away ? r - fr : fr;
      const kg = away ? g - fg : fg;
      const kb = away ? b - fb : fb;
      const ka = away ? a - fa : fa;
      const lr = r - kr;
      const lg = g - kg;
      const lb = b - kb;
      const grey = luminance(lr, lg, lb);
      out[o] = kr + rest * ((1 - tint) * (lr + (grey - lr) * drain) + tint * grey * tr);
      out[o + 1] = kg + rest * ((1 - tint) * (lg + (grey - lg) * drain) + tint * grey * tg);
      out[o + 2] = kb + rest * ((1 - tint) * (lb + (grey - lb) * drain) + tint * grey * tb);
      out[o + 3] = ka + keep * (a - ka);
    }
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
