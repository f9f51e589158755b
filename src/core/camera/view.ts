import { newBytes, newPicture, newPlane, type Picture, type Plane } from '../picture';
import type { Run } from '../run';
import type { BorderFill, LayeredPlate, PathExtent } from './layered';
import { isAtPlate, ViewGeometry, type CameraPose, type Placed, type PlateLens } from './pose';
import { LEAST_PAD, viewKernel } from './viewKernel';

/** More than this share of the width is not added on a side. */
const MOST_PAD = 0.3;
/** px of a padded side are rounded up to multiples of this, so that a small change of a move needs no other plate. */
const PAD_STEP = 8;
/** Gains are rounded up to powers of this, for the same reason. */
const GAIN_STEP = 1.25;

/** A pose, and how much what it shows is enlarged about its middle. */
export interface Seen {
  readonly pose: CameraPose;
  readonly enlarged: number;
}

/** px of parallax that each 1/m of inverse distance gets at the frame's corner, where it is largest. */
export const gainOf = ({ width, height, focalPx }: PlateLens, { pose: { x, y, z, zoom }, enlarged }: Seen): number =>
  zoom * enlarged * Math.hypot(focalPx * Math.abs(x) + (Math.abs(z) * width) / 2, focalPx * Math.abs(y) + (Math.abs(z) * height) / 2);

/** How far views look beyond the plate, px, at the most; `ends` are the inverse distances between which all of it lies. */
export function beyondOf(lens: PlateLens, views: readonly Seen[], ends: readonly number[]): number {
  const { width, height } = lens;
  const place: Placed = { x: 0, y: 0, q: 0 };
  let most = 0;
  for (const { pose, enlarged } of views) {
    const g = new ViewGeometry(lens, pose, enlarged);
    for (const u of [0, 0.5, 1])
      for (const v of [0, 0.5, 1])
        for (const q of ends) {
          // the inverse distance as the view has it is not known; the plate's stands in, which differs little
          if ((u === 0.5 && v === 0.5) || !g.backward(u * width, v * height, q, place)) continue;
          most = Math.max(most, -place.x, -place.y, place.x - width, place.y - height);
        }
  }
  return most;
}

/** What a plate must be made ready for, so that all of some views can be made. */
export function extentOf(lens: PlateLens, views: readonly Seen[], ends: readonly number[], border: BorderFill, hidden: boolean): PathExtent {
  const gain = views.reduce((most, v) => Math.max(most, gainOf(lens, v)), 0);
  const beyond = Math.min(MOST_PAD * lens.width, beyondOf(lens, views, ends));
  return {
    gain: gain > 0 ? GAIN_STEP ** Math.ceil(Math.log(gain) / Math.log(GAIN_STEP) - 1e-9) : 0,
    pad: Math.ceil((beyond + LEAST_PAD) / PAD_STEP) * PAD_STEP,
    border,
    hidden,
  };
}

/** What a view shows: light, metres, and where what is seen was hidden in the plate. */
export interface View {
  readonly picture: Picture;
  readonly distance: Plane;
  readonly uncovered: Uint8Array;
}

/** Makes one view over the run's workers. */
export async function viewFrom(run: Run, plate: LayeredPlate, lens: PlateLens, { pose, enlarged }: Seen, cubic: boolean): Promise<View> {
  const { width, height } = lens;
  const picture = newPicture(width, height, run.shared);
  const distance = newPlane(width, height, run.shared);
  const uncovered = newBytes(width * height, run.shared);
  await run.rows(viewKernel, height, { plate, lens, pose, enlarged, cubic, distance: distance.data, uncovered }, picture.data);
  return { picture, distance, uncovered };
}

/** Whether a view is the plate as it was taken. */
export const isPlate = ({ pose, enlarged }: Seen): boolean => enlarged === 1 && isAtPlate(pose);
