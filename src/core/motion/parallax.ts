import { boxMean } from '../raster/filters';
import type { Plane, Size } from '../picture';
import { fitPair } from './align';
import { egoMotion, inverseDepth, isTrusted, type EgoMotion, type Vector } from './egoMotion';
import { guidedPlane } from './guidedPlane';
import { chained, type Link, type Links } from './links';

/** Focal length for a field of view of 50°, as a share of the width: what is found depends little on it. */
export const USUAL_FOCAL = 0.5 / Math.tan((25 * Math.PI) / 180);
/** Frames to which each is compared: the next covers most, the fourth measures what is far better. */
const REACHES = [1, 4] as const;
/** Spread of an estimate's nearness, and of what parallax tells at its best. */
const ESTIMATE_SPREAD = 0.12;
const LEAST_SPREAD = 0.01;
/** Where both differ by more than this, parallax is believed less and less. */
const GATE = 0.25;
/** Corrections reach so far, px of a picture 480 wide. */
const RADIUS = 20;
/** Directions are searched anew every so many frames, and followed between. */
const SEARCH_EVERY = 8;
/** Width of the border that something which moves keeps to itself, px. */
const MOVER_BORDER = 3;

/** What parallax tells of a frame, in the nearness of its map. */
export interface ParallaxCue {
  readonly nearness: Float32Array;
  /** 1 / variance; 0 where it tells nothing */
  readonly weight: Float32Array;
  /** 0..1 where something moves by itself */
  readonly moves: Plane;
  /** pairs of frames that were believed; 0: it must not be used */
  readonly used: number;
}

/** The way over several frames. */
function linkAcross({ next, before }: Links, t: number, by: number, size: Size): Link | null {
  const list = by > 0 ? next : before;
  let link = list[t] ?? null;
  for (let s = t + Math.sign(by); link && s !== t + by; s += Math.sign(by)) {
    const further = list[s];
    link = further ? chained(link, further, size) : null;
  }
  return link;
}

/** What parallax tells of a frame. `near`: the ways found last, by reach; it is written. `search`: they are looked for anew. */
function cueAt(map: Plane, links: Links, t: number, focal: number, near: Map<number, Vector>, search: boolean): ParallaxCue {
  const n = map.data.length;
  const nearness = new Float32Array(n);
  const weight = new Float32Array(n);
  const moves = new Float32Array(n);
  let used = 0;
  for (const by of REACHES.flatMap((k) => [-k, k])) {
    const link = linkAcross(links, t, by, map);
    if (!link) continue;
    const known = search ? null : (near.get(by) ?? null);
    let motion: EgoMotion = egoMotion(link, focal, known);
    if (known && !isTrusted(motion)) motion = egoMotion(link, focal);
    near.set(by, motion.way);
    if (!isTrusted(motion)) continue;
    const { value, spread, moves: own } = inverseDepth(link, motion, focal);
    const x: number[] = [];
    const y: number[] = [];
    for (let i = 0; i < n; i += 5)
      if (spread[i]! < Infinity) {
        x.push(value[i]!);
        y.push(map.data[i]!);
      }
    // its scale and shift are free: they come from the estimate
    const fit = fitPair(Float32Array.from(x), Float32Array.from(y));
    // where the estimate says the opposite one of the two is badly wrong
    if (fit.scale <= 0 || fit.share < 0.3) continue;
    used++;
    for (let i = 0; i < n; i++) {
      if (own[i]) moves[i] = 1;
      if (spread[i] === Infinity) continue;
      const k = 1 / ((fit.scale * spread[i]!) ** 2 + LEAST_SPREAD ** 2);
      weight[i]! += k;
      nearness[i]! += k * (fit.meanY + fit.scale * (value[i]! - fit.meanX));
    }
  }
  for (let i = 0; i < n; i++) if (weight[i]! > 0) nearness[i]! /= weight[i]!;
  return { nearness, weight, moves: boxMean({ ...map, data: moves }, MOVER_BORDER), used };
}

/**
 * A map corrected by what parallax tells: by its weight where that is known, elsewhere by the correction of like-coloured surroundings. What
 * moves by itself keeps its estimate, since its flow is not the camera's. Luma 0..255.
 */
export function corrected(map: Plane, { nearness, weight, moves }: ParallaxCue, luma: Plane): Plane {
  const own = 1 / ESTIMATE_SPREAD ** 2;
  const apart = new Float32Array(map.data.length);
  const trust = new Float32Array(map.data.length);
  for (let i = 0; i < apart.length; i++) {
    if (weight[i] === 0) continue;
    apart[i] = nearness[i]! - map.data[i]!;
    trust[i] = (weight[i]! / (weight[i]! + own) / (1 + (apart[i]! / GATE) ** 4)) * Math.max(0, 1 - 2 * moves.data[i]!);
  }
  const guide = { ...luma, data: luma.data.map((v) => v / 255) };
  const radius = Math.max(2, Math.round((RADIUS * map.width) / 480));
  const spread = guidedPlane(guide, { ...map, data: apart }, radius, 1e-3, { ...map, data: trust });
  return {
    ...map,
    data: map.data.map((v, i) => v + trust[i]! * apart[i]! + (1 - trust[i]!) * Math.max(0, 1 - 2 * moves.data[i]!) * spread.data[i]!),
  };
}

/**
 * Maps of one scene corrected by the parallax between its frames, where the camera's own translation shows in it; others stay as they are, to the
 * bit. `focal`: share of the width. `onProgress` hears the share done. How many pairs were believed is told besides.
 */
export function withParallax(
  maps: readonly Plane[],
  lumas: readonly Plane[],
  links: Links,
  focal = USUAL_FOCAL,
  onProgress: (share: number) => void = () => undefined,
): { readonly maps: readonly Plane[]; readonly believed: number } {
  const near = new Map<number, Vector>();
  let believed = 0;
  const out = maps.map((map, t) => {
    onProgress(t / maps.length);
    const cue = cueAt(map, links, t, focal * map.width, near, t % SEARCH_EVERY === 0);
    believed += cue.used;
    return cue.used > 0 ? corrected(map, cue, lumas[t]!) : map;
  });
  return { maps: out, believed };
}
