import { kernels } from '../../kernels/loader';
import type { RadiusPicture } from '../../kernels/lensBlurHost';

/** A pixel brighter than this may be a mixture of a lamp and an edge. */
export const LAMP = 1;

/** Rows, and pixels, that are looked at together. */
const ROWS = 32;
const PIXELS = 16384;

/**
 * A bright pixel on a depth jump takes the radius of a still brighter 3x3 neighbour: its light came from there, and mixed
 * lamp and edge pixels would throw discs of the wrong size. Written in place.
 */
export function relabelHighlights({ width, height, data }: RadiusPicture): void {
  const k = kernels();
  k.reset();
  const pixels = k.take(width * (ROWS + 2) * 16);
  const changes = k.take(width * ROWS * 8);
  const found: (readonly [index: number, radius: number])[] = [];
  for (let y = 0; y < height; y += ROWS) {
    const end = Math.min(height, y + ROWS);
    // with a row more on both sides, as far as there are
    const [from, to] = [Math.max(0, y - 1), Math.min(height, end + 1)];
    k.floats(pixels, (to - from) * width * 4).set(data.subarray(from * width * 4, to * width * 4));
    const n = k.run.mixedLamps(pixels, width, to - from, y - from, end - from, changes);
    const [places, radii] = [k.ints(changes, n * 2), k.floats(changes, n * 2)];
    for (let c = 0; c < n; c++) found.push([(from * width + places[c * 2]!) * 4 + 3, radii[c * 2 + 1]!]);
  }
  for (const [index, radius] of found) data[index] = radius;
}

/** Raises light above `threshold` (linear) by up to `stops`, smoothly from the threshold to full white. In place. */
export function boostHighlights({ data }: RadiusPicture, threshold: number, stops: number): void {
  if (stops === 0) return;
  const k = kernels();
  k.reset();
  const room = k.take(PIXELS * 16);
  const inverse = 1 / Math.max(0.02, 1 - threshold);
  for (let i = 0; i < data.length; i += PIXELS * 4) {
    const part = data.subarray(i, i + PIXELS * 4);
    const values = k.floats(room, part.length);
    values.set(part);
    k.run.boostLight(room, part.length / 4, threshold, inverse, 2 ** stops - 1);
    part.set(values);
  }
}
