import '../headless/kernels';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import sharp from 'sharp';
import { encode as encodePng } from 'fast-png';
import { writeCutTruth } from './cutTruth';
import { writeMaps, writeMovingClip } from './movingClip';
import { writeRelightTruth } from './relightTruth';
import { writeViewTruth } from './viewTruth';
import { developPicture } from './develop';
import { sceneNamed } from './scenes/index';
import type { Scene } from './tracer/scene';
import { seededRandom } from '../src/core/random';
import { renderFrame, type Frame, type SeenFrame } from './tracer/renderFrame';
import { Tracer, viewOf, type Lens } from './tracer/trace';
import { encodeSrgb, packLight } from './truthValues';

/**
 * Renders the demo's pictures with their exact depth (public/demo) and the thin-lens truth of the benchmarks (bench/truth).
 * `npm run demo:render [-- STAGE… SCENE…]`, stages: demo, truth, cuts (bench/truth: cut out, and in fog), views (from moved cameras), relight (under an even sky, and with one lamp), clip (the moving shot and its damaged clip of maps, encoded by Chromium). Finished light is kept in out/ so that a broken run goes on where it stopped.
 */
const WIDTH = 1600;
const HEIGHT = 900;
const SAMPLES = 36;
const BENCH_WIDTH = 800;
const BENCH_HEIGHT = 450;
const LENS_SAMPLES = 144;
const SPARK_RAYS = 30000;
/** largest blur radius of the truth pictures, px at BENCH_WIDTH */
const LARGEST_BLUR = 16;

const shots: Record<string, { title: string; focus: [number, number] }> = {
  chartTable: { title: '01 Chart table', focus: [0.62, 1.28] },
  quayLamp: { title: '02 Quay lamp', focus: [2.75, 11] },
  figurehead: { title: '03 Figurehead', focus: [2.15, 6] },
  dunes: { title: '05 Dunes', focus: [2.6, 30] },
};

const threads = availableParallelism();

async function pinhole(name: string): Promise<Frame> {
  const file = `out/${name}.light`;
  const n = WIDTH * HEIGHT;
  if (existsSync(file)) {
    const bytes = readFileSync(file);
    const all = new Float32Array(bytes.buffer, bytes.byteOffset, n * 4);
    return { width: WIDTH, height: HEIGHT, rgb: all.slice(0, n * 3), distance: all.slice(n * 3), layers: [] };
  }
  const frame = await renderFrame({ scene: name, width: WIDTH, height: HEIGHT, samples: SAMPLES, lens: null }, threads, 1);
  const all = new Float32Array(n * 4);
  all.set(frame.rgb);
  all.set(frame.distance, n * 3);
  mkdirSync('out', { recursive: true });
  writeFileSync(file, new Uint8Array(all.buffer));
  return frame;
}

async function writeDemo(name: string, scene: Scene, light: Frame): Promise<void> {
  mkdirSync('public/demo', { recursive: true });
  const picture = developPicture(
    light.rgb.map((v) => v * scene.exposure),
    WIDTH,
    HEIGHT,
  );
  writeFileSync(
    `public/demo/${name}.jpg`,
    await sharp(picture, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
      .jpeg({ quality: 93, chromaSubsampling: '4:4:4' })
      .toBuffer(),
  );
  const { near, far } = scene.ends;
  const grey = Uint16Array.from(light.distance, (z) => {
    const inverse = (1 / z - 1 / far) / (1 / near - 1 / far);
    return Math.round(65535 * Math.min(1, Math.max(0, inverse)));
  });
  writeFileSync(`public/demo/${name}.depth.png`, encodePng({ width: WIDTH, height: HEIGHT, data: grey, channels: 1, depth: 16 }));
  const index = 'public/demo/demo.json';
  const all = existsSync(index) ? (JSON.parse(readFileSync(index, 'utf8')) as { shots: Record<string, unknown> }) : { shots: {} };
  all.shots[name] = {
    title: shots[name]!.title,
    hfovDegrees: scene.camera.hfovDegrees,
    near,
    far,
    spacing: 'perspective',
    focus: shots[name]!.focus,
  };
  writeFileSync(index, `${JSON.stringify(all, null, 2)}\n`);
}

function seenOf(light: Frame): SeenFrame {
  const share = (a: Float32Array): SharedArrayBuffer => {
    const s = new SharedArrayBuffer(a.byteLength);
    new Float32Array(s).set(a);
    return s;
  };
  return { width: WIDTH, height: HEIGHT, rgb: share(light.rgb), distance: share(light.distance) };
}

async function writeTruth(name: string, scene: Scene, light: Frame): Promise<void> {
  mkdirSync('bench/truth', { recursive: true });
  const seen = seenOf(light);
  const view = viewOf(scene.camera, BENCH_WIDTH);
  const tracer = new Tracer(scene, seededRandom(3), null);
  const render = async (lens: Lens | null): Promise<Frame> => {
    const job = { scene: name, width: BENCH_WIDTH, height: BENCH_HEIGHT, samples: LENS_SAMPLES, lens };
    const frame = await renderFrame(job, threads, 1, seen);
    tracer.splatSparks(view, BENCH_WIDTH, BENCH_HEIGHT, lens, SPARK_RAYS, frame.rgb);
    return { ...frame, rgb: frame.rgb.map((v) => v * scene.exposure) };
  };
  const flat = await render(null);
  const nearest = flat.distance.reduce((a, b) => Math.min(a, b), Infinity);
  const png = (data: Uint16Array, channels: 1 | 3): Uint8Array => encodePng({ width: BENCH_WIDTH, height: BENCH_HEIGHT, data, channels, depth: 16 });
  writeFileSync(`bench/truth/${name}.pinhole.png`, png(Uint16Array.from(flat.rgb, packLight), 3));
  writeFileSync(
    `bench/truth/${name}.distance.png`,
    png(
      Uint16Array.from(flat.distance, (z) => Math.round((65535 * nearest) / z)),
      1,
    ),
  );
  const lenses: Record<string, Lens> = {};
  for (const [key, focus, blades] of [
    ['near', shots[name]!.focus[0], 0],
    ['far', shots[name]!.focus[1], 0],
    ['hexagon', shots[name]!.focus[0] * 1.35, 6],
  ] as const) {
    const widest = Math.max(Math.abs(1 / focus - 1 / nearest), 1 / focus);
    lenses[key] = { apertureDiameter: (2 * LARGEST_BLUR) / (view.focalPx * widest), focusDistance: focus, blades };
    const frame = await render(lenses[key]);
    const bytes = Uint8Array.from(frame.rgb, encodeSrgb);
    writeFileSync(
      `bench/truth/${name}.${key}.png`,
      await sharp(bytes, { raw: { width: BENCH_WIDTH, height: BENCH_HEIGHT, channels: 3 } })
        .png({ compressionLevel: 9 })
        .toBuffer(),
    );
    console.log(`${name} ${key} done`);
  }
  writeFileSync(
    `bench/truth/${name}.json`,
    `${JSON.stringify({ width: BENCH_WIDTH, height: BENCH_HEIGHT, hfovDegrees: scene.camera.hfovDegrees, nearest, lenses }, null, 2)}\n`,
  );
}

const writers: Record<string, (name: string, scene: Scene, light: Frame) => Promise<void>> = {
  demo: writeDemo,
  truth: writeTruth,
  cuts: (name, scene, light) => writeCutTruth(name, scene, seenOf(light), threads),
  views: (name, scene, light) => writeViewTruth(name, scene, seenOf(light), threads),
  relight: (name, scene) => writeRelightTruth(name, scene, threads),
};
const wanted = process.argv.slice(2);
const stages = wanted.filter((w) => w in writers);
const CLIP_STAGES = ['clip', 'maps'];
const names = wanted.filter((w) => !(w in writers) && !CLIP_STAGES.includes(w));
if (wanted.includes('clip') || (stages.length === 0 && !wanted.includes('maps'))) await writeMovingClip(threads);
if (wanted.includes('maps')) await writeMaps();
for (const name of names.length > 0 ? names : wanted.some((w) => CLIP_STAGES.includes(w)) ? [] : Object.keys(shots)) {
  const scene = await sceneNamed(name);
  const light = await pinhole(name);
  for (const [stage, write] of Object.entries(writers)) if (stages.length === 0 || stages.includes(stage)) await write(name, scene, light);
  console.log(`${name} written`);
}
