import { parseHex, srgbToLinear } from '../../raster/colour';
import { newPicture, type Picture, type Plane } from '../../raster/picture';
import { choice, colour, count, formatMetres, metres, metresPerSecond, percent, toggle, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput, type RenderLens } from '../definition';
import { airPatches } from './patches';

/** Contrast that is left at the distance of visibility: 2 % (Koschmieder 1924). */
const EXTINCTION = -Math.log(0.02);
/** From here on there is nothing but sky, m. */
const SKY = 1e6;
const ROWS_PER_LOOK = 32;
/** Taking fog away: no less of the scene's own light is reckoned with. */
const LEAST_LEFT = 0.12;

const LOW = { low: [true] };

const params = {
  act: choice({
    section: 'Fog',
    label: 'Fog is',
    default: 'added',
    options: [
      { value: 'added', label: 'Added' },
      { value: 'taken', label: 'Taken away' },
    ],
    help: 'Taken away: what the air of the plate has hidden is brought back, as far as it can be',
  }),
  start: metres({
    section: 'Fog',
    label: 'Starts at',
    min: 0.1,
    max: 3000,
    lowest: 0,
    highest: 1e6,
    default: 0,
    help: 'The air is clear up to here',
  }),
  visibility: metres({
    section: 'Fog',
    label: 'Visibility',
    min: 0.5,
    max: 50000,
    lowest: 0.05,
    highest: 1e7,
    default: 60,
    help: 'Distance at which contrast falls to 2 %',
  }),
  from: choice({
    section: 'Fog',
    label: 'Colour',
    default: 'picture',
    options: [
      { value: 'picture', label: 'From picture' },
      { value: 'set', label: 'As set' },
    ],
    help: 'That of what lies farthest, or one of your own',
  }),
  colour: colour({ section: 'Fog', label: 'Own colour', only: { from: ['set'] }, default: '#c9d2d8' }),
  sky: percent({ section: 'Fog', label: 'Over the sky', min: 0, max: 100, default: 100, help: 'How much of it the sky takes' }),
  low: toggle({ section: 'Height', label: 'Lies low', default: false, help: 'Thins out with height above a level' }),
  eye: metres({
    section: 'Height',
    only: LOW,
    label: 'Camera above it',
    min: -20,
    max: 100,
    lowest: -10000,
    highest: 10000,
    scale: 'linear',
    default: 1.6,
    help: 'Height of the camera above the level up to which it is thickest',
  }),
  thins: metres({
    section: 'Height',
    only: LOW,
    label: 'Thins out by',
    min: 0.1,
    max: 500,
    lowest: 0.01,
    highest: 1e5,
    default: 3,
    help: 'Height over which it falls to 37 %',
  }),
  horizon: percent({
    section: 'Height',
    only: LOW,
    label: 'Horizon',
    min: -50,
    max: 150,
    lowest: -1000,
    highest: 1000,
    decimals: 1,
    default: 50,
    help: 'From the top of the picture: tells which way is up',
  }),
  patches: percent({ section: 'Patches', label: 'Patches', min: 0, max: 100, default: 0, help: 'How unevenly it lies in the air' }),
  size: metres({ section: 'Patches', label: 'Size', min: 0.1, max: 200, lowest: 0.02, highest: 1e4, default: 4 }),
  wind: metresPerSecond({ section: 'Patches', label: 'Wind', min: -5, max: 5, lowest: -100, highest: 100, default: 0.5, help: 'To the right' }),
  seed: count({ section: 'Patches', label: 'Seed', min: 1, max: 99, highest: 99999, default: 1 }),
};
export type FogValues = ValuesOf<typeof params>;

/** How thick the air is over a stretch of a ray: its density at both heights and between them is exponential above the level, even below it. */
export function densityAlong(low: number, high: number, length: number, thins: number): number {
  const [a, b] = low < high ? [low, high] : [high, low];
  if (b <= 0) return length;
  const rise = b - a;
  if (rise < 1e-6 * thins) return length * Math.exp(-Math.max(0, a) / thins);
  const below = Math.max(0, Math.min(b, 0) - a) / rise;
  const from = Math.max(0, a);
  // ∫ exp(−h/H) dh over the part above the level, in closed form
  const above = (thins / rise) * (Math.exp(-from / thins) - Math.exp(-b / thins));
  return length * (below + above);
}

/** The colour of what lies farthest, linear light: the mean over the farthest twentieth of the picture. */
export function farthestColour({ data }: Picture, distance: Plane): readonly [number, number, number] {
  const step = Math.max(1, Math.floor(distance.data.length / 40000));
  const places: number[] = [];
  for (let i = 0; i < distance.data.length; i += step) if (data[i * 4 + 3]! > 0.5) places.push(i);
  const sorted = Float32Array.from(places, (i) => distance.data[i]!).sort();
  const count = Math.max(1, Math.floor(places.length / 20));
  const least = sorted[sorted.length - count]!;
  // of those that lie equally far, the first
  let left = count;
  for (let k = sorted.length - 1; k >= 0 && sorted[k]! > least; k--) left--;
  const sum = [0, 0, 0];
  for (const i of places) {
    const z = distance.data[i]!;
    if (z < least || (z === least && left-- <= 0)) continue;
    // what is seen through is divided by its coverage; lamps count as white
    for (let k = 0; k < 3; k++) sum[k]! += Math.min(1, data[i * 4 + k]! / data[i * 4 + 3]!) / count;
  }
  return places.length > 0 ? [sum[0]!, sum[1]!, sum[2]!] : [0.6, 0.6, 0.6];
}

function apply(input: EffectInput<FogValues>): Picture {
  const { picture, distance, lens, params: p, run } = input;
  const { width, height, data } = picture;
  const out = newPicture(width, height, run.shared);
  const light = p.from === 'picture' ? farthestColour(picture, distance) : parseHex(p.colour).map(srgbToLinear);
  const [r, g, b] = [light[0], light[1], light[2]];
  const sigma = EXTINCTION / p.visibility;
  const over = p.sky / 100;
  const up = upOf(p.horizon, height, lens);
  const uneven = p.patches > 0 ? airPatches(input) : null;
  const takes = p.act === 'taken';
  for (let y = 0; y < height; y++) {
    if (y % ROWS_PER_LOOK === 0) run.checkpoint(y / height);
    const dy = (y + 0.5 - height / 2) / lens.focalPx;
    // height gained for each metre of distance from the camera plane
    const rise = up.y * dy + up.z;
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const z = distance.data[i]!;
      const dx = (x + 0.5 - width / 2) / lens.focalPx;
      // metres of ray for each metre of distance from the camera plane
      const k = Math.sqrt(1 + dx * dx + dy * dy);
      const end = z < SKY ? z : SKY;
      let depth = 0;
      if (end > p.start) {
        const length = (end - p.start) * k;
        depth = p.low ? sigma * densityAlong(p.eye + rise * p.start, p.eye + rise * end, length, p.thins) : sigma * length;
        if (uneven) depth *= uneven.meanTo(x, y, end);
      }
      let taken = 1 - Math.exp(-depth);
      if (!(z < SKY)) taken *= over;
      const alpha = data[i * 4 + 3]!;
      const o = i * 4;
      out.data[o + 3] = alpha;
      if (takes) {
        // the same law, solved for the light of the scene
        const left = Math.max(LEAST_LEFT, 1 - taken);
        const a = (1 - left) * alpha;
        out.data[o] = Math.max(0, data[o]! - r * a) / left;
        out.data[o + 1] = Math.max(0, data[o + 1]! - g * a) / left;
        out.data[o + 2] = Math.max(0, data[o + 2]! - b * a) / left;
        continue;
      }
      const a = taken * alpha;
      const left = 1 - taken;
      out.data[o] = data[o]! * left + r * a;
      out.data[o + 1] = data[o + 1]! * left + g * a;
      out.data[o + 2] = data[o + 2]! * left + b * a;
    }
  }
  return out;
}

/** Which way is up in the camera's axes (y down, z forward), from the row of the horizon: rays through it run level. */
export function upOf(horizon: number, height: number, lens: RenderLens): { readonly y: number; readonly z: number } {
  const tan = ((horizon / 100 - 0.5) * height) / lens.focalPx;
  const length = Math.hypot(1, tan);
  return { y: -1 / length, z: tan / length };
}

/**
 * Fog: L = L₀·t + A·(1−t), t = exp(−∫σ) along the ray in linear light, σ = 3.912/visibility (Koschmieder 1924); where it lies low, σ falls
 * exponentially above a level, in closed form along the ray.
 */
export const fog = defineEffect({
  kind: 'fog',
  group: 'air',
  label: 'Fog',
  help: 'Air that takes contrast by distance, everywhere or lying low',
  params,
  reach: true,
  needs: (p) => ['distance', 'lens', ...(p.patches > 0 ? (['camera'] as const) : []), ...(p.patches > 0 && p.wind !== 0 ? (['time'] as const) : [])],
  // the subject is kept out of the worst of it
  startOn: ({ far, subject }) => ({
    start: Number((0.6 * subject).toPrecision(2)),
    visibility: Number((0.6 * subject + 2.2 * Math.min(far, 40 * subject)).toPrecision(2)),
    size: Number(Math.max(0.2, 0.12 * Math.min(far, 40 * subject)).toPrecision(2)),
  }),
  picking: { param: 'start', label: 'Pick its beginning in picture', prompt: 'Click where the fog should begin' },
  summary: (p) => `${p.act === 'taken' ? 'less ' : ''}${formatMetres(p.visibility)}`,
  lane: ({ start, visibility }) => ({
    caption: `Fog: visibility ${formatMetres(visibility)}`,
    points: [0, 0.05, 0.125, 0.25, 0.5, 1].map((share) => ({
      distance: start + share * visibility,
      strength: 1 - Math.exp(-EXTINCTION * share),
    })),
    handles: [
      { param: 'start', distance: start },
      { param: 'visibility', distance: start + visibility, from: start },
    ],
  }),
  apply,
});
