import { seededRandom } from '../../random';
import { quickCurves } from '../../raster/colour';
import { gaussian } from '../../raster/filters';
import { newPlane, type Plane } from '../../picture';

/** Normal noise of unit variance whose grains are about `size` px across (Box and Muller 1958). */
export function grainPlaneTwin(width: number, height: number, size: number, seed: number): Plane {
  const random = seededRandom(seed);
  const plane = newPlane(width, height);
  for (let i = 0; i < plane.data.length; i += 2) {
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

/** One value of light with grain on it. */
export function grainTwin(light: number, grain: number): number {
  const { encode, decode } = quickCurves();
  return decode(encode(light) + grain);
}
