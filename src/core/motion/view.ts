import { fitLongSide } from '../raster/resample';
import { fullScale, type Plane, type Raster } from '../raster/picture';

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

/** Which pixels of a line each pixel of a shorter one covers: the first, and the share of each. */
function coverage(from: number, to: number): { readonly first: Int32Array; readonly shares: readonly Float32Array[] } {
  const first = new Int32Array(to);
  const per = from / to;
  const shares = Array.from({ length: to }, (_, k) => {
    const [a, b] = [k * per, Math.min(from, (k + 1) * per)];
    first[k] = Math.floor(a);
    const own = new Float32Array(Math.max(1, Math.ceil(b - 1e-6) - first[k]));
    for (let j = 0; j < own.length; j++) own[j] = (Math.min(b, first[k] + j + 1) - Math.max(a, first[k] + j)) / (b - a);
    return own;
  });
  return { first, shares };
}

/** The view of a decoded frame, at most `side` px long: means over what each of its pixels covers. */
export function motionView(raster: Raster, side = MOTION_SIDE): MotionView {
  const { width: w, channels, data } = raster;
  const { width, height } = fitLongSide(raster, Math.min(side, Math.max(raster.width, raster.height)));
  const scale = 255 / fullScale(raster);
  const across = coverage(w, width);
  const down = coverage(raster.height, height);
  const line = new Float32Array(width * 3);
  const sums = new Float32Array(width * 3);
  const rgb = new Uint8Array(width * height * 3);
  const luma = new Float32Array(width * height);
  const colours = channels >= 3;
  const shrinkRow = (y: number): void => {
    for (let x = 0; x < width; x++) {
      const shares = across.shares[x]!;
      let r = 0;
      let g = 0;
      let b = 0;
      for (let j = 0, p = (y * w + across.first[x]!) * channels; j < shares.length; j++, p += channels) {
        const k = shares[j]!;
        r += k * data[p]!;
        g += k * data[colours ? p + 1 : p]!;
        b += k * data[colours ? p + 2 : p]!;
      }
      line[3 * x] = r;
      line[3 * x + 1] = g;
      line[3 * x + 2] = b;
    }
  };
  let read = -1;
  for (let y = 0; y < height; y++) {
    sums.fill(0);
    const shares = down.shares[y]!;
    for (let j = 0; j < shares.length; j++) {
      const row = down.first[y]! + j;
      // the last row of one is often the first of the next
      if (row !== read) shrinkRow((read = row));
      const k = shares[j]! * scale;
      for (let i = 0; i < sums.length; i++) sums[i]! += k * line[i]!;
    }
    for (let x = 0; x < width; x++) {
      const o = y * width + x;
      luma[o] = LUMA[0] * sums[3 * x]! + LUMA[1] * sums[3 * x + 1]! + LUMA[2] * sums[3 * x + 2]!;
      for (let k = 0; k < 3; k++) rgb[3 * o + k] = sums[3 * x + k]! + 0.5;
    }
  }
  return { width, height, rgb, luma: { width, height, data: luma } };
}
