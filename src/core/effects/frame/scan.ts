import { hash3 } from '../../noise';
import { workedRows } from '../../kernels/workedRows';
import type { Picture } from '../../picture';
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
  const timed = scanNeeds(p).length > 0;
  const frame = timed ? input.at.frame : 0;
  const rolled = timed ? Math.round(((p.roll * frame) / input.at.fps) * height) : 0;
  const pitch = Math.max(1, p.pitch * pxScale);
  const shift = p.colour * pxScale;
  // a line goes on so far beyond both ends, mirrored
  const rim = Math.ceil(p.offset * pxScale + Math.abs(shift)) + 2;
  const beyond = Array.from({ length: 2 * rim }, (_, n) => (n < rim ? n - rim : width + n - rim));
  const mirror = beyond.map((x) => ({ at: (x + rim) * 4, from: Math.min(width - 1, Math.floor(mirrored(x + 0.5, width))) * 4 }));
  return workedRows(picture, run, (k, row) => {
    const [line, slips] = [k.room((width + 2 * rim) * 4), k.room(8)];
    const [pixels, whole, shares] = [k.floats(line, (width + 2 * rim) * 4), k.ints(slips, 4), k.floats(slips + 16, 4)];
    return (y) => {
      const from = (((y + rolled) % height) + height) % height;
      pixels.set(data.subarray(from * width * 4, (from + 1) * width * 4), rim * 4);
      for (const { at, from: source } of mirror) pixels.copyWithin(at, rim * 4 + source, rim * 4 + source + 4);
      const slip = (2 * hash3(Math.floor(y / pitch), frame, 0, p.seed) - 1) ** 3 * p.offset * pxScale;
      for (let c = 0; c < 4; c++) {
        const by = slip + (c === 0 ? shift : c === 2 ? -shift : 0);
        whole[c] = Math.floor(by);
        shares[c] = by - whole[c]!;
      }
      const shade = 1 - (p.dark / 100) * (0.5 - 0.5 * Math.cos((2 * Math.PI * (y + 0.5)) / pitch));
      k.run.scanRow(line + rim * 16, width, slips, shade, p.noise / 100, y, frame, p.seed + 7, row);
    };
  });
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
