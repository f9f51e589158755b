import { seededRandom } from '../../random';
import { quickCurves } from '../../raster/colour';
import { gaussian } from '../../raster/filters';
import { newPicture, newPlane, type Picture, type Plane } from '../../raster/picture';
import { percent, pixels, toggle } from '../../values/params';
import { defineEffect } from '../definition';

/** Normal noise of unit variance whose grains are about `size` px across (Box and Muller 1958). */
export function grainPlane(width: number, height: number, size: number, seed: number): Plane {
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

interface Grain {
  /** standard deviation, share of full scale in sRGB */
  readonly amount: number;
  /** px */
  readonly size: number;
  readonly monochrome: boolean;
}

/** Grain added to a picture, even in the encoded picture as film and sensors show it. Coverage is left alone. */
export function withGrain({ width, height, data }: Picture, grain: Grain, frame: number, shared = false): Picture {
  const out = newPicture(width, height, shared);
  const planes = (grain.monochrome ? [1] : [1, 2, 3]).map((k) => grainPlane(width, height, grain.size, frame * 31 + k));
  const { encode, decode } = quickCurves();
  const [a, b, c] = [planes[0]!.data, planes[grain.monochrome ? 0 : 1]!.data, planes[grain.monochrome ? 0 : 2]!.data];
  for (let i = 0, o = 0; i < width * height; i++, o += 4) {
    out.data[o] = decode(encode(data[o]!) + grain.amount * a[i]!);
    out.data[o + 1] = decode(encode(data[o + 1]!) + grain.amount * b[i]!);
    out.data[o + 2] = decode(encode(data[o + 2]!) + grain.amount * c[i]!);
    out.data[o + 3] = data[o + 3]!;
  }
  return out;
}

/** Grain of film or of a sensor, new with every frame. */
export const grain = defineEffect({
  kind: 'grain',
  group: 'frame',
  label: 'Grain',
  help: 'Grain of film or of a sensor: matches what a blur removed',
  params: {
    amount: percent({ label: 'Amount', min: 0, max: 20, decimals: 1, step: 0.5, default: 3, help: 'Standard deviation, of full scale' }),
    size: pixels({ label: 'Size', min: 1, max: 8, default: 1.5 }),
    monochrome: toggle({ label: 'Monochrome', default: true }),
  },
  reach: true,
  needs: (p) => (p.amount > 0 ? ['time'] : []),
  summary: (p) => `${p.amount.toFixed(1)} %`,
  apply(input) {
    const { picture, params: p, pxScale, run } = input;
    if (p.amount <= 0) return picture;
    return withGrain(picture, { amount: p.amount / 100, size: p.size * pxScale, monochrome: p.monochrome }, input.at.frame, run.shared);
  },
});
