import { newPicture, type Picture } from '../picture';
import type { Run } from '../run';
import { kernels, type Kernels } from './loader';

const ROWS_PER_LOOK = 32;

/** Goes through the rows of a picture, and looks now and then whether the work is still wanted. Throws Aborted. */
export function eachRow(run: Pick<Run, 'checkpoint'>, height: number, row: (y: number) => void): void {
  for (let y = 0; y < height; y++) {
    if (y % ROWS_PER_LOOK === 0) run.checkpoint(y / height);
    row(y);
  }
}

/** Pixels that a kernel may go beyond the end of a row. */
const BEYOND = 4;

/**
 * A picture whose rows a kernel works in its own memory: `plan` puts there what the kernel needs, and says what is to be done with each row
 * of light that stands at `row`, RGBA floats, in place. Memory that `plan` takes is given back at the end. Views of it that are made in
 * `plan` hold as long as nothing is taken after them.
 */
export function workedRows(
  { width, height, data }: Picture,
  run: Pick<Run, 'shared' | 'checkpoint'>,
  plan: (k: Kernels, row: number) => (y: number) => void,
): Picture {
  const k = kernels();
  const bookmark = k.bookmark();
  const out = newPicture(width, height, run.shared);
  const row = k.take((width + BEYOND) * 16);
  try {
    const work = plan(k, row);
    const light = k.floats(row, width * 4);
    eachRow(run, height, (y) => {
      const [from, to] = [y * width * 4, (y + 1) * width * 4];
      light.set(data.subarray(from, to));
      work(y);
      out.data.set(light, from);
    });
  } finally {
    k.back(bookmark);
  }
  return out;
}
