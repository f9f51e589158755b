import { fog } from '../src/core/effects/air/fog';
import { applyAlone } from '../src/core/effects/applyAlone';
import { reachWeights, type ReachRange } from '../src/core/matte/reach';
import { matteColours, quickMatte, refinedMatte } from '../src/core/matte/matte';
import { focalLengthOfHfov, focalPx } from '../src/core/optics';
import { parseHex, srgbToLinear } from '../src/core/raster/colour';
import { gaussian } from '../src/core/raster/filters';
import { newPicture, type Picture, type Plane } from '../src/core/picture';
import { cutIndex, cutPicture, cutTruth, fogTruth, matteScore, type MatteScore } from './cuts';
import { fastest, psnr, table, onePass } from './metrics';
import { to8 } from './quality';
import { shotNames } from './truth';

const mean = (values: readonly number[]): number => values.reduce((a, b) => a + b, 0) / values.length;

/** The picture's own colours times the matte: what is done where nothing is known of the back. */
function ownColours(picture: Picture, matte: Plane): Picture {
  const out = newPicture(picture.width, picture.height);
  for (let i = 0; i < out.data.length; i++) out.data[i] = picture.data[i]! * matte.data[i >> 2]!;
  return out;
}

/** A map of inverse distance that lost its sharpness: blurred by 2 px, or of half the size and enlarged evenly. */
function blurred(distance: Plane): Plane {
  const soft = gaussian({ ...distance, data: distance.data.map((z) => 1 / z) }, 2);
  return { ...soft, data: soft.data.map((v) => 1 / v) };
}
function halved({ width, height, data }: Plane): Plane {
  const [w, h] = [width >> 1, height >> 1];
  const small = Float32Array.from({ length: w * h }, (_, i) => 1 / data[Math.floor(i / w) * 2 * width + (i % w) * 2]!);
  const at = (x: number, y: number): number => small[Math.min(h - 1, Math.max(0, y)) * w + Math.min(w - 1, Math.max(0, x))]!;
  const out = Float32Array.from({ length: width * height }, (_, i) => {
    // a sample stands at the middle of the pixel it was taken from
    const [x, y] = [(i % width) / 2, Math.floor(i / width) / 2];
    const [ix, iy] = [Math.floor(x), Math.floor(y)];
    const [u, v] = [x - ix, y - iy];
    return 1 / ((at(ix, iy) * (1 - u) + at(ix + 1, iy) * u) * (1 - v) + (at(ix, iy + 1) * (1 - u) + at(ix + 1, iy + 1) * u) * v);
  });
  return { width, height, data: out };
}

const METHODS: Record<string, (picture: Picture, distance: Plane, range: ReachRange) => { matte: Plane; colours: Picture }> = {
  'hard edge, own colours': (picture, distance, range) => {
    const matte = reachWeights(range, distance);
    return { matte, colours: ownColours(picture, matte) };
  },
  quick: (picture, distance, range) => {
    const matte = quickMatte(distance, range);
    return { matte, colours: matteColours(picture, matte) };
  },
  refined: (picture, distance, range) => {
    const matte = refinedMatte(picture, distance, range);
    return { matte, colours: matteColours(picture, matte) };
  },
  'refined, map of half the size': (picture, distance, range) => METHODS.refined!(picture, halved(distance), range),
  'refined, map blurred 2 px': (picture, distance, range) => METHODS.refined!(picture, blurred(distance), range),
};

/** Mattes by a reach of distances against exact coverage and colours. */
export function matteTable(): Record<string, number> {
  const scores: Record<string, MatteScore[]> = Object.fromEntries(Object.keys(METHODS).map((m) => [m, []]));
  const rows: string[][] = [];
  for (const name of shotNames) {
    const { picture, distance } = cutPicture(name);
    for (const [k, to] of cutIndex(name).cuts.entries()) {
      const truth = cutTruth(name, k);
      const row = [`${name} to ${to} m`];
      for (const [method, make] of Object.entries(METHODS)) {
        const { matte, colours } = make(picture, distance, { from: 0, to, near: 0, far: 0 });
        const score = matteScore(truth, matte, colours);
        scores[method]!.push(score);
        row.push(`${score.error.toFixed(3)} / ${score.band.toFixed(1)}`);
      }
      rows.push(row);
    }
  }
  console.log(`\nMattes: mean error in the band / dB over green, black and white\n${table(['cut', ...Object.keys(METHODS)], rows)}`);
  const means = Object.entries(scores).map(([method, all]) => {
    const of = (key: keyof MatteScore): number => mean(all.map((s) => s[key]).filter(Number.isFinite));
    return { method, error: of('error'), band: of('band'), thin: of('thin'), kept: of('kept'), stray: of('stray') };
  });
  console.log(
    `\nMean of all cuts\n${table(
      ['', 'error', 'band dB', 'thin dB', 'thin kept %', 'astray e-4'],
      means.map((m) => [m.method, m.error.toFixed(4), m.band.toFixed(2), m.thin.toFixed(2), m.kept.toFixed(0), (m.stray * 1e4).toFixed(2)]),
    )}`,
  );
  return Object.fromEntries(
    means.flatMap((m) => [
      [`${m.method}: error`, m.error],
      [`${m.method}: band`, m.band],
    ]),
  );
}

/** Time of a matte with its colours at 1920x1080, in passes over memory. */
export async function matteSpeed(): Promise<Record<string, number>> {
  const small = cutPicture('figurehead');
  const [width, height] = [1920, 1080];
  const at = (i: number): number => Math.floor(Math.floor(i / width) / 3) * small.picture.width + Math.floor((i % width) / 3);
  const picture: Picture = {
    width,
    height,
    data: Float32Array.from({ length: width * height * 4 }, (_, i) => small.picture.data[at(i >> 2) * 4 + (i & 3)]!),
  };
  const distance: Plane = { width, height, data: Float32Array.from({ length: width * height }, (_, i) => small.distance.data[at(i)]!) };
  const range = { from: 0, to: 3, near: 0, far: 0 };
  const pass = await onePass(1920, 1080);
  const time = await fastest(() => matteColours(picture, refinedMatte(picture, distance, range)), 3);
  console.log(`\nMatte with colours at 1920x1080: ${time.toFixed(0)} ms, ${(time / pass).toFixed(0)} passes (aim 30)`);
  return { ms: time, passes: time / pass };
}

/** Fog against light that was weakened sample by sample, beside the mixing of a colour by the grey of the map. */
export async function fogTable(): Promise<Record<string, number>> {
  const rows: string[][] = [];
  const all: Record<string, number[]> = { fog: [], 'by grey': [] };
  for (const name of shotNames) {
    const index = cutIndex(name);
    const { picture, distance } = cutPicture(name);
    const lens = { focalPx: focalPx(index.width, index.hfovDegrees), focalLength: focalLengthOfHfov(index.hfovDegrees) };
    const { visibility, start, colour, thins, eye, horizon } = index.fog;
    for (const kind of ['fog', 'lowFog'] as const) {
      const truth = await fogTruth(name, kind);
      const params = { visibility, start, from: 'set', colour, sky: 100, low: kind === 'lowFog', thins, eye, horizon };
      const ours = psnr(to8(await applyAlone(fog, { picture, distance, lens, params })), truth);
      const grey = bestByGrey(picture, distance, colour, truth);
      all.fog!.push(ours);
      all['by grey']!.push(grey);
      rows.push([name, kind === 'fog' ? 'everywhere' : 'low', ours.toFixed(2), grey.toFixed(2)]);
    }
  }
  rows.push(['mean', '', mean(all.fog!).toFixed(2), mean(all['by grey']!).toFixed(2)]);
  console.log(`\nFog against fog in the samples, dB\n${table(['shot', 'fog', 'fog', 'mixed by grey'], rows)}`);
  return Object.fromEntries(Object.entries(all).map(([k, v]) => [k, mean(v)]));
}

/** The colour mixed in by how dark an inverse-distance map is, at the strength that comes nearest to the truth. */
function bestByGrey(picture: Picture, distance: Plane, colour: string, truth: Uint8Array): number {
  const nearest = distance.data.reduce((a, z) => Math.min(a, z), Infinity);
  const light = parseHex(colour).map(srgbToLinear);
  let best = 0;
  for (let strength = 0.1; strength <= 1.01; strength += 0.1) {
    const data = picture.data.map((v, i) => {
      if (i % 4 === 3) return v;
      const share = strength * (1 - nearest / distance.data[i >> 2]!);
      return v + (light[i % 4]! - v) * share;
    });
    best = Math.max(best, psnr(to8({ ...picture, data }), truth));
  }
  return best;
}
