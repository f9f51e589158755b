import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { newEffect, newLayer, newShot } from '../src/core/document/defaults';
import type { EffectItem } from '../src/core/document/schema';
import { effectOf, effects } from '../src/core/effects/registry';
import { runAlone } from '../src/core/run';
import { finishedPicture } from '../src/core/shot/chain';
import { StageStore } from '../src/engine/memory/stageStore';
import { applyAlone } from '../src/core/effects/applyAlone';
import { depthField } from '../src/core/light/depthField';
import type { Light, Surfaces } from '../src/core/light/lights';
import { relit } from '../src/core/light/relight';
import { focalPx } from '../src/core/optics';
import { newPicture, newPlane, type Picture, type Plane } from '../src/core/picture';
import { srgbToLinear } from '../src/core/raster/colour';
import { sampleRaster, stretch } from '../src/core/raster/resample';
import { decodePng } from '../src/formats/png/png';
import { fastest, psnr, table, onePass } from './metrics';
import { to8 } from './quality';
import { demoShot, shotNames } from './truth';

interface Index {
  readonly width: number;
  readonly height: number;
  readonly hfovDegrees: number;
  readonly nearest: number;
  /** radiance of the even sky */
  readonly sky: number;
  readonly radius: number;
  readonly at: readonly [number, number, number];
  readonly intensity: readonly [number, number, number];
}

interface Lit {
  readonly index: Index;
  readonly plate: Picture;
  readonly distance: Plane;
  readonly truth: Uint8Array;
}

/** A scene under an even sky, its exact distances, and the same with one lamp added. */
async function litScene(name: string): Promise<Lit> {
  const index = JSON.parse(readFileSync(`bench/truth/${name}.relight.json`, 'utf8')) as Index;
  const { width, height, nearest } = index;
  const rgb = async (light: string): Promise<Uint8Array> =>
    new Uint8Array(await sharp(`bench/truth/${name}.${light}.webp`).removeAlpha().raw().toBuffer());
  const even = await rgb('even');
  const plate = newPicture(width, height);
  for (let i = 0; i < width * height; i++) {
    for (let k = 0; k < 3; k++) plate.data[i * 4 + k] = srgbToLinear(even[i * 3 + k]! / 255);
    plate.data[i * 4 + 3] = 1;
  }
  const grey = decodePng(new Uint8Array(readFileSync(`bench/truth/${name}.even.distance.png`))).data;
  const distance = newPlane(width, height);
  for (let i = 0; i < distance.data.length; i++) distance.data[i] = grey[i] ? (nearest * 65535) / grey[i]! : Infinity;
  return { index, plate, distance, truth: await rgb('lamp') };
}

const BARE: Surfaces = { even: 1, shading: 0, hollows: 0, balance: 0, gloss: 0, roughness: 0.5, relief: 1, shadows: false };
const METHODS: Record<string, Partial<Surfaces>> = {
  'normals, no shadow': {},
  'with shadow': { shadows: true },
  'and shading out': { shadows: true, shading: 1, hollows: 1 },
  'and colour out': { shadows: true, shading: 1, hollows: 1, balance: 1 },
};

const mean = (values: readonly number[]): number => values.reduce((a, b) => a + b, 0) / values.length;

/** The brightness of what was added that comes nearest to the truth, and how near. */
function fitted(plate: Picture, lit: Picture, truth: Uint8Array): number {
  let best = 0;
  for (let k = 0.4; k < 2.6; k *= 1.06) {
    const data = plate.data.map((v, i) => v + k * (lit.data[i]! - v));
    best = Math.max(best, psnr(to8({ ...plate, data }), truth));
  }
  return best;
}

/** Relighting against a traced lamp, dB as it is and with one brightness fitted. */
export async function relightTable(): Promise<Record<string, number>> {
  const rows: string[][] = [];
  const all: Record<string, { is: number[]; fit: number[] }> = {};
  const note = (method: string, is: number, fit: number): string => {
    const found = (all[method] ??= { is: [], fit: [] });
    found.is.push(is);
    found.fit.push(fit);
    return `${is.toFixed(2)} / ${fit.toFixed(2)}`;
  };
  for (const name of shotNames) {
    const { index, plate, distance, truth } = await litScene(name);
    const field = depthField(distance, focalPx(index.width, index.hfovDegrees));
    const row = [name];
    const unlit = psnr(to8(plate), truth);
    row.push(note('plate', unlit, unlit));
    for (const [method, surfaces] of Object.entries(METHODS)) {
      const lamp: Light = { is: 'lamp', place: index.at, intensity: index.intensity, size: index.radius };
      const lit = relit(plate, plate, field, [lamp], { ...BARE, even: index.sky, ...surfaces }, 1, (_, make) => make());
      row.push(note(method, psnr(to8(lit), truth), fitted(plate, lit, truth)));
    }
    rows.push(row);
  }
  const methods = Object.keys(all);
  rows.push(['mean', ...methods.map((m) => `${mean(all[m]!.is).toFixed(2)} / ${mean(all[m]!.fit).toFixed(2)}`)]);
  console.log(`\nRelight: one lamp added, dB as it is / with one brightness fitted\n${table(['scene', ...methods], rows)}`);
  return Object.fromEntries(methods.flatMap((m) => [[m, mean(all[m]!.is)] as const, [`${m}, fitted`, mean(all[m]!.fit)] as const]));
}

/** Time of every effect as it comes, at 1920x1080 on one thread. */
export async function effectSpeed(): Promise<Record<string, number>> {
  const [width, height] = [1920, 1080];
  const { raster, distance: map } = await demoShot('figurehead');
  const picture = sampleRaster(raster, stretch(raster, width, height), width, height);
  const at = (i: number): number =>
    Math.floor((Math.floor(i / width) * map.height) / height) * map.width + Math.floor(((i % width) * map.width) / width);
  const distance: Plane = { width, height, data: Float32Array.from({ length: width * height }, (_, i) => map.data[at(i)]!) };
  const lens = { focalPx: focalPx(width, 50), focalLength: 38 };
  const pass = await onePass(width, height);
  const ground = {
    subject: 2.15,
    behind: 2.7,
    near: 1.6,
    middle: 4,
    far: 30,
    tangentX: width / 2 / lens.focalPx,
    tangentY: height / 2 / lens.focalPx,
  };
  const rows: string[][] = [];
  const results: Record<string, number> = {};
  const time = async (label: string, kind: string, params: Record<string, number | boolean | string>): Promise<void> => {
    const effect = effects.find((e) => e.kind === kind)!;
    const kept = new Map<string, Float32Array>();
    const fromDepth = (name: string, make: () => Float32Array): Float32Array => {
      // normals and the like belong to the map: made once for all lamps
      if (name.startsWith('seen')) return make();
      const found = kept.get(name) ?? make();
      kept.set(name, found);
      return found;
    };
    const run = (): unknown =>
      applyAlone(effect, { picture, distance, lens, params: { ...(effect.startOn?.(ground) as typeof params), ...params }, fromDepth });
    await run();
    const ms = await fastest(run, 3);
    results[label] = ms / pass;
    rows.push([label, ms.toFixed(0), (ms / pass).toFixed(0)]);
  };
  for (const { kind } of effects) await time(kind, kind, {});
  await time('fog with patches', 'fog', { patches: 60 });
  await time('relight, no shadow', 'relight', { shadows: false });
  await time('relight, sharp shadow', 'relight', { size: 0 });
  console.log(
    `\nEffects as they come at 1920x1080, one thread (one pass over memory: ${pass.toFixed(1)} ms)\n${table(['effect', 'ms', 'passes'], rows)}`,
  );
  return results;
}

/** So large is the viewer's picture, and so large the one that it shows first. */
const FULL = { width: 856, height: 482 };
const FIRST = { width: 286, height: 161 };

/** From a changed number to the first and to the full picture, with several effects on, one thread. */
export async function chainSpeed(): Promise<Record<string, number>> {
  const { raster, distance } = await demoShot('figurehead');
  const map: Plane = { ...distance, data: distance.data.map((z) => (1 / z - 1 / 8) / (1 - 1 / 8)) };
  const file = { sha256: 'a'.repeat(64), name: 'p.jpg', width: raster.width, height: raster.height, bits: 8, hfovFromFile: 50 };
  const ground = { subject: 2.15, behind: 2.7, near: 2, middle: 6, far: 8, tangentX: 0.466, tangentY: 0.262 };
  const item = (kind: string): EffectItem => {
    const made = newEffect(kind);
    return { ...made, values: { ...made.values, ...(effectOf(kind).startOn?.(ground) as EffectItem['values']) } };
  };
  const rows: string[][] = [];
  const results: Record<string, number> = {};
  for (const [label, kinds] of Object.entries({
    'isolate, fog, lens blur': ['isolate', 'fog', 'lens-blur'],
    'relight, glow, vignette': ['relight', 'glow', 'vignette'],
    'ten effects': ['grade', 'isolate', 'relight', 'fog', 'dust', 'lens-blur', 'glow', 'fringe', 'vignette', 'grain'],
  })) {
    const cache = new StageStore(600e6);
    const held = { raster: () => raster, plane: () => ({ key: 'map', plane: map }) };
    const shot = newShot(file);
    shot.settings.layers = [newLayer('imported', { sha256: 'b'.repeat(64), name: 'd.png', width: map.width, height: map.height })];
    shot.settings.calibration = { ...shot.settings.calibration, near: 1, far: 8, scaled: true };
    shot.settings.effects = kinds.map(item);
    const first = shot.settings.effects[0]!;
    const number = Object.entries(effectOf(first.kind).params).find(([, p]) => p.type === 'number')![0];
    const time = async (size: typeof FULL, quick: boolean): Promise<number> => {
      const started = performance.now();
      await finishedPicture({ plate: file, settings: shot.settings, at: { frame: 0, fps: 24 }, size }, { held, cache, run: runAlone(), quick });
      return performance.now() - started;
    };
    // everything is warm; the first effect of all is changed, so that all that follows is made again
    for (const [size, quick] of [
      [FIRST, true],
      [FULL, false],
    ] as const)
      await time(size, quick);
    const spent: Record<string, number[]> = { first: [], full: [] };
    for (let n = 1; n <= 5; n++) {
      first.values = { ...first.values, [number]: Number(first.values[number]) * 1.01 + 0.001 };
      spent.first!.push(await time(FIRST, true));
      spent.full!.push(await time(FULL, false));
    }
    const [quick, full] = [spent.first!, spent.full!].map((t) => t.sort((a, b) => a - b)[2]!);
    results[`${label}, first`] = quick!;
    results[`${label}, full`] = full!;
    rows.push([label, quick!.toFixed(0), full!.toFixed(0)]);
  }
  console.log(
    `\nA number of the first effect changed, ms, median of five, one thread\n${table(['effects', 'first picture', `full at ${FULL.width}x${FULL.height}`], rows)}`,
  );
  return results;
}
