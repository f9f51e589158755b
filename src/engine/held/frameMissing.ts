import type { Need } from '../../core/need/need';

/** Thrown where a frame of a clip is needed that is not decoded, or read, yet: it is brought, and the work is done again. */
export class FrameMissing extends Error {
  constructor(readonly need: Need) {
    super(`frame ${need.frame} is not there yet`);
  }
}

/** Work that needs more frames than these is broken off. */
const MOST_FRAMES = 200;

/**
 * Does work that needs frames of clips: those that are told to be needed are brought before, those that turn out to be missing meanwhile, and it
 * is done again. What it has made by then is kept in its cache.
 */
export async function bringing<T>(bring: (need: Need) => Promise<void>, work: () => T | Promise<T>, missing: readonly Need[] = []): Promise<T> {
  for (const need of missing) await bring(need);
  for (let brought = 0; ; brought++) {
    try {
      return await work();
    } catch (error) {
      if (!(error instanceof FrameMissing) || brought >= MOST_FRAMES) throw error;
      await bring(error.need);
    }
  }
}
