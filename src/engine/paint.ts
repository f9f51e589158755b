import { encodePicture8, nearnessColour } from '../core/raster/colour';
import { distanceOf, hueNearness, nearnessOf, nearnessAtDistance, type Calibration, type Spacing } from '../core/depth/calibrate';
import type { Picture, Plane } from '../core/raster/picture';

/** A linear picture as a bitmap to show. */
export function pictureBitmap(picture: Picture): Promise<ImageBitmap> {
  const rgba = new Uint8ClampedArray(picture.width * picture.height * 4);
  encodePicture8(picture, rgba);
  return createImageBitmap(new ImageData(rgba, picture.width, picture.height));
}

let ramp: Uint32Array | null = null;

/** Colours of distance for nearness 0..1 in 1024 steps, packed as little-endian RGBA. */
function distanceRamp(): Uint32Array {
  ramp ??= Uint32Array.from({ length: 1025 }, (_, i) => {
    const [r, g, b] = nearnessColour(i / 1024).map((v) => Math.round(255 * v)) as [number, number, number];
    return ((255 << 24) | (b << 16) | (g << 8) | r) >>> 0;
  });
  return ramp;
}

/** Nearness of a raw map as a bitmap, in grey or in the colours of distance. */
export function depthBitmap(raw: Plane, calibration: Calibration, colours: 'grey' | 'distance'): Promise<ImageBitmap> {
  const n = raw.width * raw.height;
  const words = new Uint32Array(n);
  const hues = distanceRamp();
  // every raw grey of 16 384 has one colour
  const table = new Uint32Array(16385);
  for (let i = 0; i < table.length; i++) {
    const nearness = nearnessOf(i / 16384, calibration);
    if (colours === 'distance') table[i] = hues[Math.round(1024 * hueNearness(distanceOf(nearness, calibration), calibration))]!;
    else {
      const g = Math.round(255 * nearness);
      table[i] = ((255 << 24) | (g << 16) | (g << 8) | g) >>> 0;
    }
  }
  for (let i = 0; i < n; i++) words[i] = table[(raw.data[i]! * 16384 + 0.5) | 0]!;
  return createImageBitmap(new ImageData(new Uint8ClampedArray(words.buffer), raw.width, raw.height));
}

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

/** Share of pixels in each bin of a ruler, from its near end to its far end. */
export function histogram(distance: Plane, ruler: { near: number; far: number; spacing: Spacing }): Float32Array {
  const bins = new Float32Array(HISTOGRAM_BINS);
  const step = Math.max(1, Math.floor(distance.data.length / 200000));
  let counted = 0;
  for (let i = 0; i < distance.data.length; i += step) {
    const place = 1 - nearnessAtDistance(distance.data[i]!, ruler);
    bins[Math.min(HISTOGRAM_BINS - 1, Math.floor(place * HISTOGRAM_BINS))]!++;
    counted++;
  }
  return bins.map((v) => v / counted);
}
