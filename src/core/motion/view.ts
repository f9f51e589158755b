import { fitLongSide, sampleRaster, stretch, thinRaster } from '../raster/resample';
import { linearToSrgb } from '../raster/colour';
import type { Plane, Raster } from '../raster/picture';

/** Long side, px, at which motion is looked at. */
export const MOTION_SIDE = 480;

/** A frame as motion sees it: small, as it is encoded (evenly spaced to the eye). */
export interface MotionView {
  readonly width: number;
  readonly height: number;
  /** 8-bit sRGB, interleaved */
  readonly rgb: Uint8Array;
  /** luma 0..255 (Rec. 601 weights) */
  readonly luma: Plane;
}

/** The view of 8-bit sRGB pixels, interleaved, that are small already. */
export function viewOfRgb(width: number, height: number, rgb: Uint8Array): MotionView {
  const data = new Float32Array(width * height);
  for (let i = 0; i < data.length; i++) data[i] = 0.299 * rgb[3 * i]! + 0.587 * rgb[3 * i + 1]! + 0.114 * rgb[3 * i + 2]!;
  return { width, height, rgb, luma: { width, height, data } };
}

/** The view of a decoded frame, at most `side` px long. */
export function motionView(raster: Raster, side = MOTION_SIDE): MotionView {
  const { width, height } = fitLongSide(raster, Math.min(side, Math.max(raster.width, raster.height)));
  const thin = thinRaster(raster, Math.max(1, Math.floor(raster.width / width / 3)));
  const { data } = sampleRaster(thin, stretch(thin, width, height), width, height);
  const rgb = new Uint8Array(width * height * 3);
  for (let i = 0; i < width * height; i++)
    for (let k = 0; k < 3; k++) rgb[3 * i + k] = Math.round(255 * linearToSrgb(Math.min(1, Math.max(0, data[4 * i + k]!))));
  return viewOfRgb(width, height, rgb);
}
