import { guidedEnlarge, picturesRows } from '../../kernels/guidedHost';
import type { NetworkUse } from '../../need/networkUse';
import { newPlane, type Picture, type Plane, type Raster, type Size } from '../../picture';
import { boxMean, quantile } from '../../raster/filters';
import { enlargeSmoothly, fitLongSide, samplePlaneLinear, stretch } from '../../raster/resample';
import { plateAtSize } from '../plateAtSize';
import { unitRange } from '../unitRange';
import { answeredPlane, askedSize, givenPicture } from './given';
import type { OpenNetwork } from './runs';

/** Long side of the map, px: as ours. */
const SIDE = 576;
/** Along the picture's edges: radius, px of the map, and variance below which a surface counts as even. */
const SNAP_RADIUS = 4;
const SNAP_EPSILON = 1e-5;
/** Parts along each side, overlapping by half: the network sees them at twice the size. */
const PARTS = 3;
/** Distances below this are none. */
const LEAST = 1e-3;
/** Runs that a sharper map takes. */
export const SHARPER_RUNS = 1 + PARTS * PARTS;
/** A part that goes with the whole less than this is not believed. */
const LEAST_LIKE = 0.3;

/** Distances whose least is this share of their greatest have a zero where the camera is. */
const FROM_ZERO = 0.01;

/** Whether distances of no scale have a zero: their inverse is nearness then, exactly. Told by one answer for all others: pictures must not differ in it. */
export function hasZero({ data }: Plane): boolean {
  let [low, high] = [Infinity, -Infinity];
  for (const v of data) [low, high] = [Math.min(low, v), Math.max(high, v)];
  return low > FROM_ZERO * high;
}

/** Nearness of what a network gives: of metres, and of distances from a zero, the inverse; of others what is less far. */
export function nearnessOfGiven({ width, height, data }: Plane, { gives, fromZero }: Pick<NetworkUse, 'gives' | 'fromZero'>): Plane {
  if (gives === 'nearness') return { width, height, data: data.slice() };
  return { width, height, data: gives === 'metres' || fromZero ? data.map((v) => 1 / Math.max(LEAST, v)) : data.map((v) => -v) };
}

/** Part of a picture, at its own size. */
function cut({ width, data }: Picture, x: number, y: number, size: Size): Picture {
  const out = new Float32Array(size.width * size.height * 4);
  for (let row = 0; row < size.height; row++) {
    const from = ((y + row) * width + x) * 4;
    out.set(data.subarray(from, from + size.width * 4), row * size.width * 4);
  }
  return { ...size, data: out };
}

/** Part of a plane. */
function cutPlane({ width, data }: Plane, x: number, y: number, size: Size): Plane {
  const out = newPlane(size.width, size.height);
  for (let row = 0; row < size.height; row++)
    out.data.set(data.subarray((y + row) * width + x, (y + row) * width + x + size.width), row * size.width);
  return out;
}

const meanOf = (data: Float32Array): number => data.reduce((a, b) => a + b, 0) / data.length;

/**
 * Scale and offset that bring a part's median and mean deviation from it to those of the same part of the whole; null where the two do not
 * go together (Ranftl et al. 2022).
 */
function fitted(part: Plane, whole: Plane): { readonly scale: number; readonly offset: number } | null {
  const [a, b] = [quantile(part, 0.5), quantile(whole, 0.5)];
  const [da, db] = [meanOf(part.data.map((v) => Math.abs(v - a))), meanOf(whole.data.map((v) => Math.abs(v - b)))];
  if (!(da > 1e-9)) return null;
  const [ma, mb] = [meanOf(part.data), meanOf(whole.data)];
  let [ab, aa, bb] = [0, 0, 0];
  for (let i = 0; i < part.data.length; i++) {
    const [u, v] = [part.data[i]! - ma, whole.data[i]! - mb];
    ab += u * v;
    aa += u * u;
    bb += v * v;
  }
  if (!(ab > LEAST_LIKE * Math.sqrt(aa * bb))) return null;
  return { scale: db / da, offset: b - (a * db) / da };
}

/** How much of a part counts at a place: all in its middle, nothing at its border. */
const tent = (k: number, n: number): number => 0.02 + Math.min(k + 0.5, n - k - 0.5) / (n / 2);

/**
 * A map of twice the size: overlapping parts are asked at twice the size, each fitted to the whole; what is finer than a part's tenth is theirs, what is coarser stays
 * the whole's (after Miangoleh et al. 2021). Null where it was stopped.
 */
async function sharpened(
  whole: Plane,
  picture: Picture,
  ask: (picture: Picture) => Promise<Plane>,
  wanted: (runs: number) => boolean,
): Promise<Plane | null> {
  const { width, height } = picture;
  const size = { width: width / 2, height: height / 2 };
  const base = enlargeSmoothly(whole, width, height);
  const sum = newPlane(width, height);
  const weight = newPlane(width, height);
  for (let k = 0; k < PARTS * PARTS; k++) {
    if (!wanted(1 + k)) return null;
    const x = Math.round(((k % PARTS) / (PARTS - 1)) * (width - size.width));
    const y = Math.round((Math.floor(k / PARTS) / (PARTS - 1)) * (height - size.height));
    const answer = await ask(cut(picture, x, y, size));
    const part = enlargeSmoothly(answer, size.width, size.height);
    const below = cutPlane(base, x, y, size);
    const fit = fitted(part, below);
    for (let row = 0; row < size.height; row++)
      for (let column = 0; column < size.width; column++) {
        const i = row * size.width + column;
        const to = (y + row) * width + x + column;
        const w = tent(row, size.height) * tent(column, size.width);
        sum.data[to]! += w * (fit ? fit.scale * part.data[i]! + fit.offset : below.data[i]!);
        weight.data[to]! += w;
      }
  }
  for (let i = 0; i < sum.data.length; i++) sum.data[i]! /= weight.data[i]!;
  const radius = Math.max(1, Math.round(Math.min(size.width, size.height) / 10));
  const [coarse, own] = [boxMean(boxMean(base, radius), radius), boxMean(boxMean(sum, radius), radius)];
  return { ...sum, data: sum.data.map((v, i) => v + coarse.data[i]! - own.data[i]!) };
}

/** One answer of a network to a whole picture, as it comes: what values mean is said by `use.gives`. Throws OmbrageError. */
export async function answerTo(raster: Raster, use: NetworkUse, network: Pick<OpenNetwork, 'run'>): Promise<Plane> {
  const picture = plateAtSize(raster, askedSize(use, raster));
  return answeredPlane(await network.run(givenPicture(picture, use)), use.name);
}

/**
 * Raw nearness 0..1 of a plate by a network of somebody's own, in plate framing: at the network's size, snapped to the picture's edges as
 * ours is. Metres become nearness between the ends of `use`. `progress` hears the share done and stops by answering false; the result is
 * then null. Throws OmbrageError that names the network.
 */
export async function ownNearness(
  raster: Raster,
  use: NetworkUse,
  network: Pick<OpenNetwork, 'run'>,
  progress: (share: number) => boolean = () => true,
): Promise<Plane | null> {
  const runs = use.sharper ? SHARPER_RUNS : 1;
  const size = askedSize(use, raster);
  const picture = plateAtSize(raster, use.sharper ? { width: 2 * size.width, height: 2 * size.height } : size);
  const ask = async (of: Picture): Promise<Plane> => nearnessOfGiven(answeredPlane(await network.run(givenPicture(of, use)), use.name), use);
  const share = (done: number): boolean => progress(0.05 + (0.85 * done) / runs);
  if (!share(0)) return null;
  const whole = await ask(use.sharper ? plateAtSize(raster, size) : picture);
  if (!share(1)) return null;
  const found = use.sharper ? await sharpened(whole, picture, ask, share) : whole;
  if (!found || !progress(0.92)) return null;
  const fit = fitLongSide(raster, use.sharper ? 2 * SIDE : SIDE);
  const guide = plateAtSize(raster, fit);
  const map = placed(found, fit);
  const scaled = use.gives === 'metres' && use.ends ? betweenEnds(map, use.ends) : unitRange(map);
  const snapped = guidedEnlarge(guide, scaled, SNAP_RADIUS, SNAP_EPSILON, picturesRows(guide));
  progress(1);
  return use.gives === 'metres' && use.ends ? { ...snapped, data: snapped.data.map((v) => Math.min(1, Math.max(0, v))) } : unitRange(snapped);
}

/** A map at another size. */
const placed = (plane: Plane, { width, height }: Size): Plane =>
  plane.width <= width ? enlargeSmoothly(plane, width, height) : samplePlaneLinear(plane, stretch(plane, width, height), width, height);

/** Inverse metres as nearness 0..1 between two distances. */
function betweenEnds(inverse: Plane, { near, far }: NonNullable<NetworkUse['ends']>): Plane {
  const [top, bottom] = [1 / near, 1 / far];
  return { ...inverse, data: inverse.data.map((v) => Math.min(1, Math.max(0, (v - bottom) / (top - bottom)))) };
}

/** Shares of the picture that lie nearer than the near end and farther than the far end of metres. */
const BEYOND = 0.005;
/** Metres that are believed. */
const [NEAREST, FARTHEST] = [0.01, 1e5];

/** The ends that metres of a picture call for. */
export function endsOfMetres(metres: Plane): NonNullable<NetworkUse['ends']> {
  const near = Math.min(FARTHEST / 2, Math.max(NEAREST, quantile(metres, BEYOND)));
  return { near, far: Math.min(FARTHEST, Math.max(near * 1.01, quantile(metres, 1 - BEYOND))) };
}
