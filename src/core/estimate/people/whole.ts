import { newPlane, type Plane, type Size } from '../../picture';
import { boxMean, gaussian, quantile } from '../../raster/filters';
import { pushPull } from '../../raster/pushPull';
import { faceSurface } from './faceRelief';
import type { FaceOnMap, Person } from './person';

/** Of what a person's own surface goes up and down, so much is believed, and no more than so far to each side, nearness. */
const RELIEF = 0.6;
const RELIEF_MOST = 0.06;
/** Of what the whole of them leans, so much, and so far: legs and head stand upright. */
const LEAN = 0.25;
const LEAN_MOST = 0.05;
/** Share of a person's pixels that are farther than where the person is said to stand: what the estimate missed lies there. */
const STANDS = 0.65;
/** What lies under the feet may say that a person is so much nearer or farther than the estimate says, nearness. */
const FEET_MOST = 0.15;
/** Nearer to the lower border than this, as a share of the picture's height, there are no feet to be seen. */
const CUT_OFF = 0.035;
/** So much about a person is looked at, as a share of their longer side. */
const ROUND_ABOUT = 0.1;
/** Beyond the box of a person the mask is believed where the map is no farther than nine in ten of what lies within it, less so much; not at all the second, nearness. */
const FARTHER = [0.12, 0.2] as const;
/** What is fewer pixels than this says nothing. */
const FEW = 12;

/** Of a window's mean over zeros and ones, rounded: all of them ones, and any. */
const ALL = 1 - 1e-4;
const NONE = 1e-4;

const limited = (v: number, most: number): number => Math.min(most, Math.max(-most, v));

/** Rows and columns, px, the last ones included. */
interface Extent {
  readonly left: number;
  readonly right: number;
  readonly top: number;
  readonly bottom: number;
}

/** A plane's numbers within an extent where something is so, as a plane of one row. */
function where(map: Plane, { left, right, top, bottom }: Extent, so: (i: number) => boolean): Plane {
  const { width, height, data } = map;
  const out = new Float32Array(Math.max(0, right - left + 1) * Math.max(0, bottom - top + 1));
  let count = 0;
  for (let y = Math.max(0, top); y <= Math.min(height - 1, bottom); y++)
    for (let x = Math.max(0, left), i = y * width + x; x <= Math.min(width - 1, right); x++, i++) if (so(i)) out[count++] = data[i]!;
  return { width: count, height: 1, data: out.subarray(0, count) };
}

/** The rows and columns in which a mask is more than something; it is, somewhere. */
function extentOf({ width, height, data }: Plane, more: number): Extent {
  let [left, right, top, bottom] = [width, -1, height, -1];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (data[y * width + x]! > more) {
        left = Math.min(left, x);
        right = Math.max(right, x);
        top = Math.min(top, y);
        bottom = y;
      }
  return { left, right, top, bottom };
}

/** A part of a plane. */
function partOf(plane: Plane, { left, right, top, bottom }: Extent): Plane {
  const out = newPlane(right - left + 1, bottom - top + 1);
  for (let y = top; y <= bottom; y++) out.data.set(plane.data.subarray(y * plane.width + left, y * plane.width + right + 1), (y - top) * out.width);
  return out;
}

/** What lies within an extent and so much of its longer side about it, as far as a plane goes. */
function roundAbout({ left, right, top, bottom }: Extent, { width, height }: Size): Extent {
  const more = Math.round(ROUND_ABOUT * Math.max(right - left, bottom - top)) + 2;
  return {
    left: Math.max(0, left - more),
    right: Math.min(width - 1, right + more),
    top: Math.max(0, top - more),
    bottom: Math.min(height - 1, bottom + more),
  };
}

/** Nearness of what lies under and beside the feet of a person; null where none are seen. */
function underFeet(map: Plane, mask: Plane, taken: Plane, { left, right, top, bottom }: Extent): number | null {
  const { width } = map;
  const tall = bottom - top + 1;
  // the columns of what stands lowest
  let [from, to] = [right, left];
  for (let y = Math.max(top, Math.round(bottom - 0.04 * tall)); y <= bottom; y++)
    for (let x = left; x <= right; x++)
      if (mask.data[y * width + x]! > 0.5) {
        from = Math.min(from, x);
        to = Math.max(to, x);
      }
  const beside = Math.max(2, Math.round(0.06 * tall));
  const deep = Math.max(2, Math.round(0.03 * tall));
  const about = { left: from - beside, right: to + beside, top: bottom - deep, bottom: bottom + deep };
  const ground = where(map, about, (i) => taken.data[i]! < 0.05);
  return ground.data.length < FEW ? null : quantile(ground, 0.5);
}

/** A person's own nearness at each pixel of their mask, continued about it. `cut`: their feet are not in the picture. */
function personNearness(map: Plane, mask: Plane, taken: Plane, cut: boolean): Plane {
  const extent = extentOf(mask, 0.5);
  const tall = Math.max(extent.bottom - extent.top, extent.right - extent.left) + 1;
  const one = { ...mask, data: mask.data.map((v) => (v > 0.5 ? 1 : 0)) };
  const firm = boxMean(one, Math.max(1, Math.round(tall / 90)));
  const inside = where(map, extent, (i) => firm.data[i]! > ALL);
  const core = inside.data.length < FEW ? where(map, extent, (i) => mask.data[i]! > 0.5) : inside;
  const [middle, stands] = [quantile(core, 0.5), quantile(core, STANDS)];
  const ground = cut ? null : underFeet(map, mask, taken, extent);
  const level = ground === null ? stands : Math.min(stands + FEET_MOST, Math.max(middle - FEET_MOST, ground));
  const weighed = gaussian({ ...map, data: map.data.map((v, i) => v * one.data[i]!) }, tall / 6);
  const weight = gaussian(one, tall / 6);
  const out = newPlane(map.width, map.height);
  for (let i = 0; i < out.data.length; i++) {
    if (one.data[i] === 0) {
      out.data[i] = NaN;
      continue;
    }
    const low = weighed.data[i]! / Math.max(1e-4, weight.data[i]!);
    out.data[i] = level + limited(RELIEF * (map.data[i]! - low), RELIEF_MOST) + limited(LEAN * (low - stands), LEAN_MOST);
  }
  return pushPull(out);
}

/** A person without what lies beyond their box and much farther: a wall in the same light. Null where nothing is left. */
function believed(map: Plane, { box, mask }: Person): Person | null {
  const { width, height } = map;
  const within = {
    left: Math.round(box.left * width),
    right: Math.round(box.right * width) - 1,
    top: Math.round(box.top * height),
    bottom: Math.round(box.bottom * height) - 1,
  };
  const core = where(map, within, (i) => mask.data[i]! > 0.5);
  if (core.data.length === 0) return null;
  const far = quantile(core, 0.1);
  const out = { ...mask, data: mask.data.slice() };
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++)
      if (out.data[i]! > 0 && (x < within.left || x > within.right || y < within.top || y > within.bottom))
        out.data[i]! *= Math.min(1, Math.max(0, (map.data[i]! - far + FARTHER[1]) / (FARTHER[1] - FARTHER[0])));
  return { box, mask: out };
}

/**
 * Lays the surface of a face over a person's nearness, in place, no farther than most of them: nearness is as the inverse of distance, and the lens is taken to see 50° across.
 * `focal`: of it, px.
 */
function layFace(own: Plane, mask: Plane, { x, y, depth }: FaceOnMap, { left, top }: Extent, focal: number): void {
  const here = { x: x.map((v) => v - left), y: y.map((v) => v - top), depth };
  const surface = faceSurface(here, own, pushPull);
  let [sum, n] = [0, 0];
  for (let i = 0; i < own.data.length; i++) {
    sum += surface.share.data[i]! * own.data[i]!;
    n += surface.share.data[i]!;
  }
  if (n === 0) return;
  const most = where(own, extentOf(mask, 0.5), (i) => mask.data[i]! > 0.5);
  const level = Math.max(sum / n, quantile(most, 0.5));
  for (let i = 0; i < own.data.length; i++) {
    const share = surface.share.data[i]!;
    if (share > 0) own.data[i]! += share * (level * (1 - surface.depth.data[i]! / focal) - own.data[i]!);
  }
}

/** Persons as far as a map of nearness of the masks' size bears them out; those of whom nothing is left are left out. */
export const believedIn = (map: Plane, people: readonly Person[]): Person[] => people.flatMap((person) => believed(map, person) ?? []);

/**
 * A map of nearness in which every person stands as one thing: where their feet are seen, as near as the ground there, elsewhere as near as most of them; upright, with
 * their own relief, and with the outline of their mask. What the map had smeared about them is what lies round about. Maps of one size,
 * nearness 0..1; each person takes a pixel at least.
 */
export function withPeople(map: Plane, people: readonly Person[]): Plane {
  if (people.length === 0) return map;
  const { width, height } = map;
  const taken = newPlane(width, height);
  for (const { mask } of people) for (let i = 0; i < taken.data.length; i++) taken.data[i] = Math.max(taken.data[i]!, mask.data[i]!);
  const halo = boxMean({ ...taken, data: taken.data.map((v) => (v > 0.3 ? 1 : 0)) }, Math.max(2, Math.round(height / 90)));
  const around = pushPull({ ...map, data: map.data.map((v, i) => (taken.data[i]! > 0.02 || halo.data[i]! > NONE ? NaN : v)) });
  const out = { ...around, data: around.data.slice() };
  const focal = width / (2 * Math.tan((25 * Math.PI) / 180));
  for (const { mask, face } of people) {
    const part = roundAbout(extentOf(mask, 0), map);
    const cut = extentOf(mask, 0.5).bottom > (1 - CUT_OFF) * height;
    const theirs = partOf(mask, part);
    const own = personNearness(partOf(map, part), theirs, partOf(taken, part), cut);
    if (face) layFace(own, theirs, face, part, focal);
    for (let y = part.top; y <= part.bottom; y++)
      for (let x = part.left, i = y * width + x, k = (y - part.top) * own.width; x <= part.right; x++, i++, k++)
        out.data[i]! += mask.data[i]! * (own.data[k]! - out.data[i]!);
  }
  return out;
}
