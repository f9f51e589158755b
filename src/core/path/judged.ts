import type { Settings } from '../document/schema';
import { hfovOf } from '../document/framing';
import { worstStretch } from './fit';
import { poseAt, posesOf } from './path';
import type { PlateLens } from '../camera/pose';
import { overscanFor, stretchAt, type Relief, type Stretch } from '../camera/relief';

/** Of a shot what its camera's path depends on. */
export type Path = Pick<Settings, 'camera' | 'time'>;

/** How a path is judged: how wide it tears the picture open (px of the output) along the shot and at its worst, and how much its border has to be cut off, as a factor. */
export interface PathFigures {
  /** evenly spaced from the first frame to the last; Infinity where the camera goes through something */
  readonly stretch: readonly number[];
  readonly worst: Stretch & { readonly frame: number };
  readonly overscan: number;
}

/** Judged at so many places along the shot. */
const JUDGED = 120;

/** Judges a shot's path by what was surveyed of its depth. */
export function judgePath(path: Path, lens: PlateLens, relief: Relief): PathFigures {
  const hfov = hfovOf(lens.width, lens.focalPx);
  const { length, fps } = path.time;
  const count = Math.min(JUDGED, length);
  return {
    stretch: Array.from({ length: count }, (_, k) => {
      const frame = count < 2 ? 0 : (k * (length - 1)) / (count - 1);
      return stretchAt(lens, poseAt(path, hfov, { frame, fps }), relief).px;
    }),
    worst: worstStretch(path, lens, relief),
    overscan: overscanFor(lens, posesOf(path, hfov), relief),
  };
}
