import { matteColours, refinedMatte } from '../../matte/matte';
import type { Plane } from '../../picture';
import { srgbToLinear } from '../../raster/colour';
import { newPicture } from '../../picture';
import type { CheckDefinition, CheckInput } from './definition';

/** Side of a square of the checkerboard, px. */
const SQUARE = 12;
const [DARK, LIGHT] = [0.09, 0.22];

const backs: Readonly<Record<string, (x: number, y: number) => number>> = {
  checkerboard: (x, y) => ((Math.floor(x / SQUARE) + Math.floor(y / SQUARE)) % 2 ? DARK : LIGHT),
  black: () => 0,
  white: () => 1,
};

const NONE = 'Switch on a reach: choose an effect that has one, and “Within a reach”';

/** What the effect in hand acts on, 0..1: the clean matte of its reach, and its region; null where it has neither. */
function keptBy({ picture, distance, reach, region }: Pick<CheckInput, 'picture' | 'distance' | 'reach' | 'region'>): Plane | null {
  if (!reach) return region;
  const { width, height, data } = refinedMatte(picture, distance, reach);
  return { width, height, data: data.map((a, i) => (reach.outside ? 1 - a : a) * (region?.data[i] ?? 1)) };
}

/**
 * The matte of the reach in hand, cleaned along the picture's edges, with the front's own colours over a backdrop on which faults show:
 * fringes of the old backdrop on white and black, holes on the checkerboard.
 */
const over = (kind: string, label: string, help: string, back: (x: number, y: number) => number): CheckDefinition => ({
  kind,
  label,
  help,
  needsReach: true,
  run: (input) => {
    const { picture, raw } = input;
    const { width, height } = picture;
    const marks = { width: raw.width, height: raw.height, data: new Float32Array(raw.data.length) };
    const kept = keptBy(input);
    if (!kept) return { marks, figure: NONE };
    const front = matteColours(picture, kept);
    const shown = newPicture(width, height);
    let covered = 0;
    for (let i = 0; i < kept.data.length; i++) {
      const rest = 1 - front.data[i * 4 + 3]!;
      const light = back(i % width, Math.floor(i / width)) * rest;
      for (let k = 0; k < 3; k++) shown.data[i * 4 + k] = front.data[i * 4 + k]! + light;
      shown.data[i * 4 + 3] = 1;
      covered += kept.data[i]!;
    }
    return { marks, shown, figure: `${((100 * covered) / kept.data.length).toFixed(1)} % of the picture` };
  },
});

/** The coverage itself, as a grey. */
const alone: CheckDefinition = {
  kind: 'matte-alone',
  label: 'Matte alone',
  help: 'How much of each pixel the reach in hand covers',
  needsReach: true,
  run: (input) => {
    const { picture, raw } = input;
    const marks = { width: raw.width, height: raw.height, data: new Float32Array(raw.data.length) };
    const kept = keptBy(input);
    if (!kept) return { marks, figure: NONE };
    const { data } = kept;
    const shown = newPicture(picture.width, picture.height);
    for (let i = 0; i < data.length; i++) {
      const v = srgbToLinear(data[i]!);
      shown.data.set([v, v, v, 1], i * 4);
    }
    const covered = data.reduce((a, b) => a + b, 0) / data.length;
    return { marks, shown, figure: `${(100 * covered).toFixed(1)} % of the picture` };
  },
};

export const mattes: readonly CheckDefinition[] = [
  alone,
  over('matte', 'Matte', 'What the reach in hand covers, over a checkerboard', backs.checkerboard!),
  over('matte-black', 'Matte over black', 'Shows light fringes of the old backdrop', backs.black!),
  over('matte-white', 'Matte over white', 'Shows dark ones', backs.white!),
];
