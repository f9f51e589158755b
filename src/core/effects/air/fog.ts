import { workedRows } from '../../kernels/workedRows';
import { parseHex, srgbToLinear } from '../../raster/colour';
import type { Picture, Plane } from '../../picture';
import { choice, colour, count, formatMetres, metres, metresPerSecond, percent, toggle, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput, type RenderLens } from '../definition';
import { airPatches } from './patches';

/** Contrast that is left at the distance of visibility: 2 % (Koschmieder 1924). */
const EXTINCTION = -Math.log(0.02);
/** From here on there is nothing but sky, m. */
const SKY = 1e6;
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

/** Mean density of the air on a straight way between two heights, of that below the level: it falls exponentially above it, in closed form. */
export function meanDensity(from: number, to: number, thins: number): number {
  const [low, high] = from < to ? [from, to] : [to, from];
  const rise = Math.max(high - low, 1e-20);
  const below = Math.min(1, Math.max(0, -low / rise));
  const foot = Math.max(0, low);
  // ∫ exp(−h/H) dh over the part above the level, over its length
  const q = Math.max(0, high - foot) / thins;
  const mean = q > 0 ? -Math.expm1(-q) / q : 1;
  return below + (1 - below) * Math.exp(-foot / thins) * mean;
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

/** What the kernel is told of what there is to do, as bits. */
const DOES = { low: 1, takes: 2, uneven: 4 } as const;

/** What fog is made of, as the kernel and its twin take it. */
export interface FogPlan {
  readonly focalPx: number;
  /** px */
  readonly width: number;
  readonly height: number;
  /** m */
  readonly start: number;
  /** 1/m */
  readonly sigma: number;
  /** share that the sky takes */
  readonly over: number;
  /** linear light */
  readonly colour: readonly number[];
  readonly low: boolean;
  readonly takes: boolean;
  /** m */
  readonly eye: number;
  readonly thins: number;
  readonly up: { readonly y: number; readonly z: number };
}

/** Tangent of a row of pixels, and the height gained for each metre of distance from the camera plane. */
function rowOf({ height, focalPx, up }: FogPlan, y: number): { readonly dy: number; readonly rise: number } {
  const dy = (y + 0.5 - height / 2) / focalPx;
  return { dy, rise: up.y * dy + up.z };
}

/** What the kernel does to one pixel, RGBA: the share of its light that comes through decides. `uneven` is a multiple of the air's density. */
export function fogTwin(plan: FogPlan, x: number, y: number, z: number, pixel: readonly number[], uneven = 1): number[] {
  const { dy, rise } = rowOf(plan, y);
  const dx = (x + 0.5 - plan.width / 2) / plan.focalPx;
  const end = z < SKY ? z : SKY;
  // metres of ray for each metre of distance from the camera plane
  let depth = plan.sigma * Math.max(0, end - plan.start) * Math.sqrt(1 + dx * dx + dy * dy) * uneven;
  if (plan.low) depth *= meanDensity(plan.eye + rise * plan.start, plan.eye + rise * end, plan.thins);
  const through = 1 - (1 - Math.exp(-depth)) * (z < SKY ? 1 : plan.over);
  // taken away: the same law, solved for the light of the scene
  const left = plan.takes ? Math.max(LEAST_LEFT, through) : through;
  return [...plan.colour, 1].map((air, k) => {
    const added = (1 - left) * air * pixel[3]!;
    return plan.takes ? Math.max(0, pixel[k]! - added) / left : pixel[k]! * left + added;
  });
}

export function fogPlan({ picture, distance, lens, params: p }: EffectInput<FogValues>): FogPlan {
  const { width, height } = picture;
  return {
    focalPx: lens.focalPx,
    width,
    height,
    start: p.start,
    sigma: EXTINCTION / p.visibility,
    over: p.sky / 100,
    colour: p.from === 'picture' ? farthestColour(picture, distance) : parseHex(p.colour).map(srgbToLinear),
    low: p.low,
    takes: p.act === 'taken',
    eye: p.eye,
    thins: p.thins,
    up: upOf(p.horizon, height, lens),
  };
}

function apply(input: EffectInput<FogValues>): Picture {
  const { picture, distance, params: p, run } = input;
  const { width } = picture;
  const plan = fogPlan(input);
  const how = (plan.low ? DOES.low : 0) + (plan.takes ? DOES.takes : 0) + (p.patches > 0 ? DOES.uneven : 0);
  const { focalPx, start, sigma, over, colour, eye, thins } = plan;
  return workedRows(picture, run, (k, row) => {
    const numbers = k.put(Float32Array.from([focalPx, width / 2, start, sigma, over, ...colour, 1, eye, 1 / thins]));
    const patches = p.patches > 0 ? airPatches(input, k) : null;
    const [far, uneven] = [k.room(width), k.room(width)];
    return (y) => {
      k.floats(far, width).set(distance.data.subarray(y * width, (y + 1) * width));
      patches?.meansTo(y, far, width, uneven);
      const { dy, rise } = rowOf(plan, y);
      k.run.fogRow(row, far, uneven, width, numbers, dy, rise, how);
    };
  });
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
