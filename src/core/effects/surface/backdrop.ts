import { workedRows } from '../../kernels/workedRows';
import { parseHex, srgbToLinear } from '../../raster/colour';
import { newPlane, type Picture, type Plane, type Raster, type Size } from '../../picture';
import { sampleRaster } from '../../raster/resample';
import { clampUnit } from '../../scalar';
import { choice, colour, formatMetres, metres, percent, toggle, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput, type EffectResult } from '../definition';

const RAMP = { what: ['ramp'] };
const PICTURE = { what: ['picture'] };

const params = {
  beyond: metres({
    section: 'Backdrop',
    label: 'Beyond',
    min: 0.1,
    max: 3000,
    lowest: 0.01,
    highest: 1e6,
    default: 4,
    help: 'Everything farther than this is replaced',
  }),
  what: choice({
    section: 'Backdrop',
    label: 'By',
    default: 'ramp',
    options: [
      { value: 'colour', label: 'Colour' },
      { value: 'ramp', label: 'Ramp' },
      { value: 'picture', label: 'Picture' },
      { value: 'nothing', label: 'Nothing' },
    ],
  }),
  colour: colour({ section: 'Backdrop', label: 'Colour', default: '#5f7f96', only: { what: ['colour', 'ramp'] } }),
  second: colour({ section: 'Backdrop', label: 'Second colour', default: '#d9c3a4', only: RAMP }),
  along: choice({
    section: 'Backdrop',
    label: 'Ramp runs',
    only: RAMP,
    default: 'down',
    options: [
      { value: 'down', label: 'Downwards' },
      { value: 'away', label: 'Away' },
    ],
    help: 'From the top to the bottom, or along distance: what lay farther is told by its colour',
  }),
  scale: percent({
    section: 'Picture',
    only: PICTURE,
    label: 'Scale',
    min: 10,
    max: 400,
    lowest: 1,
    highest: 4000,
    default: 100,
    help: '100 % covers the frame',
  }),
  x: percent({ section: 'Picture', only: PICTURE, label: 'Right', min: -100, max: 100, lowest: -1000, highest: 1000, decimals: 1, default: 0 }),
  y: percent({ section: 'Picture', only: PICTURE, label: 'Down', min: -100, max: 100, lowest: -1000, highest: 1000, decimals: 1, default: 0 }),
  stands: metres({
    section: 'Place',
    label: 'Stands at',
    min: 0.1,
    max: 3000,
    lowest: 0.05,
    highest: Infinity,
    default: 12,
    help: 'Lens blur, fog and the camera take it as a thing there; ∞ may be typed',
  }),
  refine: toggle({ section: 'Place', label: 'Fine edges', default: true, help: 'Hair, leaves and rope are kept whole along the picture’s edges' }),
  spill: percent({
    section: 'Place',
    label: 'Old light out',
    min: 0,
    max: 100,
    default: 100,
    help: 'Takes the old backdrop’s colour out of shared pixels',
  }),
};
export type BackdropValues = ValuesOf<typeof params>;

/** The distance over which a ramp that runs away changes its colour, as a multiple of where it begins. */
const RAMP_ENDS = 12;

/** A picture over the whole frame, scaled about its middle; what it leaves free is clear. */
function placed(still: Raster, { width, height }: Size, p: BackdropValues, shared: boolean): Picture {
  const cover = Math.max(width / still.width, height / still.height) * (p.scale / 100);
  const k = 1 / cover;
  return sampleRaster(
    still,
    { a: k, b: 0, c: still.width / 2 - k * width * (0.5 + p.x / 100), d: 0, e: k, f: still.height / 2 - k * height * (0.5 + p.y / 100) },
    width,
    height,
    shared,
  );
}

/** How far along a ramp that runs away something lies whose distance is so many times that of its beginning. */
const awayShare = (times: number): number => clampUnit(Math.log(Math.max(1, times)) / Math.log(RAMP_ENDS));

/** What the kernel does to one pixel, RGBA, with what stands behind it. */
export function backdropTwin(pixel: readonly number[], matte: number, front: readonly number[], behind: readonly number[], spill: number): number[] {
  const free = pixel[3]! * (1 - matte);
  return pixel.map((v, k) => {
    const own = k === 3 ? v * matte : v * matte + (front[k]! - v * matte) * spill;
    return own + free * behind[k]!;
  });
}

function apply({ picture, distance, params: p, run, still, cut }: EffectInput<BackdropValues>): EffectResult {
  const { width, height } = picture;
  // a picture that has not come yet leaves what was there
  if (p.what === 'picture' && !still) return picture;
  const { matte, front } = cut({ from: 0, to: p.beyond, near: 0, far: 0 }, p.refine);
  const coverage = matte.data;
  const own = p.what === 'picture' && still ? placed(still, picture, p, run.shared) : null;
  const [top, bottom] = [p.colour, p.what === 'ramp' ? p.second : p.colour].map((hex) => parseHex(hex).map(srgbToLinear));
  const cover = p.what === 'nothing' ? 0 : 1;
  const away = p.what === 'ramp' && p.along === 'away';
  const out = workedRows(picture, run, (k, row) => {
    const [mattes, fronts, behind] = [k.room(width), k.room(width * 4), k.room(width * 4)];
    const [covers, ahead, back] = [k.floats(mattes, width), k.floats(fronts, width * 4), k.floats(behind, width * 4)];
    const put = (o: number, share: number): void => {
      for (let c = 0; c < 3; c++) back[o + c] = cover * (top![c]! + (bottom![c]! - top![c]!) * share);
      back[o + 3] = cover;
    };
    return (y) => {
      const [from, to] = [y * width, (y + 1) * width];
      covers.set(coverage.subarray(from, to));
      ahead.set(front.data.subarray(from * 4, to * 4));
      if (own) back.set(own.data.subarray(from * 4, to * 4));
      else if (away) for (let x = 0; x < width; x++) put(x * 4, awayShare(distance.data[from + x]! / p.beyond));
      else put(0, (y + 0.5) / height);
      k.run.backdropRow(row, mattes, fronts, behind, own || away ? 16 : 0, width, p.spill / 100);
    };
  });
  const stood: Plane = newPlane(width, height, run.shared);
  for (let i = 0; i < stood.data.length; i++) stood.data[i] = coverage[i]! >= 0.5 ? distance.data[i]! : p.stands;
  return { picture: out, distance: stood };
}

/** Everything beyond a distance becomes a colour, a ramp, a picture or nothing, and stands at a distance of its own. */
export const backdrop = defineEffect({
  kind: 'backdrop',
  group: 'surface',
  label: 'Backdrop',
  help: 'Puts a colour, a ramp, a picture or nothing behind what is near',
  params,
  takesStill: true,
  needs: () => ['cut', 'distance'],
  startOn: ({ subject, behind }) => ({ beyond: behind, stands: Number(Math.max(4 * subject, 1.5 * behind).toPrecision(2)) }),
  picking: { param: 'beyond', by: 1.05, label: 'Pick where it begins in picture', prompt: 'Click the farthest thing that stays' },
  cuts: (p) => ({ from: 0, to: p.beyond, near: 0, far: 0, outside: false }),
  summary: (p) => `beyond ${formatMetres(p.beyond)}`,
  lane: (p) => ({
    caption: `Backdrop: beyond ${formatMetres(p.beyond)}, stands at ${formatMetres(p.stands)}`,
    points: [
      { distance: p.beyond, strength: 0 },
      { distance: p.beyond, strength: 1 },
      { distance: Infinity, strength: 1 },
    ],
    handles: [
      { param: 'beyond', distance: p.beyond },
      { param: 'stands', distance: p.stands },
    ],
  }),
  apply,
});
