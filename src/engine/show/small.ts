import { linearToSrgb } from '../../core/raster/colour';
import type { Picture, Raster } from '../../core/picture';
import { fitLongSide, sampleRaster, stretch, thinRaster } from '../../core/raster/resample';

/** Long side of the picture that stands for a plate until its shot is there, px. */
export const FIRST_PICTURE_SIDE = 640;

/** A plate made small, linear light. */
export function smallOf(raster: Raster, longSide: number): Picture {
  const size = fitLongSide(raster, longSide);
  const thin = thinRaster(raster, Math.max(1, Math.floor(raster.width / size.width / 3)));
  return sampleRaster(thin, stretch(thin, size.width, size.height), size.width, size.height);
}

/** The same as sRGB, 8 bits, interleaved. */
export function bytesOfSmall(raster: Raster, longSide: number): { readonly width: number; readonly height: number; readonly rgb: Uint8Array } {
  const { width, height, data } = smallOf(raster, longSide);
  const rgb = new Uint8Array(width * height * 3);
  for (let i = 0; i < width * height; i++)
    for (let k = 0; k < 3; k++) rgb[i * 3 + k] = Math.round(255 * linearToSrgb(Math.min(1, Math.max(0, data[i * 4 + k]!))));
  return { width, height, rgb };
}
