import { calibrateMap } from '../src/core/depth/calibrate';
import { applyAlone } from '../src/core/effects/applyAlone';
import { lensBlur } from '../src/core/effects/lens/lensBlur';
import { loadNetwork } from '../headless/network';
import { estimateDepth } from '../src/core/estimate/estimate';
import { guidedEnlarge, picturesRows } from '../src/core/kernels/guidedHost';
import { packLight } from '../src/core/kernels/lensBlurHost';
import { seededRandom } from '../src/core/random';
import { encodePicture8 } from '../src/core/raster/colour';
import { newPlane, type Picture, type Plane, type Raster } from '../src/core/picture';
import { sampleRaster, shrinkPicture, stretch } from '../src/core/raster/resample';
import { defaultsOf } from '../src/core/values/params';
import { fastest, table, onePass } from './metrics';

const SIZES = { viewer: [856, 482], '1080p': [1920, 1080], '4K': [3840, 2160] } as const;

const rasterOf = (width: number, height: number): Raster => {
  const random = seededRandom(3);
  return {
    width,
    height,
    channels: 4,
    data: Uint8Array.from({ length: width * height * 4 }, (_, i) => (i % 4 === 3 ? 255 : ((i >> 6) * 7 + 60 * random()) & 255)),
  };
};

/** Upright things before a ground: radii with edges, as pictures have. */
const mapOf = (width: number, height: number): Plane => {
  const plane = newPlane(width, height);
  for (let i = 0; i < plane.data.length; i++) {
    const x = (i % width) / width;
    const y = Math.floor(i / width) / height;
    plane.data[i] = Math.sin(x * 23) > 0.7 && y > 0.2 ? 0.9 : Math.max(0.02, y - 0.3);
  }
  return plane;
};

/** Passes that are aimed at. */
const AIMS: Readonly<Record<string, string>> = { 'plate to linear light': '3', 'map to distance': '3', 'encode to 8 bit': '2' };
const BLUR_AIMS: Readonly<Record<string, string>> = { viewer: '18', '1080p': '30', '4K': '45' };
const aimOf = (size: string, stage: string): string => AIMS[stage] ?? (stage.startsWith('lens blur') ? BLUR_AIMS[size]! : '');

/** Time of every stage, ms and multiples of one pass over memory (see onePass). */
export async function speedTable(): Promise<Record<string, number>> {
  loadNetwork();
  const rows: string[][] = [];
  const results: Record<string, number> = {};
  for (const [label, [width, height]] of Object.entries(SIZES)) {
    const raster = rasterOf(width, height);
    const picture: Picture = sampleRaster(raster, stretch(raster, width, height), width, height);
    const pass = await onePass(width, height);
    const map = mapOf(width, height);
    const calibration = { low: 0, high: 1, turnOver: false, bend: 1, near: 1, far: 40, spacing: 'perspective' as const };
    const distance = calibrateMap(map, calibration);
    const packed = picture.data.slice();
    const small = shrinkPicture(picture, width >> 2, height >> 2);
    const smallMap = mapOf(width >> 2, height >> 2);
    const largest = Math.round((12 * width) / 856);
    // focused on 2 m; the opening is set so that the largest radius is as given
    const lens = { focalPx: width, focalLength: 36 };
    const aperture = 0.036 / ((2 * largest) / (width * 0.5));
    const params = { ...defaultsOf(lensBlur.params), focus: 2, aperture };
    const rgba = new Uint8ClampedArray(width * height * 4);
    const stages: Record<string, () => unknown> = {
      'plate to linear light': () => sampleRaster(raster, stretch(raster, width, height), width, height),
      'map to distance': () => calibrateMap(map, calibration),
      'guided filter (1/4)': () => guidedEnlarge(small, smallMap, 2, 1e-4, picturesRows(picture)),
      'radii, firm map edges': () =>
        packLight(
          picture.data,
          distance.data,
          width,
          { atInfinity: largest, scale: 2 * largest, least: -largest, most: largest, snapAbove: 1.5 },
          packed,
        ),
      [`lens blur, up to ${largest} px`]: () => applyAlone(lensBlur, { picture, distance, params, lens }),
      'encode to 8 bit': () => encodePicture8(picture, rgba),
    };
    rows.push([`${label} ${width}x${height}`, 'one pass over memory', pass.toFixed(2), '1.0', '']);
    for (const [stage, work] of Object.entries(stages)) {
      const ms = await fastest(work, label === '4K' ? 3 : 10);
      results[`${label} ${stage}`] = ms;
      rows.push(['', stage, ms.toFixed(1), (ms / pass).toFixed(1), aimOf(label, stage)]);
    }
  }
  const large = rasterOf(4000, 3000);
  for (const quality of ['draft', 'fine'] as const) {
    const ms = await fastest(() => estimateDepth(large, quality), 2);
    results[`estimate ${quality} 12 MP`] = ms;
    rows.push(['12 MP 4000x3000', `estimate, ${quality}`, ms.toFixed(0), '', '']);
  }
  console.log(`\nSpeed, one thread, best of several runs\n${table(['size', 'stage', 'ms', 'passes', 'aim'], rows)}`);
  return results;
}
