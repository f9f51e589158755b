import { guidedPlane } from './guidedPlane';
import { addTold, boxMeans } from '../kernels/motionHost';
import type { Plane, Size } from '../picture';
import { fitToBefore, jointLevels, levelled } from './align';
import { chained, wayOf, type Link, type Links } from './links';

/** Spread of luma within which two views of a point are taken for the same. */
const LIKE = 14;
/** What a pixel that is hidden on the way still counts. */
const HIDDEN = 0.003;
/** Weight from which a pixel is known. */
const KNOWN = 0.02;
const FILL_RADIUS = 8;
const FILL_EPSILON = 1e-3;

/** The way from a frame to another some frames off, over those between. */
function over({ next, before }: Links, from: number, to: number, size: Size): Link | null {
  const step = Math.sign(to - from);
  let way: Link | null = null;
  for (let t = from; t !== to; t += step) {
    const link: Link | null = (step > 0 ? next[t] : before[t]) ?? null;
    if (!link) return null;
    way = way ? chained(way, link, size) : link;
  }
  return way;
}

/**
 * Maps for all frames of a scene from those of some, its keys; the first and the last are among them. The keys are brought to common levels, then each
 * frame between takes both of its keys along flow, by nearness in time, visibility and likeness of colour; what is hidden in both is filled
 * from like-coloured neighbours. `onProgress` hears the share done.
 */
export function fromKeys(
  maps: readonly (Plane | null)[],
  lumas: readonly Plane[],
  links: Links,
  onProgress: (share: number) => void = () => undefined,
): readonly Plane[] {
  const frames = maps.length;
  const keys = maps.flatMap((map, t) => (map ? [t] : []));
  const found = keys.map((t) => maps[t]!);
  const fits = found.map((map, k) => (k > 0 ? fitToBefore(map, found[k - 1]!, over(links, keys[k]!, keys[k - 1]!, map)) : null));
  const levels = jointLevels(fits);
  const out = new Array<Plane | null>(frames).fill(null);
  keys.forEach((t, k) => (out[t] = levelled(found[k]!, levels[k]!)));
  return out.map((map, t) => {
    onProgress(t / frames);
    return map ?? between(t, out, keys, lumas, links);
  });
}

function between(t: number, maps: readonly (Plane | null)[], keys: readonly number[], lumas: readonly Plane[], links: Links): Plane {
  const { width, height } = lumas[t]!;
  const sum = new Float32Array(width * height);
  const total = new Float32Array(width * height);
  const add = (key: number | undefined): void => {
    const way = key === undefined ? null : over(links, t, key, lumas[t]!);
    if (!way) return;
    const told = { way: wayOf(way), map: maps[key!]!, there: lumas[key!]!, here: lumas[t]! };
    addTold({ ...told, near: 1 / Math.abs(t - key!), hidden: HIDDEN, like: LIKE }, sum, total);
  };
  add(keys.filter((k) => k < t).pop());
  add(keys.find((k) => k > t));
  const guide = new Float32Array(sum.length);
  let hidden = 0;
  // the sums become what they stand for: the mean, and how well it is known
  for (let i = 0; i < sum.length; i++) {
    sum[i]! /= total[i]!;
    total[i] = Math.min(1, total[i]! / KNOWN);
    guide[i] = lumas[t]!.data[i]! / 255;
    if (total[i]! < 1) hidden++;
  }
  const mean = { width, height, data: sum };
  if (hidden === 0) return mean;
  const fill = guidedPlane({ width, height, data: guide }, mean, FILL_RADIUS, FILL_EPSILON, { width, height, data: total });
  keepWithin(fill, mean, total);
  for (let i = 0; i < sum.length; i++) sum[i]! += (1 - total[i]!) * (fill.data[i]! - sum[i]!);
  return mean;
}

/** So many standard deviations from the mean of what is known around. */
const MOST_OFF = 2;
const LEAST_WEIGHT = 1e-4;

/** Keeps what was filled, in place, within what is known around it: a line of brightness leads far off where something is much brighter than all else. */
function keepWithin(fill: Plane, { width, height, data }: Plane, known: Float32Array): void {
  const weight = known.map((k) => k + LEAST_WEIGHT);
  const once = weight.map((w, i) => w * data[i]!);
  const squared = once.map((v, i) => v * data[i]!);
  const [total, first, second] = boxMeans([weight, once, squared], width, height, FILL_RADIUS) as [Float32Array, Float32Array, Float32Array];
  for (let i = 0; i < data.length; i++) {
    const mean = first[i]! / total[i]!;
    const most = MOST_OFF * Math.sqrt(Math.max(0, second[i]! / total[i]! - mean * mean));
    fill.data[i] = Math.min(mean + most, Math.max(mean - most, fill.data[i]!));
  }
}
