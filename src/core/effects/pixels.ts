import { newPicture, type Picture } from '../raster/picture';
import type { Run } from '../run';

const ROWS_PER_LOOK = 32;

/** Goes through the rows of a picture, and looks now and then whether the work is still wanted. Throws Stopped. */
export function eachRow(run: Run, height: number, row: (y: number) => void): void {
  for (let y = 0; y < height; y++) {
    if (y % ROWS_PER_LOOK === 0) run.checkpoint(y / height);
    row(y);
  }
}

/** A place in a picture, px; pixel centres lie at halves. */
export interface Place {
  x: number;
  y: number;
}

/** A place brought into 0..n by mirrors at both ends. */
export function mirrored(v: number, n: number): number {
  if (v >= 0 && v <= n) return v;
  const t = ((v % (2 * n)) + 2 * n) % (2 * n);
  return t <= n ? t : 2 * n - t;
}

const ALL = [0, 1, 2, 3];

/**
 * A picture whose pixels are fetched from elsewhere: `place` turns the middle of a pixel into where its light comes from. Bilinear; the border
 * is mirrored. Only the given channels are written to `out`.
 */
export function fetched(
  { width, height, data }: Picture,
  run: Run,
  place: (at: Place) => void,
  out: Picture = newPicture(width, height, run.shared),
  channels: readonly number[] = ALL,
): Picture {
  const at: Place = { x: 0, y: 0 };
  const whole = channels.length === 4;
  eachRow(run, height, (y) => {
    for (let x = 0; x < width; x++) {
      at.x = x + 0.5;
      at.y = y + 0.5;
      place(at);
      const u = Math.min(width - 1, Math.max(0, mirrored(at.x, width) - 0.5));
      const v = Math.min(height - 1, Math.max(0, mirrored(at.y, height) - 0.5));
      const [x0, y0] = [u | 0, v | 0];
      const [tx, ty] = [u - x0, v - y0];
      const a = (y0 * width + x0) * 4;
      const right = x0 < width - 1 ? 4 : 0;
      const below = y0 < height - 1 ? width * 4 : 0;
      const [w00, w10, w01, w11] = [(1 - tx) * (1 - ty), tx * (1 - ty), (1 - tx) * ty, tx * ty];
      const o = (y * width + x) * 4;
      const [b, c, d] = [a + right, a + below, a + right + below];
      if (whole) {
        out.data[o] = w00 * data[a]! + w10 * data[b]! + w01 * data[c]! + w11 * data[d]!;
        out.data[o + 1] = w00 * data[a + 1]! + w10 * data[b + 1]! + w01 * data[c + 1]! + w11 * data[d + 1]!;
        out.data[o + 2] = w00 * data[a + 2]! + w10 * data[b + 2]! + w01 * data[c + 2]! + w11 * data[d + 2]!;
        out.data[o + 3] = w00 * data[a + 3]! + w10 * data[b + 3]! + w01 * data[c + 3]! + w11 * data[d + 3]!;
      } else for (const k of channels) out.data[o + k] = w00 * data[a + k]! + w10 * data[b + k]! + w01 * data[c + k]! + w11 * data[d + k]!;
    }
  });
  return out;
}

/** A picture made pixel by pixel: `make` reads at `o` and writes there. Inputs are not written. */
export function madePixels({ width, height }: Picture, run: Run, make: (o: number, x: number, y: number, out: Float32Array) => void): Picture {
  const out = newPicture(width, height, run.shared);
  eachRow(run, height, (y) => {
    for (let x = 0; x < width; x++) make((y * width + x) * 4, x, y, out.data);
  });
  return out;
}
