/** Within which times a frame is neither slow nor leaves time, ms, and the least share of pixels each way. */
interface Pace {
  readonly slow: number;
  readonly quick: number;
  readonly least: number;
}

/** Frames that come after a longer pause say nothing, ms. */
const PAUSE_MS = 400;

/** Which share of the pixels each way is drawn: while something moves as many as there is time for, all of them when it rests. To be asked once a frame. */
export function pacing({ slow, quick, least }: Pace): (moving: boolean, now: number) => number {
  let share = 1;
  let last = -Infinity;
  return (moving, now) => {
    const took = now - last;
    last = now;
    if (moving && took < PAUSE_MS) {
      if (took > slow) share = Math.max(least, share * 0.8);
      else if (took < quick) share = Math.min(1, share * 1.05);
    }
    return moving ? share : 1;
  };
}
