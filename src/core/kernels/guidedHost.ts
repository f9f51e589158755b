import { newPlane, type Picture, type Plane } from '../picture';
import { kernels } from './loader';

/** A guide whose rows are made when they are needed: writes RGB_ (4 floats a pixel) of row y into `row`. */
export interface GuideRows {
  readonly width: number;
  readonly height: number;
  readRow(y: number, row: Float32Array): void;
}

const ROWS_AT_A_TIME = 64;

/**
 * Fast guided filter with a colour guide (He, Sun & Tang 2013, eq. 14–16; He & Sun 2015): linear coefficients are found on the
 * small guide and map, then applied to every row of the full guide. Radius is in px of the small guide, eps in squared light.
 */
export function guidedEnlarge(
  small: Picture,
  map: Plane,
  radius: number,
  eps: number,
  full: GuideRows,
  shared = false,
  check?: (row: number) => boolean,
): Plane {
  const k = kernels();
  k.reset();
  const { width: w, height: h } = small;
  const image = k.take(w * h * 16);
  const scratch = k.take(w * h * 16 * 5);
  const pixels = k.floats(image, w * h * 4);
  pixels.set(small.data);
  for (let i = 0; i < w * h; i++) pixels[i * 4 + 3] = map.data[i]!;
  const coefficients = k.run.guidedCoefficients(image, w, h, radius, eps, scratch);
  const guide = k.take(full.width * ROWS_AT_A_TIME * 16);
  const rows = k.take(full.width * ROWS_AT_A_TIME * 4);
  const row = k.take((w + 1) * 16);
  const out = newPlane(full.width, full.height, shared);
  for (let y = 0; y < full.height; y += ROWS_AT_A_TIME) {
    if (check && !check(y)) return out;
    const end = Math.min(full.height, y + ROWS_AT_A_TIME);
    for (let r = y; r < end; r++) full.readRow(r, k.floats(guide + (r - y) * full.width * 16, full.width * 4));
    k.run.guidedApply(coefficients, w, h, guide, full.width, full.height, y, end, rows, row);
    out.data.set(k.floats(rows, (end - y) * full.width), y * full.width);
  }
  return out;
}

export const picturesRows = (picture: Picture): GuideRows => ({
  width: picture.width,
  height: picture.height,
  readRow: (y, row) => row.set(picture.data.subarray(y * picture.width * 4, (y + 1) * picture.width * 4)),
});
