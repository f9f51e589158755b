import { setImmediate as turn } from 'node:timers/promises';

const LONGEST_MS = 5000;

/** For tests: waits, turn by turn of the event loop, until something is so. Throws where it never is; `longest`: what is computed on the way takes its time, ms. */
export async function until(is: () => boolean, longest = LONGEST_MS): Promise<void> {
  const end = performance.now() + longest;
  while (!is()) {
    if (performance.now() > end) throw new Error(`never came true: ${is.toString()}`);
    await turn();
  }
}

/** For tests: lets everything that is ready to run do so, before it is said that nothing has happened. */
export async function settled(): Promise<void> {
  for (let k = 0; k < 60; k++) await turn();
}
