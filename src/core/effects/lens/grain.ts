import { linearToSrgb, srgbToLinear } from '../../raster/colour';
import { gaussian } from '../../raster/filters';
import { newPlane, type Picture, type Plane } from '../../raster/picture';
import { seededRandom } from '../../random';

/** Normal noise of unit variance whose grains are about `size` px across. */
export function grainPlane(width: number, height: number, size: number, seed: number): Plane {
  const random = seededRandom(seed);
  const plane = newPlane(width, height);
  for (let i = 0; i < plane.data.length; i += 2) {
    // Box and Muller 1958
    const r = Math.sqrt(-2 * Math.log(1 - random()));
    const a = 2 * Math.PI * random();
    plane.data[i] = r * Math.cos(a);
    if (i + 1 < plane.data.length) plane.data[i + 1] = r * Math.sin(a);
  }
  if (size <= 1) return plane;
  const smooth = gaussian(plane, size / 2.4);
  let sum = 0;
  for (const v of smooth.data) sum += v * v;
  const gain = 1 / Math.sqrt(sum / smooth.data.length || 1);
  return { width, height, data: smooth.data.map((v) => v * gain) };
}

export interface Grain {
  /** standard deviation, share of full scale in sRGB */
  amount: number;
  /** px */
  size: number;
  monochrome: boolean;
}

/** Adds grain in place, even in the encoded picture as film and sensors show it. */
export function addGrain(picture: Picture, grain: Grain, frame: number): void {
  const { width, height, data } = picture;
  const planes = (grain.monochrome ? [1] : [1, 2, 3]).map((k) => grainPlane(width, height, grain.size, frame * 31 + k));
  for (let i = 0; i < width * height; i++)
    for (let k = 0; k < 3; k++) {
      const noise = planes[grain.monochrome ? 0 : k]!.data[i]!;
      const v = linearToSrgb(Math.max(0, data[i * 4 + k]!)) + grain.amount * noise;
      data[i * 4 + k] = srgbToLinear(Math.max(0, v));
    }
}
