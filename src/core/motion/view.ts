import { shrunkBytes, type Coverage } from '../kernels/motionHost';
import { fitLongSide } from '../raster/resample';
import { fullScale, type Plane, type Raster } from '../picture';

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

const LUMA = [0.299, 0.587, 0.114] as const;

/** The view of 8-bit sRGB pixels, interleaved, that are small already. */
export function viewOfRgb(width: number, height: number, rgb: Uint8Array): MotionView {
  const data = new Float32Array(width * height);
  for (let i = 0; i < data.length; i++) data[i] = LUMA[0] * rgb[3 * i]! + LUMA[1] * rgb[3 * i + 1]! + LUMA[2] * rgb[3 * i + 2]!;
  return { width, height, rgb, luma: { width, height, data } };
}

/** Which pixels of a line each pixel of a shorter one covers. */
export function coverage(from: number, to: number): Coverage {
  const per = from / to;
  const most = Math.ceil(per) + 1;
  const first = new Int32Array(to);
  const shares = new Float32Array(to * most);
  for (let k = 0; k < to; k++) {
    const [a, b] = [k * per, Math.min(from, (k + 1) * per)];
    const begin = Math.floor(a);
    first[k] = begin;
    const own = Math.max(1, Math.ceil(b - 1e-6) - begin);
    for (let j = 0; j < own; j++) shares[k * most + j] = (Math.min(b, begin + j + 1) - Math.max(a, begin + j)) / (b - a);
  }
  return { first, most, shares };
}

/** Pixels as kernels take them: 4 bytes each. */
function fourBytes(raster: Raster): Uint8Array | Uint8ClampedArray {
  const { width, height, channels, data } = raster;
  const full = fullScale(raster);
  if (channels === 4 && full === 255) return data as Uint8Array;
  const out = new Uint8Array(width * height * 4);
  const [green, blue] = channels >= 3 ? [1, 2] : [0, 0];
  for (let i = 0, p = 0; i < width * height; i++, p += channels) {
    out[4 * i] = (data[p]! * 255) / full + 0.5;
    out[4 * i + 1] = (data[p + green]! * 255) / full + 0.5;
    out[4 * i + 2] = (data[p + blue]! * 255) / full + 0.5;
  }
  return out;
}

/** The view of a decoded frame, at most `side` px long: means over what each of its pixels covers. */
export function motionView(raster: Raster, side = MOTION_SIDE): MotionView {
  const { width, height } = fitLongSide(raster, Math.min(side, Math.max(raster.width, raster.height)));
  const { rgb, luma } = shrunkBytes(fourBytes(raster), raster.width, coverage(raster.width, width), coverage(raster.height, height));
  return { width, height, rgb, luma: { width, height, data: luma } };
}
