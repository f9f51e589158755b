/** A buffer so long makes a collector look; it is never touched, so no memory is behind it. Bytes. */
const LOOK = 256e6;
/** So often at the most while work goes on, ms. */
const EVERY_MS = 800;

let last = -Infinity;

/**
 * Makes this worker's garbage collector look. Workers that rest allocate nothing, so that nothing is collected in them, and those that work let
 * two or three hundred megabytes of pictures lie before they collect. Takes some 10 ms.
 */
export function sweep(): void {
  last = performance.now();
  // the first begins to mark, the next makes it finish
  for (let k = 0; k < 3; k++)
    try {
      void new ArrayBuffer(LOOK);
    } catch {
      // there is not so much to be had: it has looked
      return;
    }
}

/** Work after which it looks, once the answer is on its way. */
export const sweepingAfter =
  <A extends unknown[], R>(work: (...args: A) => Promise<R>): ((...args: A) => Promise<R>) =>
  async (...args) => {
    try {
      return await work(...args);
    } finally {
      setTimeout(sweepAtTimes);
    }
  };

/** The same, now and then: for work that goes on. */
export function sweepAtTimes(): void {
  if (performance.now() - last >= EVERY_MS) sweep();
}
