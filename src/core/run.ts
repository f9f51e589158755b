/** Thrown when a newer request has made this work needless. */
export class Aborted extends Error {}

/** What becomes of work that was made needless: null. */
export async function unlessAborted<T>(work: () => Promise<T>): Promise<T | null> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof Aborted) return null;
    throw error;
  }
}

/**
 * A computation whose output rows do not depend on each other, so that they can be made by several workers at once. `input` crosses to
 * them as a copy (buffers in shared memory are shared). A kernel is found by its name: it stands in `shot/rowKernels.ts`.
 */
export interface RowKernel<I> {
  readonly name: string;
  /** rows are given out in multiples of this */
  readonly step: number;
  /** Makes rows y0 … y1−1 of `out`, the same whoever makes them. `onProgress` is called now and then with the share done, and throws where the work is needless. */
  make(input: I, y0: number, y1: number, out: Float32Array, onProgress: (share: number) => void): void;
}

/** What a computation asks of those that run it. */
export interface Run {
  /** buffers that workers can share are wanted */
  readonly shared: boolean;
  /** Reports the share done, 0..1. Throws Aborted where something newer was asked for. */
  checkpoint(share: number): void;
  /** Makes rows 0 … height−1 of `out` on every free worker; bit-identical to one thread. Throws Aborted. `onProgress` hears the share done of these rows, and may throw. */
  rows<I>(kernel: RowKernel<I>, height: number, input: I, out: Float32Array, onProgress?: (share: number) => void): Promise<void>;
}

/** A run on this thread alone. `checkpoint` may throw Aborted. */
export const runAlone = (checkpoint: (share: number) => void = () => undefined): Run => ({
  shared: false,
  checkpoint,
  rows: (kernel, height, input, out, onProgress = checkpoint) => {
    kernel.make(input, 0, height, out, onProgress);
    return Promise.resolve();
  },
});

/** The same run, whose shares are those of a part of the work. */
export function partOf(run: Run, from: number, to: number): Run {
  const checkpoint = (share: number): void => run.checkpoint(from + (to - from) * share);
  return {
    shared: run.shared,
    checkpoint,
    rows: (kernel, height, input, out, onProgress = checkpoint) => run.rows(kernel, height, input, out, onProgress),
  };
}
