import { encodePicture8, nearnessColour } from '../../core/raster/colour';
import { nearnessAlong, nearnessOf, type Calibration, type Spacing } from '../../core/depth/calibrate';
import { greyPlaces, GREYS, slopeShade, spreadAt, spreadHues, type HueSpread } from '../../core/depth/hues';
import type { Picture, Plane } from '../../core/picture';

/** A linear picture as a bitmap to show. */
export function pictureBitmap(picture: Picture): Promise<ImageBitmap> {
  const rgba = new Uint8ClampedArray(picture.width * picture.height * 4);
  encodePicture8(picture, rgba);
  return createImageBitmap(new ImageData(rgba, picture.width, picture.height));
}

let ramp: Float32Array | null = null;

/** Colours of distance for hues 0..1 in 1024 steps: red, green, blue, 0..255. */
function distanceRamp(): Float32Array {
  ramp ??= Float32Array.from({ length: 3 * 1025 }, (_, i) => 255 * nearnessColour(Math.floor(i / 3) / 1024)[(i % 3) as 0]);
  return ramp;
}

/** How the hues lie over a picture's own depths. */
export const huesOf = (raw: Plane, calibration: Calibration): HueSpread => spreadHues(raw, greyPlaces(calibration));

/** Nearness of a raw map as RGBA, 0..255: in grey, or in the colours of distance spread by `hues` and shaded by slope. */
export function depthPixels(
  raw: Plane,
  calibration: Calibration,
  colours: 'grey' | 'distance',
  hues: HueSpread | null = null,
): Uint8ClampedArray<ArrayBuffer> {
  const { width, height, data } = raw;
  const n = width * height;
  const bytes = new Uint8ClampedArray(n * 4);
  if (colours === 'grey') {
    // every raw grey of 16 384 has one colour
    const table = Uint8ClampedArray.from({ length: 16385 }, (_, i) => 255 * nearnessOf(i / 16384, calibration));
    for (let i = 0; i < n; i++) {
      const grey = table[(data[i]! * 16384 + 0.5) | 0]!;
      bytes[i * 4] = bytes[i * 4 + 1] = bytes[i * 4 + 2] = grey;
      bytes[i * 4 + 3] = 255;
    }
    return bytes;
  }
  const places = greyPlaces(calibration);
  const spread = hues ?? spreadHues(raw, places);
  const ofGrey = places.map((place) => spreadAt(spread, place));
  const own = new Float32Array(n);
  for (let i = 0; i < n; i++) own[i] = ofGrey[(data[i]! * GREYS + 0.5) | 0]!;
  const shade = slopeShade(own, width, height);
  const ramp = distanceRamp();
  for (let i = 0; i < n; i++) {
    const at = 3 * Math.round(1024 * own[i]!);
    const light = shade[i]!;
    bytes[i * 4] = ramp[at]! * light;
    bytes[i * 4 + 1] = ramp[at + 1]! * light;
    bytes[i * 4 + 2] = ramp[at + 2]! * light;
    bytes[i * 4 + 3] = 255;
  }
  return bytes;
}

/** The same as a bitmap. */
export const depthBitmap = (raw: Plane, ...how: [Calibration, 'grey' | 'distance', (HueSpread | null)?]): Promise<ImageBitmap> =>
  createImageBitmap(new ImageData(depthPixels(raw, ...how), raw.width, raw.height));

const PAPER = 0xdce9ef;

/** A mask of strengths 0..1 in paper white, see-through elsewhere. */
export function maskBitmap(width: number, height: number, strength: (i: number) => number): Promise<ImageBitmap> {
  const words = new Uint32Array(width * height);
  for (let i = 0; i < words.length; i++) {
    const s = strength(i);
    if (s > 0) words[i] = ((Math.round(255 * s) << 24) | PAPER) >>> 0;
  }
  return createImageBitmap(new ImageData(new Uint8ClampedArray(words.buffer), width, height));
}

export const HISTOGRAM_BINS = 160;
/** So many pixels are counted, evenly over the picture. */
const COUNTED = 80000;

/** Share of pixels in each bin of a ruler, from its near end to its far end. */
export function histogram(distance: Plane, ruler: { near: number; far: number; spacing: Spacing }): Float32Array {
  const bins = new Float32Array(HISTOGRAM_BINS);
  const step = Math.max(1, Math.floor(distance.data.length / COUNTED));
  const nearness = nearnessAlong(ruler);
  let counted = 0;
  for (let i = 0; i < distance.data.length; i += step) {
    const place = 1 - nearness(distance.data[i]!);
    bins[Math.min(HISTOGRAM_BINS - 1, Math.floor(place * HISTOGRAM_BINS))]!++;
    counted++;
  }
  return bins.map((v) => v / counted);
}
