import { carriedMean, type Mean } from '../kernels/motionHost';
import type { Plane } from '../picture';
import { fitToBefore, jointLevels, levelled, type Levels, type PairFit } from './align';
import { clampUnit } from '../scalar';
import { flickersOf, meanFlicker } from './flicker';
import { wayOf, type Link, type Links } from './links';
import { USUAL_FOCAL, withParallax } from './parallax';

/** An earlier value counts a quarter where it differs by so many times what maps flicker by, within these bounds: far more than noise, less than the step at an edge, which flow may miss by a pixel. */
const SOFT_TIMES = 4.5;
const SOFTEST = 0.2;
const FIRMEST = 0.06;
/**
 * Variance of luma between two views of a point: noise of the sensor, and so much of a pixel by which flow may miss, on the picture's slope.
 * Without the part of the slope fine texture gets random weights and the result speckles.
 */
const NOISE2 = 100;
const MISS2 = 0.25;

/** So many frames the running mean may stand for, for a strength 0..100. */
export const memoryOf = (strength: number): number => 60 * (strength / 100) ** 2;

function carriedOn(map: Plane, luma: Plane, link: Link | null, last: Mean | null, lumaLast: Plane | null, memory: number, soft: number): Mean {
  if (!link || !last || !lumaLast) return { value: map.data.slice(), count: new Float32Array(map.data.length).fill(1) };
  return carriedMean(map, luma, wayOf(link), last, lumaLast, { memory, soft, noise: NOISE2, miss: MISS2 });
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
 * on every so many frames and carried to those between. `onProgress` hears the share done.
 */
export function steadyAlongFlow(
  maps: readonly Plane[],
  lumas: readonly Plane[],
  { next, before }: Links,
  memory: number,
  every = 1,
  onProgress: (share: number) => void = () => undefined,
): readonly Plane[] {
  const n = maps.length;
  const soft = softnessOf(maps, before, every);
  const forward: Mean[] = [];
  for (let t = 0; t < n; t++) {
    onProgress((0.5 * t) / n);
    forward.push(carriedOn(maps[t]!, lumas[t]!, before[t] ?? null, forward[t - 1] ?? null, lumas[t - 1] ?? null, memory, soft));
  }
  const out = new Array<Plane>(n);
  let last: Mean | null = null;
  for (let t = n - 1; t >= 0; t--) {
    onProgress(0.5 + (0.5 * (n - 1 - t)) / n);
    const backward: Mean = carriedOn(maps[t]!, lumas[t]!, next[t] ?? null, last, lumas[t + 1] ?? null, memory, soft);
    // of a long scene these are hundreds of megabytes: each is let go as soon as it has served, and the result takes its place
    const { value, count } = forward.pop()!;
    for (let i = 0; i < value.length; i++) {
      const [a, b] = [count[i]!, backward.count[i]!];
      value[i] = (a * value[i]! + b * backward.value[i]! - maps[t]!.data[i]!) / (a + b - 1);
    }
    out[t] = { ...maps[t]!, data: value };
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
  onProgress: (share: number) => void = () => undefined,
): Steadied {
  const fits: (PairFit | null)[] = maps.map((map, t) => (t > 0 ? fitToBefore(map, maps[t - 1]!, links.before[t] ?? null) : null));
  onProgress(0.3);
  const levels = jointLevels(fits, pinned);
  const even = maps.map((m, t) => levelled(m, levels[t]!));
  // before the mean, which makes its errors steady too
  const told = parallax ? withParallax(even, lumas, links, USUAL_FOCAL, (share) => onProgress(0.3 + 0.4 * share)).maps : even;
  const begun = parallax ? 0.7 : 0.3;
  const steady = steadyAlongFlow(told, lumas, links, memoryOf(strength), every, (share) => onProgress(begun + (1 - begun) * share));
  for (const { data } of steady) for (let i = 0; i < data.length; i++) data[i] = clampUnit(data[i]!);
  return { maps: steady, levels };
}
