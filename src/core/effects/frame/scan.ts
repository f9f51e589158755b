import { hash3 } from '../../noise';
import { eachRow } from '../../kernels/workedRows';
import { newPicture, type Picture } from '../../raster/picture';
import { count, percent, perSecond, pixels, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';
import { mirrored } from '../pixels';

const params = {
  pitch: pixels({ section: 'Lines', label: 'Pitch', min: 1, max: 30, highest: 400, default: 4 }),
  dark: percent({ section: 'Lines', label: 'Gaps darker', min: 0, max: 100, default: 35 }),
  offset: pixels({
    section: 'Lines',
    label: 'Lines slip',
    min: 0,
    max: 60,
    highest: 2000,
    default: 5,
    help: 'Each line by its own length, at most this',
  }),
  colour: pixels({
    section: 'Lines',
    label: 'Colours slip',
    min: -30,
    max: 30,
    lowest: -500,
    highest: 500,
    default: 3,
    help: 'Red to the left, blue to the right',
  }),
  noise: percent({ section: 'Lines', label: 'Noise', min: 0, max: 100, default: 6 }),
  roll: perSecond({
    section: 'Over time',
    label: 'Rolls',
    min: -2,
    max: 2,
    lowest: -60,
    highest: 60,
    default: 0,
    help: 'Heights of the picture a second',
  }),
  seed: count({ section: 'Over time', label: 'Seed', min: 1, max: 99, highest: 99999, default: 1 }),
};
export type ScanValues = ValuesOf<typeof params>;

function apply(input: EffectInput<ScanValues>): Picture {
  const { picture, params: p, pxScale, run } = input;
  const { width, height, data } = picture;
  const out = newPicture(width, height, run.shared);
  const timed = scanNeeds(p).length > 0;
  const frame = timed ? input.at.frame : 0;
  const rolled = timed ? Math.round(((p.roll * frame) / input.at.fps) * height) : 0;
  const pitch = Math.max(1, p.pitch * pxScale);
  const shift = p.colour * pxScale;
  eachRow(run, height, (y) => {
    const from = (((y + rolled) % height) + height) % height;
    const line = Math.floor(y / pitch);
    const slip = (2 * hash3(line, frame, 0, p.seed) - 1) ** 3 * p.offset * pxScale;
    const shade = 1 - (p.dark / 100) * (0.5 - 0.5 * Math.cos((2 * Math.PI * (y + 0.5)) / pitch));
    const first = y * width * 4;
    for (let k = 0; k < 4; k++) {
      // every pixel of a line is fetched from as far away
      const by = slip + (k === 0 ? shift : k === 2 ? -shift : 0);
      const whole = Math.floor(by);
      const t = by - whole;
      const source = from * width * 4 + k;
      for (let x = 0, o = first + k; x < width; x++, o += 4) {
        let at = x + whole;
        let part = t;
        if (at < 0 || at >= width - 1) {
          const u = Math.min(width - 1, Math.max(0, mirrored(x + 0.5 + by, width) - 0.5));
          at = Math.floor(u);
          part = at < width - 1 ? u - at : 0;
        }
        const a = source + at * 4;
        out.data[o] = part > 0 ? data[a]! + (data[a + 4]! - data[a]!) * part : data[a]!;
      }
    }
    if (shade === 1 && p.noise === 0) return;
    for (let x = 0, o = first; x < width; x++, o += 4) {
      const gain = shade * (p.noise > 0 ? 1 + (p.noise / 100) * 2 * (hash3(x, y, frame, p.seed + 7) - 0.5) : 1);
      out.data[o]! *= gain;
      out.data[o + 1]! *= gain;
      out.data[o + 2]! *= gain;
    }
  });
  return out;
}

const scanNeeds = (p: ScanValues): 'time'[] => (p.roll !== 0 || p.noise > 0 || p.offset > 0 ? ['time'] : []);

/** A picture written line by line: lines that slip, gaps between them, colours apart, noise, and a roll. */
export const scan = defineEffect({
  kind: 'scan',
  group: 'frame',
  label: 'Scan',
  help: 'Lines of a screen: gaps, slips, colours apart, noise and roll',
  params,
  reach: true,
  spreads: () => true,
  needs: scanNeeds,
  summary: (p) => `${p.pitch.toFixed(0)} px`,
  apply,
});
