import { newPicture, type Picture } from '../../picture';
import { metres, pixels, toggle, formatMetres, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { fetched } from '../pixels';

const ALONG = { along: [true] };

const params = {
  radial: pixels({ label: 'Towards corners', min: -20, max: 20, lowest: -200, highest: 200, default: 4, help: 'Red against blue, at the corners' }),
  along: toggle({
    section: 'Along distance',
    label: 'Where out of focus',
    default: false,
    help: 'Red fringes before the focus, blue ones beyond it',
  }),
  focus: metres({ section: 'Along distance', only: ALONG, label: 'Focus', min: 0.1, max: 3000, lowest: 0.01, highest: 1e6, default: 2 }),
  most: pixels({ section: 'Along distance', only: ALONG, label: 'At most', min: 0, max: 20, highest: 60, default: 4, help: 'Radius at infinity' }),
};
export type FringeValues = ValuesOf<typeof params>;

/** One channel softened by a box whose half width differs from pixel to pixel: differences of a running sum, along rows or columns. */
function softened(
  from: Float32Array,
  out: Float32Array,
  channel: number,
  radius: Float32Array,
  lines: number,
  length: number,
  lineStep: number,
  step: number,
): void {
  const sums = new Float64Array(length + 1);
  for (let line = 0; line < lines; line++) {
    const start = line * lineStep;
    for (let n = 0; n < length; n++) sums[n + 1] = sums[n]! + from[(start + n * step) * 4 + channel]!;
    for (let n = 0; n < length; n++) {
      const i = start + n * step;
      const r = Math.max(0, radius[i]!);
      const [a, b] = [Math.max(0, n + 0.5 - r - 0.5), Math.min(length, n + 0.5 + r + 0.5)];
      const at = (v: number): number => {
        const k = Math.min(length - 1, v | 0);
        return sums[k]! + (sums[k + 1]! - sums[k]!) * (v - k);
      };
      out[i * 4 + channel] = (at(b) - at(a)) / (b - a);
    }
  }
}

function apply(input: EffectInput<FringeValues>): Picture {
  const { picture, params: p, pxScale, run } = input;
  const { width, height, data } = picture;
  const half = Math.hypot(width, height) / 2;
  const out = newPicture(width, height, run.shared);
  out.data.set(data);
  for (const [channel, way] of [
    [0, 1],
    [2, -1],
  ] as const) {
    const k = 1 - (way * p.radial * pxScale) / (2 * half);
    if (k !== 1)
      fetched(
        picture,
        run,
        (y, to) => {
          for (let x = 0; x < width; x++) {
            to[2 * x] = width / 2 + (x + 0.5 - width / 2) * k;
            to[2 * x + 1] = height / 2 + (y + 0.5 - height / 2) * k;
          }
        },
        out,
        [channel],
      );
    if (!p.along || p.most <= 0) continue;
    // red is softer where blue is sharp, and the other way round
    const radius = Float32Array.from(input.distance.data, (z) => Math.max(0, -way * (1 - p.focus / z)) * p.most * pxScale).map((r) =>
      Math.min(r, 4 * p.most * pxScale),
    );
    const across = out.data.slice();
    softened(out.data, across, channel, radius, height, width, width, 1);
    run.checkpoint(0.7);
    softened(across, out.data, channel, radius, width, height, 1, width);
  }
  return out;
}

/** Colour fringes of a lens: red and blue of different size, and of different sharpness before and beyond the focus. */
export const fringe = defineEffect({
  kind: 'fringe',
  group: 'lens',
  label: 'Fringe',
  help: 'Colour fringes: towards the corners, and where out of focus',
  params,
  reach: true,
  needs: (p) => (p.along ? ['distance'] : []),
  startOn: ({ subject }) => ({ focus: Number(subject.toPrecision(3)) }),
  summary: (p) => (p.along ? `about ${formatMetres(p.focus)}` : `${p.radial.toFixed(1)} px`),
  apply,
});
