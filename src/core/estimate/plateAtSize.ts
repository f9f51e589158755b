import type { Picture, Raster, Size } from '../picture';
import { sampleRaster, stretch, thinRaster } from '../raster/resample';

/** A plate at a size, stretched to it, linear light. Large plates are read in steps: the eye of an estimate is not that sharp. */
export function plateAtSize(raster: Raster, { width, height }: Size): Picture {
  const skip = Math.max(1, Math.floor(raster.width / width / 3));
  const small = thinRaster(raster, skip);
  return sampleRaster(small, stretch(small, width, height), width, height);
}
