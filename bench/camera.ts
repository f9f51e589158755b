import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { layPlate } from '../src/core/camera/behind';
import { firmDistances } from '../src/core/camera/firmEdges';
import { ViewGeometry, plateLens, type CameraPose, type Placed, type PlateLens } from '../src/core/camera/pose';
import { extentOf, viewFrom } from '../src/core/camera/view';
import { newPicture, newPlane, type Picture, type Plane } from '../src/core/picture';
import { gaussian } from '../src/core/raster/filters';
import { samplePlaneLinear, sampleRaster, stretch } from '../src/core/raster/resample';
import { runAlone } from '../src/core/run';
import { decodePng } from '../src/formats/png/png';
import { fastest, table, onePass } from './metrics';
import { to8 } from './quality';
import { demoShot, shotNames } from './truth';
import { PART } from '../demo/viewParts';

interface Index {
  readonly width: number;
  readonly height: number;
  readonly hfovDegrees: number;
  readonly nearest: number;
  readonly views: Record<string, CameraPose>;
}

const bytes = (path: string): Uint8Array => new Uint8Array(readFileSync(path));
const rootsOf = (v: number): number => 64 * (v / 65535) ** 3;

function plateOf(name: string): { picture: Picture; distance: Plane; index: Index; lens: PlateLens } {
  const index = JSON.parse(readFileSync(`bench/truth/${name}.views.json`, 'utf8')) as Index;
  const { width, height, nearest } = index;
  const light = decodePng(bytes(`bench/truth/${name}.plate.png`)).data;
  const near = decodePng(bytes(`bench/truth/${name}.plate.distance.png`)).data;
  const picture = newPicture(width, height);
  const distance = newPlane(width, height);
  for (let i = 0; i < width * height; i++) {
    // what a photograph holds: nothing brighter than white
    for (let k = 0; k < 3; k++) picture.data[i * 4 + k] = Math.min(1, rootsOf(light[i * 3 + k]!));
    picture.data[i * 4 + 3] = 1;
    distance.data[i] = near[i] ? (nearest * 65535) / near[i]! : Infinity;
  }
  return { picture, distance, index, lens: plateLens(width, height, index.hfovDegrees) };
}

/** Mean PSNR, dB, over the pixels of which a part is wanted. */
function score(got: Uint8Array, truth: Uint8Array, parts: Uint8Array, wanted: (part: number) => boolean): number {
  let [sum, n] = [0, 0];
  for (let i = 0; i < parts.length; i++) {
    if (!wanted(parts[i]!)) continue;
    for (let k = 0; k < 3; k++) sum += (got[i * 3 + k]! - truth[i * 3 + k]!) ** 2;
    n += 3;
  }
  return n === 0 ? NaN : 10 * Math.log10((255 * 255) / Math.max(1e-9, sum / n));
}

const columns: Record<string, (part: number) => boolean> = {
  all: (p) => p !== PART.outside,
  visible: (p) => p === PART.core || p === PART.edge,
  'away from edges': (p) => p === PART.core,
  'at edges': (p) => p === PART.edge,
  uncovered: (p) => p === PART.uncovered,
};

/** Baseline: the picture shifted by the depth of the output pixel itself. */
function displaced({ picture, distance }: { picture: Picture; distance: Plane }, lens: PlateLens, pose: CameraPose): Picture {
  const { width: w, height: h } = picture;
  const g = new ViewGeometry(lens, pose);
  const place: Placed = { x: 0, y: 0, q: 0 };
  const out = newPicture(w, h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      g.backward(x + 0.5, y + 0.5, 1 / distance.data[y * w + x]!, place);
      const u = Math.min(w - 1.001, Math.max(0, place.x - 0.5));
      const v = Math.min(h - 1.001, Math.max(0, place.y - 0.5));
      const [x0, y0] = [Math.floor(u), Math.floor(v)];
      const at = (i: number, j: number, k: number): number => picture.data[(Math.min(h - 1, j) * w + Math.min(w - 1, i)) * 4 + k]!;
      for (let k = 0; k < 4; k++)
        out.data[(y * w + x) * 4 + k] =
          (1 - (v - y0)) * ((1 - (u - x0)) * at(x0, y0, k) + (u - x0) * at(x0 + 1, y0, k)) +
          (v - y0) * ((1 - (u - x0)) * at(x0, y0 + 1, k) + (u - x0) * at(x0 + 1, y0 + 1, k));
    }
  return out;
}

/** Inverse distances as softer maps have them: half the size and enlarged, or blurred by 2 px. */
const softened: Record<string, (q: Plane) => Plane> = {
  exact: (q) => q,
  'half the size': (q) => {
    const { width, height } = q;
    const half = newPlane(width / 2, height / 2);
    for (let i = 0; i < half.data.length; i++) {
      const at = 2 * Math.floor(i / half.width) * width + 2 * (i % half.width);
      half.data[i] = (q.data[at]! + q.data[at + 1]! + q.data[at + width]! + q.data[at + width + 1]!) / 4;
    }
    return samplePlaneLinear(half, { a: 0.5, b: 0, c: 0, d: 0, e: 0.5, f: 0 }, width, height);
  },
  'blurred by 2 px': (q) => gaussian(q, 2),
};

/** What softer maps cost, and what firm edges win back: mean PSNR, dB. */
export async function softMapTable(): Promise<Record<string, number>> {
  const results: Record<string, number[]> = {};
  for (const name of shotNames) {
    const { picture, distance, lens, index } = plateOf(name);
    const q: Plane = { ...distance, data: distance.data.map((z) => 1 / z) };
    for (const key of ['side', 'in']) {
      const pose = index.views[key]!;
      const truth = new Uint8Array(await sharp(`bench/truth/${name}.view.${key}.webp`).removeAlpha().raw().toBuffer());
      const parts = new Uint8Array(await sharp(`bench/truth/${name}.view.${key}.parts.png`).toColourspace('b-w').raw().toBuffer());
      for (const [label, soften] of Object.entries(softened)) {
        const soft = soften(q);
        const map: Plane = { ...soft, data: soft.data.map((v) => 1 / Math.max(1e-9, v)) };
        for (const firm of [false, true]) {
          const seen = { pose, enlarged: 1 };
          const reach = extentOf(lens, [seen], [0, 1 / index.nearest], 'mirrored', true);
          const got = await viewFrom(runAlone(), layPlate(picture, firm ? firmDistances(map, picture) : map, reach), lens, seen, true);
          (results[`${label}${firm ? ', firm' : ''}`] ??= []).push(score(to8(got.picture), truth, parts, columns.all!));
        }
      }
    }
  }
  const means = Object.fromEntries(Object.entries(results).map(([k, v]) => [k, v.reduce((a, b) => a + b, 0) / v.length]));
  console.log(
    `\nCamera on softer maps: PSNR dB\n${table(
      ['map', 'dB'],
      Object.entries(means).map(([k, v]) => [k, v.toFixed(2)]),
    )}`,
  );
  return means;
}

/** Views of the demo's scenes from moved cameras against the tracer's, beside simpler ways. */
export async function cameraTable(): Promise<Record<string, number>> {
  const run = runAlone();
  const ways: Record<string, (plate: ReturnType<typeof plateOf>, pose: CameraPose) => Promise<Picture> | Picture> = {
    'no move': ({ picture }) => picture,
    'displaced by depth': (plate, pose) => displaced(plate, plate.lens, pose),
    'one stretched mesh': async ({ picture, distance, lens }, pose) => {
      const reach = extentOf(lens, [{ pose, enlarged: 1 }], [0, 1], 'mirrored', false);
      return (await viewFrom(run, layPlate(picture, distance, { ...reach, gain: 1e-6 }), lens, { pose, enlarged: 1 }, true)).picture;
    },
    'camera, linear': (plate, pose) => ours(plate, pose, false),
    camera: (plate, pose) => ours(plate, pose, true),
  };
  const ours = async ({ picture, distance, lens, index }: ReturnType<typeof plateOf>, pose: CameraPose, cubic: boolean): Promise<Picture> => {
    const reach = extentOf(lens, [{ pose, enlarged: 1 }], [0, 1 / index.nearest], 'mirrored', true);
    return (await viewFrom(run, layPlate(picture, distance, reach), lens, { pose, enlarged: 1 }, cubic)).picture;
  };
  const sums: Record<string, Record<string, number[]>> = {};
  const rows: string[][] = [];
  for (const name of shotNames) {
    const plate = plateOf(name);
    for (const [key, pose] of Object.entries(plate.index.views)) {
      const truth = new Uint8Array(await sharp(`bench/truth/${name}.view.${key}.webp`).removeAlpha().raw().toBuffer());
      const parts = new Uint8Array(await sharp(`bench/truth/${name}.view.${key}.parts.png`).toColourspace('b-w').raw().toBuffer());
      for (const [way, make] of Object.entries(ways)) {
        const got = to8(await make(plate, pose));
        const found = Object.fromEntries(Object.entries(columns).map(([c, wanted]) => [c, score(got, truth, parts, wanted)]));
        for (const [c, v] of Object.entries(found)) ((sums[way] ??= {})[c] ??= []).push(v);
        if (way === 'camera') rows.push([name, key, ...Object.values(found).map((v) => v.toFixed(2))]);
      }
    }
  }
  const mean = (v: readonly number[]): number => v.filter((x) => x === x).reduce((a, b) => a + b, 0) / v.filter((x) => x === x).length;
  for (const [way, found] of Object.entries(sums)) rows.push([`mean, ${way}`, '', ...Object.values(found).map((v) => mean(v).toFixed(2))]);
  console.log(`\nCamera moves against traced views: PSNR dB\n${table(['shot', 'view', ...Object.keys(columns)], rows)}`);
  return Object.fromEntries(Object.entries(sums.camera!).map(([c, v]) => [c, mean(v)]));
}

/** Passes that are aimed at. */
const AIMS: Readonly<Record<string, string>> = { 'plate made ready': '60', 'view, cubic': '12' };

/** Time of making a plate ready, and of a view: the demo's picture with its exact distances, whole and at the size of the viewer. */
export async function cameraSpeed(): Promise<Record<string, number>> {
  const { raster, distance } = await demoShot('figurehead');
  const pose = plateOf('figurehead').index.views.side!;
  const { hfovDegrees } = plateOf('figurehead').index;
  const results: Record<string, number> = {};
  const rows: string[][] = [];
  for (const width of [856, raster.width]) {
    const height = Math.round((width * raster.height) / raster.width);
    const picture = sampleRaster(raster, stretch(raster, width, height), width, height);
    const far = newPlane(width, height);
    for (let i = 0; i < far.data.length; i++) {
      const [x, y] = [i % width, Math.floor(i / width)];
      far.data[i] = distance.data[Math.floor(((y + 0.5) * raster.height) / height) * raster.width + Math.floor(((x + 0.5) * raster.width) / width)]!;
    }
    const lens = plateLens(width, height, hfovDegrees);
    const nearest = far.data.reduce((a, b) => Math.min(a, b), Infinity);
    const reach = extentOf(lens, [{ pose, enlarged: 1 }], [0, 1 / nearest], 'mirrored', true);
    const plate = layPlate(picture, far, reach);
    const pass = await onePass(width, height);
    const times = {
      'one pass over memory': pass,
      'plate made ready': await fastest(() => layPlate(picture, far, reach), 3),
      'view, linear': await fastest(() => viewFrom(runAlone(), plate, lens, { pose, enlarged: 1 }, false)),
      'view, cubic': await fastest(() => viewFrom(runAlone(), plate, lens, { pose, enlarged: 1 }, true)),
    };
    for (const [what, ms] of Object.entries(times)) {
      rows.push([`${width}x${height}`, what, ms.toFixed(1), (ms / pass).toFixed(1), AIMS[what] ?? '']);
      results[`${width}x${height} ${what}`] = ms;
    }
  }
  console.log(`\nCamera on one thread, ms\n${table(['size', 'what', 'ms', 'passes', 'aim'], rows)}`);
  return results;
}
