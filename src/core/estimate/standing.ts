import { newPlane, type Plane } from '../picture';
import type { CueInput } from './cue';
import { joinPatches } from './regions';

/** Regions are found at several scales, because no one scale fits every thing. */
const SCALES = [0.12, 0.3, 0.7];

/** A region stands where this share of its height, or more, rises above the horizon. */
const RISES = 0.25;

/** Things narrower than this share of the picture have one foot; wider ones, such as walls, have one in every column. */
const ONE_FOOT = 0.15;
const MANY_FEET = 0.45;

/** Width (share of the picture) below which a thing that the lower border cuts off may be no ground, and how far that is believed. */
const NARROW = 0.5;
const CUT_OFF = 0.6;

interface Region {
  readonly rows: Float64Array;
  /** lowest row in every column, −1 where the region is not */
  readonly foot: Int32Array;
  left: number;
  right: number;
  pixels: number;
}

/**
 * Regions that reach from below the horizon to above it cannot lie on the ground: they stand on it, at the distance of the
 * ground at their lowest edge (Hoiem, Efros & Hebert 2005). Averaged over the scales, weighed by how plainly they rise.
 */
export function findStanding(input: Omit<CueInput, 'layout'>, horizon: number): { foot: Plane; standing: Plane } {
  const { width, height, patches, edges } = input;
  const foot = newPlane(width, height);
  const standing = newPlane(width, height);
  for (const scale of SCALES) {
    const region = joinPatches(patches, edges, scale);
    const found = measureRegions(patches.labels, region, width, height);
    const judged = new Map([...found].map(([r, m]) => [r, judge(m, horizon, width, height)]));
    for (let i = 0; i < patches.labels.length; i++) {
      const r = region[patches.labels[i]!]!;
      const { sure, bottom, wide } = judged.get(r)!;
      if (sure <= 0) continue;
      const own = found.get(r)!.foot[i % width]! + 1;
      const row = bottom + (own - bottom) * wide;
      const n = Math.min(1, Math.max(0, (row - horizon) / (height - horizon)));
      standing.data[i]! += sure / SCALES.length;
      foot.data[i]! += (sure * n) / SCALES.length;
    }
  }
  for (let i = 0; i < foot.data.length; i++) if (standing.data[i]! > 0) foot.data[i]! /= standing.data[i]!;
  return { foot, standing };
}

function measureRegions(labels: Int32Array, region: Int32Array, width: number, height: number): Map<number, Region> {
  const found = new Map<number, Region>();
  for (let i = 0; i < labels.length; i++) {
    const r = region[labels[i]!]!;
    let m = found.get(r);
    if (!m) {
      m = { rows: new Float64Array(height), foot: new Int32Array(width).fill(-1), left: width, right: 0, pixels: 0 };
      found.set(r, m);
    }
    const x = i % width;
    const y = Math.floor(i / width);
    m.rows[y]!++;
    m.pixels++;
    m.foot[x] = y;
    m.left = Math.min(m.left, x);
    m.right = Math.max(m.right, x);
  }
  return found;
}

function judge(m: Region, horizon: number, width: number, height: number): { sure: number; bottom: number; wide: number } {
  const rowAt = (share: number): number => {
    let s = 0;
    for (let y = 0; y < height; y++) if ((s += m.rows[y]!) >= share * m.pixels) return y;
    return height - 1;
  };
  const top = rowAt(0.03);
  const bottom = rowAt(0.97) + 1;
  const rise = (horizon - top) / Math.max(1, bottom - top);
  const wide = Math.min(1, Math.max(0, ((m.right - m.left) / width - ONE_FOOT) / (MANY_FEET - ONE_FOOT)));
  // a wide region that runs into the lower border is a wall that has been joined to its floor
  const leaks = wide * (bottom >= 0.97 * height ? 1 : 0);
  const sure = Math.min(1, Math.max(0, rise / RISES)) * Math.min(1, Math.max(0, (bottom - horizon) / (0.04 * height))) * (1 - 0.8 * leaks);
  // what the lower border cuts off stands nearer than any ground to be seen, if it is narrow and tall
  const narrow = Math.min(1, Math.max(0, (NARROW - (m.right - m.left) / width) / (0.5 * NARROW)));
  const tall = Math.min(1, Math.max(0, ((bottom - top) / height - 0.15) / 0.2));
  const cut = bottom >= 0.97 * height ? CUT_OFF * narrow * tall : 0;
  return { sure: Math.max(sure, cut), bottom, wide };
}
