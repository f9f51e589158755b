import { mkdirSync, writeFileSync } from 'node:fs';
import { Worker, isMainThread, workerData } from 'node:worker_threads';
import sharp from 'sharp';
import { developPicture } from '../demo/develop';
import { denoise } from '../demo/tracer/denoise';
import { Tracer, viewOf, type Sample } from '../demo/tracer/trace';
import { seededRandom } from '../src/core/random';
import { randomScene } from './randomScene';

const [WIDTH, HEIGHT, SAMPLES] = [240, 160, 4];
const FOLDER = 'out/training';

/** Renders one random scene: an 8-bit picture and 1/distance as float32, side by side in out/training. */
async function renderOne(seed: number): Promise<void> {
  const scene = randomScene(seed);
  const random = seededRandom(seed);
  const tracer = new Tracer(scene, random);
  const view = viewOf(scene.camera, WIDTH);
  const n = WIDTH * HEIGHT;
  const halves = [new Float32Array(n * 3), new Float32Array(n * 3)] as const;
  const albedo = new Float32Array(n * 3);
  const nearness = new Float32Array(n);
  const sample: Sample = { r: 0, g: 0, b: 0, albedo: [0, 0, 0], normal: [0, 0, 0], distance: 0 };
  for (let i = 0; i < n; i++) {
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    nearness[i] = 1 / tracer.distanceAt(view, x + 0.5, y + 0.5, WIDTH, HEIGHT);
  }
  const middle = nearness[Math.floor(HEIGHT * 0.55) * WIDTH + (WIDTH >> 1)]!;
  const lens = scene.defocus > 0 && middle > 0 ? { apertureDiameter: scene.defocus, focusDistance: 1 / middle, blades: 0 } : null;
  for (let i = 0; i < n; i++) {
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    for (let s = 0; s < SAMPLES; s++) {
      tracer.sample(view, x + random(), y + random(), WIDTH, HEIGHT, lens, sample);
      const half = halves[s & 1]!;
      half[i * 3]! += (sample.r * 2) / SAMPLES;
      half[i * 3 + 1]! += (sample.g * 2) / SAMPLES;
      half[i * 3 + 2]! += (sample.b * 2) / SAMPLES;
      for (let k = 0; k < 3; k++) albedo[i * 3 + k]! += sample.albedo[k]! / SAMPLES;
    }
  }
  const light = (c: Float32Array): Float32Array => (lens ? c : c.map((v, i) => v / (albedo[i]! + 0.05)));
  const features = lens ? [] : [{ plane: nearness.map((v) => Math.log(v + 1e-4)), tolerance: 0.08 }];
  const clean = denoise({ width: WIDTH, height: HEIGHT, a: light(halves[0]), b: light(halves[1]) }, features, 0.5);
  if (!lens) for (let i = 0; i < n * 3; i++) clean[i]! *= albedo[i]! + 0.05;
  const sorted = clean.slice().sort();
  const white = Math.max(1e-4, sorted[Math.floor(sorted.length * 0.93)]!);
  const gain = (0.45 + 0.5 * random()) / white;
  const bytes = developPicture(
    clean.map((v) => v * gain),
    WIDTH,
    HEIGHT,
  );
  const name = `${FOLDER}/${String(seed).padStart(5, '0')}`;
  writeFileSync(
    `${name}.jpg`,
    await sharp(bytes, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
      .jpeg({ quality: 92 })
      .toBuffer(),
  );
  writeFileSync(`${name}.f32`, new Uint8Array(nearness.buffer));
}

/** `tsx training/render.ts FIRST COUNT THREADS` */
if (isMainThread) {
  mkdirSync(FOLDER, { recursive: true });
  const [first = 0, count = 100, threads = 2] = process.argv.slice(2).map(Number);
  const file = new URL(import.meta.url).href;
  for (let t = 0; t < threads; t++)
    new Worker(`import('tsx/esm/api').then(({ register }) => { register(); return import(${JSON.stringify(file)}); });`, {
      eval: true,
      workerData: { first: first + t, count, threads },
    });
} else {
  const { first, count, threads } = workerData as { first: number; count: number; threads: number };
  for (let seed = first; seed < first + count; seed += threads) await renderOne(seed).catch((error: unknown) => console.error(seed, error));
}
