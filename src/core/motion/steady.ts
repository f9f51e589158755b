import type { Plane } from '../raster/picture';
import { fitToBefore, jointLevels, levelled, type Levels, type PairFit } from './align';
import { clampUnit } from '../scalar';
import { bilinear } from './bilinear';
import { flickersOf, meanFlicker } from './flicker';
import type { Link, Links } from './links';
import { USUAL_FOCAL, withParallax } from './parallax';

/** An earlier value counts a quarter where it differs by so many times what maps flicker by, within these bounds: far more than noise, less than the step at an edge, which flow may miss by a pixel. */
const SOFT_TIMES = 4.5;
const SOFTEST = 0.2;
const FIRMEST = 0.06;
/** Variance of luma between two views of a point: noise of the sensor, and so much of a pixel by which flow may miss, on the picture's slope. */
const NOISE2 = 100;
const MISS2 = 0.25;

/** So many frames the running mean may stand for, for a strength 0..100. */
export const memoryOf = (strength: number): number => 60 * (strength / 100) ** 2;

/** Variance of luma to be expected between two views of each pixel. Without the part of the slope fine texture gets random weights and the result speckles. */
function expectedNoise({ width: w, height: h, data }: Plane): Float32Array {
  const out = new Float32Array(w * h);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const gx = 0.5 * (data[x + 1 < w ? i + 1 : i]! - data[x > 0 ? i - 1 : i]!);
      const gy = 0.5 * (data[y + 1 < h ? i + w : i]! - data[y > 0 ? i - w : i]!);
      out[i] = NOISE2 + MISS2 * (gx * gx + gy * gy);
    }
  return out;
}

/** A running mean along flow, and for how many frames each of its pixels stands. */
interface Mean {
  readonly value: Float32Array;
  readonly count: Float32Array;
}

function carriedOn(map: Plane, luma: Plane, link: Link | null, last: Mean | null, lumaLast: Plane | null, memory: number, soft: number): Mean {
  const { width: w, height: h, data } = map;
  if (!link || !last || !lumaLast) return { value: data.slice(), count: new Float32Array(data.length).fill(1) };
  const value = new Float32Array(data.length);
  const count = new Float32Array(data.length);
  const noise = expectedNoise(luma);
  const { flow, seen } = link;
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const v = data[i]!;
      let k = 0;
      let old = 0;
      if (seen[i]) {
        const tx = x + flow.u[i]!;
        const ty = y + flow.v[i]!;
        old = bilinear(last.value, w, h, tx, ty);
        const off = bilinear(lumaLast.data, w, h, tx, ty) - luma.data[i]!;
        const jump = (old - v) / soft;
        const like = 1 / (1 + jump * jump);
        k = Math.min(memory, bilinear(last.count, w, h, tx, ty)) * Math.exp(-(off * off) / (2 * noise[i]!)) * like * like;
      }
      value[i] = (v + k * old) / (1 + k);
      count[i] = 1 + k;
    }
  return { value, count };
}

/** How far maps of one frame and the next may differ and still be taken for the same. Of maps that were found on every so many frames the change from one to the next is spread over those between. */
function softnessOf(maps: readonly Plane[], before: Links['before'], every: number): number {
  const flicker = meanFlicker(flickersOf(maps, before));
  return Math.min(SOFTEST, Math.max(FIRMEST, SOFT_TIMES * every * flicker));
}

/**
 * A recursive mean along flow, forward and backward. Both sweeps hold the frame itself once, so that
 * out = (N_F·M_F + N_B·M_B − n) / (N_F + N_B − 1): an exponential window on both sides for two warps a frame, however long its memory.
 * Nothing is averaged but along flow, so that moving edges do not double. Maps and luma (0..255) of one size; `every`: maps were found
 * on every so many frames and carried to those between. `look` hears the share done.
 */
export function steadyAlongFlow(
  maps: readonly Plane[],
  lumas: readonly Plane[],
  { next, before }: Links,
  memory: number,
  every = 1,
  look: (share: number) => void = () => undefined,
): readonly Plane[] {
  const n = maps.length;
  const soft = softnessOf(maps, before, every);
  const forward: Mean[] = [];
  for (let t = 0; t < n; t++) {
    look((0.5 * t) / n);
    forward.push(carriedOn(maps[t]!, lumas[t]!, before[t] ?? null, forward[t - 1] ?? null, lumas[t - 1] ?? null, memory, soft));
  }
  const out = new Array<Plane>(n);
  let last: Mean | null = null;
  for (let t = n - 1; t >= 0; t--) {
    look(0.5 + (0.5 * (n - 1 - t)) / n);
    const backward: Mean = carriedOn(maps[t]!, lumas[t]!, next[t] ?? null, last, lumas[t + 1] ?? null, memory, soft);
    const { value, count } = forward[t]!;
    const data = new Float32Array(value.length);
    for (let i = 0; i < data.length; i++) {
      const [a, b] = [count[i]!, backward.count[i]!];
      data[i] = (a * value[i]! + b * backward.value[i]! - maps[t]!.data[i]!) / (a + b - 1);
    }
    out[t] = { ...maps[t]!, data };
    last = backward;
  }
  return out;
}

/** Maps of one or more scenes made steady: scale and shift jitter out, then the mean along flow. */
export interface Steadied {
  readonly maps: readonly Plane[];
  readonly levels: readonly Levels[];
}

/** How maps are made steady. */
export interface SteadyHow {
  /** 0..100 */
  readonly strength: number;
  /** maps were found on every so many frames, and carried to those between */
  readonly every?: number;
  /** levels that some frames have already, where a long scene is done in pieces */
  readonly pinned?: ReadonlyMap<number, Levels>;
  /** maps are corrected by the parallax between frames, where the camera's own way shows in it */
  readonly parallax?: boolean;
}

/**
 * Makes maps of nearness 0..1 steady that were found frame by frame: one scale and shift a frame, found for all frames at once, then the
 * recursive mean along flow. What the levels lift beyond the ends lies at them.
 */
export function steadyMaps(
  maps: readonly Plane[],
  lumas: readonly Plane[],
  links: Links,
  { strength, every, pinned, parallax = false }: SteadyHow,
  look: (share: number) => void = () => undefined,
): Steadied {
  const fits: (PairFit | null)[] = maps.map((map, t) => (t > 0 ? fitToBefore(map, maps[t - 1]!, links.before[t] ?? null) : null));
  look(0.3);
  const levels = jointLevels(fits, pinned);
  const even = maps.map((m, t) => levelled(m, levels[t]!));
  // before the mean, which makes its errors steady too
  const told = parallax ? withParallax(even, lumas, links, USUAL_FOCAL, (share) => look(0.3 + 0.4 * share)).maps : even;
  const begun = parallax ? 0.7 : 0.3;
  const steady = steadyAlongFlow(told, lumas, links, memoryOf(strength), every, (share) => look(begun + (1 - begun) * share));
  return { maps: steady.map((m) => ({ ...m, data: m.data.map(clampUnit) })), levels };
}
