import { applyAlone } from '../src/core/effects/applyAlone';
import { lensBlur, lensBlurRadius, type LensBlurValues } from '../src/core/effects/lens/lensBlur';
import { estimateDepth } from '../src/core/estimate/estimate';
import { orderScore, spearman } from '../src/core/estimate/score';
import { blurShape } from '../src/core/kernels/blurShape';
import { blurRows, type RadiusPicture } from '../src/core/kernels/lensBlurHost';
import { focalLengthOfHfov, focalPx } from '../src/core/optics';
import { encodePicture8 } from '../src/core/raster/colour';
import type { Picture, Plane } from '../src/core/picture';
import { defaultsOf } from '../src/core/values/params';
import { psnr, ssim, table } from './metrics';
import { loadNetwork } from '../headless/network';
import { demoShot, distanceOf, indexOf, lensTruth, pinholeOf, shotNames } from './truth';

const planeOf = (width: number, height: number, f: (x: number, y: number) => number): Plane => ({
  width,
  height,
  data: Float32Array.from({ length: width * height }, (_, i) => f(((i % width) + 0.5) / width, (Math.floor(i / width) + 0.5) / height)),
});

const baselines: Record<string, Plane> = {
  'vertical ramp': planeOf(320, 180, (_, y) => y),
  'centre + ramp': planeOf(320, 180, (x, y) => y + 0.6 * Math.exp(-(((x - 0.5) / 0.3) ** 2) - ((y - 0.5) / 0.3) ** 2)),
  constant: planeOf(320, 180, () => 0.5),
};

const mean = (values: readonly number[]): number => values.reduce((a, b) => a + b, 0) / Math.max(1, values.length);

/** Share of point pairs in the right order and Spearman's ρ, beside the baselines. */
export async function estimateTable(): Promise<Record<string, number>> {
  loadNetwork();
  const columns = ['fine', 'draft', ...Object.keys(baselines)];
  const scores: Record<string, number[]> = Object.fromEntries(columns.map((c) => [c, []]));
  const rows: string[][] = [];
  for (const name of shotNames) {
    const { raster, distance } = await demoShot(name);
    const maps: Record<string, Plane> = { fine: estimateDepth(raster, 'fine')!, draft: estimateDepth(raster, 'draft')!, ...baselines };
    rows.push([
      name,
      ...columns.map((c) => {
        const order = orderScore(maps[c]!, distance);
        scores[c]!.push(order);
        return `${order.toFixed(3)} (ρ ${spearman(maps[c]!, distance).toFixed(2)})`;
      }),
    ]);
  }
  rows.push(['mean', ...columns.map((c) => mean(scores[c]!).toFixed(3))]);
  console.log(`\nEstimate: pairs in the right order (Spearman's ρ)\n${table(['shot', ...columns], rows)}`);
  return Object.fromEntries(columns.map((c) => [c, mean(scores[c]!)]));
}

export const to8 = (picture: Picture): Uint8Array => {
  const rgba = new Uint8ClampedArray(picture.data.length);
  encodePicture8(picture, rgba);
  return Uint8Array.from({ length: (rgba.length / 4) * 3 }, (_, i) => rgba[Math.floor(i / 3) * 4 + (i % 3)]!);
};

/** Baseline: the sharp picture faded into one copy blurred by the largest radius. */
function crossFade(picture: Picture, distance: Plane, p: LensBlurValues, lens: { focalPx: number; focalLength: number }): Picture {
  const { width, height } = picture;
  const radii = distance.data.map((z) => Math.abs(lensBlurRadius(p, lens, 1, z)));
  const largest = radii.reduce((a, b) => Math.max(a, b), 0.5);
  const source: RadiusPicture = { width, height, data: picture.data.slice() };
  for (let i = 0; i < width * height; i++) source.data[i * 4 + 3] = largest;
  const blurred = new Float32Array(picture.data.length);
  blurRows(source, blurShape({ blades: p.blades, rounding: 0, turn: 0 }, 0, largest), 0, height, blurred);
  const data = picture.data.map((v, i) => (i % 4 === 3 ? 1 : v + (blurred[i]! - v) * Math.min(1, radii[i >> 2]! / largest)));
  return { width, height, data };
}

/** PSNR and SSIM against thin-lens renderings, beside the baselines. */
export async function lensTable(): Promise<Record<string, number>> {
  const rows: string[][] = [];
  const all: Record<string, number[]> = { 'lens blur': [], ssim: [], 'cross-fade': [], 'no blur': [] };
  for (const name of shotNames) {
    const { width, height, hfovDegrees, lenses } = indexOf(name);
    const picture = pinholeOf(name);
    const distance = distanceOf(name);
    const lens = { focalPx: focalPx(width, hfovDegrees), focalLength: focalLengthOfHfov(hfovDegrees) };
    for (const [key, l] of Object.entries(lenses)) {
      const params: LensBlurValues = {
        ...defaultsOf(lensBlur.params),
        focus: l.focusDistance,
        aperture: lens.focalLength / 1000 / l.apertureDiameter,
        blades: l.blades,
        rounding: 0,
        turn: 0,
      };
      const truth = await lensTruth(name, key);
      const score = (p: Picture): { db: number; s: number } => ({ db: psnr(to8(p), truth), s: ssim(to8(p), truth, width, height) });
      const ours = score(await applyAlone(lensBlur, { picture, distance, params, lens }));
      const fade = score(crossFade(picture, distance, params, lens));
      const none = score(picture);
      all['lens blur']!.push(ours.db);
      all.ssim!.push(ours.s);
      all['cross-fade']!.push(fade.db);
      all['no blur']!.push(none.db);
      rows.push([name, key, ...[ours, fade, none].map((v) => `${v.db.toFixed(2)} / ${v.s.toFixed(3)}`)]);
    }
  }
  rows.push([
    'mean',
    '',
    `${mean(all['lens blur']!).toFixed(2)} / ${mean(all.ssim!).toFixed(3)}`,
    mean(all['cross-fade']!).toFixed(2),
    mean(all['no blur']!).toFixed(2),
  ]);
  console.log(`\nLens blur against thin-lens renderings: PSNR dB / SSIM\n${table(['shot', 'lens', 'lens blur', 'cross-fade', 'no blur'], rows)}`);
  return Object.fromEntries(Object.entries(all).map(([k, v]) => [k, mean(v)]));
}
