import type { RowKernel } from '../run';
import type { BlurShape } from './blurShape';
import { blurRows, type RadiusPicture } from './lensBlurHost';

export interface BlurInput {
  readonly picture: RadiusPicture;
  readonly shape: BlurShape;
}

/** Rows in one piece, so that the memory of very large pictures stays bounded. */
const BAND_PIXELS = 12e6;

/** The lens blur's rows: RGB linear light with alpha 1, from light and signed radii. */
export const blurKernel: RowKernel<BlurInput> = {
  name: 'lens blur',
  step: 2,
  make({ picture, shape }, y0, y1, out, onProgress) {
    const rows = Math.max(64, Math.floor(BAND_PIXELS / picture.width / 2) * 2);
    for (let y = y0; y < y1; y += rows)
      blurRows(picture, shape, y, Math.min(y1, y + rows), out, (row) => onProgress((row - y0) / Math.max(1, y1 - y0)));
  },
};
