import { kernels, type Kernels } from '../../kernels/loader';
import { workedRows } from '../../kernels/workedRows';
import { quickTables } from '../../raster/colour';
import { gaussianRadii } from '../../raster/filters';
import type { Picture, Plane } from '../../picture';
import type { Run } from '../../run';
import { percent, pixels, toggle } from '../../values/params';
import { defineEffect } from '../definition';

/** Puts normal noise of unit variance into the kernels' memory, its grains about `size` px across; gives its address. */
function grainInto(k: Kernels, width: number, height: number, size: number, seed: number): number {
  const count = width * height;
  let [plane, other] = [k.room(count), k.room(count)];
  k.run.normalNumbers(seed, count, plane);
  const radii = size <= 1 ? [] : gaussianRadii(size / 2.4);
  const bookmark = k.bookmark();
  const [rows, sums] = [k.room(count), k.room(2 * width + 2)];
  for (const r of radii) {
    k.run.boxPlane(plane, width, height, r, rows, sums, other);
    [plane, other] = [other, plane];
  }
  k.back(bookmark);
  if (size > 1) k.run.toUnitVariance(plane, count);
  return plane;
}

/** The same as a plane of its own. */
export function grainPlane(width: number, height: number, size: number, seed: number): Plane {
  const k = kernels();
  const bookmark = k.bookmark();
  const at = grainInto(k, width, height, size, seed);
  const data = k.floats(at, width * height).slice();
  k.back(bookmark);
  return { width, height, data };
}

interface Grain {
  /** standard deviation, share of full scale in sRGB */
  readonly amount: number;
  /** px */
  readonly size: number;
  readonly monochrome: boolean;
}

/** Grain added to a picture, even in the encoded picture as film and sensors show it. Coverage is left alone. */
export function withGrain(picture: Picture, grain: Grain, frame: number, run: Run): Picture {
  const { width, height } = picture;
  return workedRows(picture, run, (k, row) => {
    const planes = (grain.monochrome ? [1] : [1, 2, 3]).map((n) => grainInto(k, width, height, grain.size, frame * 31 + n));
    const [red, green, blue] = grain.monochrome ? [planes[0]!, planes[0]!, planes[0]!] : (planes as [number, number, number]);
    const { encode, decode } = quickTables();
    const [encodeAt, decodeAt] = [k.putDoubles(encode), k.putDoubles(decode)];
    return (y) => {
      const from = y * width * 4;
      k.run.grainRow(row, width, red + from, green + from, blue + from, grain.amount, encodeAt, decodeAt);
    };
  });
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
    return withGrain(picture, { amount: p.amount / 100, size: p.size * pxScale, monochrome: p.monochrome }, input.at.frame, run);
  },
});
