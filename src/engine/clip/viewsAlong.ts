import { motionView, type MotionView } from '../../core/motion/view';
import { glanceAt } from '../../media/clip';
import type { ClipFootage } from './clipDepth';

/** Backwards, so many frames are read at once. */
const BLOCK = 24;

/**
 * The views of frames in the order given, each with its place in it. A decoder goes forwards only, and begins anew for each step back: frames
 * that go backwards are read in blocks, each forwards.
 */
export async function* viewsAlong(
  clip: ClipFootage['clip'],
  frames: readonly number[],
): AsyncGenerator<{ readonly at: number; readonly view: MotionView }> {
  const backwards = frames.length > 1 && frames[1]! < frames[0]!;
  const block = backwards ? BLOCK : 1;
  for (let k = 0; k < frames.length; k += block) {
    const wanted = frames.slice(k, k + block);
    const views = new Map<number, MotionView>();
    for (const frame of [...wanted].sort((a, b) => a - b))
      if (!views.has(frame)) views.set(frame, await glanceAt(clip, frame, (raster) => motionView(raster)));
    for (const [i, frame] of wanted.entries()) yield { at: k + i, view: views.get(frame)! };
  }
}

/** Numbers from one to another, both included, upwards or downwards; none where that is the wrong way. */
export const countTo = (from: number, to: number, step: 1 | -1): readonly number[] =>
  Array.from({ length: Math.max(0, (to - from) * step + 1) }, (_, k) => from + k * step);
