import '../headless/kernels';
import { mkdirSync, writeFileSync } from 'node:fs';
import { Worker, isMainThread, workerData } from 'node:worker_threads';
import sharp from 'sharp';
import { developPicture } from '../demo/develop';
import { Tracer, viewOf, type Sample } from '../demo/tracer/trace';
import { blurShape } from '../src/core/kernels/blurShape';
import { blurRows } from '../src/core/kernels/lensBlurHost';
import { linearToSrgb, srgbToLinear } from '../src/core/raster/colour';
import { seededRandom } from '../src/core/random';
import { randomScene } from './randomScene';

const [WIDTH, HEIGHT, SAMPLES] = [240, 160, 4];
const FOLDER = 'out/training';

/** The middle of a binomial row, as the à-trous filter weighs its taps. */
const TAPS = [3 / 8, 1 / 4, 1 / 16];

/**
 * Evens out light (RGB) over pixels of like distance and facing, by an à-trous filter (Dammertz et al. 2010) that also stops where light
 * differs by more than its noise, told by two independent halves (Schied et al. 2017). Quick rather than exact: these pictures are small
 * and many.
 */
function settle(a: Float32Array, b: Float32Array, nearness: Float32Array, normals: Float32Array): Float32Array {
  const n = WIDTH * HEIGHT;
  const logs = nearness.map((v) => Math.log(v + 1e-4));
  let light = a.map((v, i) => (v + b[i]!) / 2);
  const luma = (c: Float32Array, i: number): number => 0.3 * c[3 * i]! + 0.6 * c[3 * i + 1]! + 0.1 * c[3 * i + 2]!;
  const around = (x: number, y: number, r: number, f: (j: number, dx: number, dy: number) => void): void => {
    for (let v = Math.max(0, y - r); v <= Math.min(HEIGHT - 1, y + r); v++)
      for (let u = Math.max(0, x - r); u <= Math.min(WIDTH - 1, x + r); u++) f(v * WIDTH + u, u - x, v - y);
  };
  // a pixel that outshines all about it met a lamp by chance, one far darker met none
  const firsts = light.slice();
  for (let i = 0; i < n; i++) {
    const about: number[] = [];
    around(i % WIDTH, Math.floor(i / WIDTH), 1, (j) => {
      if (j !== i) about.push(luma(firsts, j));
    });
    about.sort((p, q) => p - q);
    const own = luma(firsts, i);
    const kept = Math.min(about[about.length - 2]!, Math.max(about[1]!, own));
    for (let k = 0; k < 3; k++) light[3 * i + k] = own > 0 ? (firsts[3 * i + k]! * kept) / own : kept;
  }
  const noise = new Float32Array(n);
  for (let i = 0; i < n; i++) {
    let [sum, count] = [0, 0];
    around(i % WIDTH, Math.floor(i / WIDTH), 3, (j) => {
      sum += (luma(a, j) - luma(b, j)) ** 2 / 4;
      count++;
    });
    noise[i] = Math.sqrt(sum / count);
  }
  for (const step of [1, 2, 4]) {
    const out = new Float32Array(n * 3);
    const smooth = new Float32Array(n);
    for (let i = 0; i < n; i++) {
      let count = 0;
      around(i % WIDTH, Math.floor(i / WIDTH), 1, (j) => {
        smooth[i]! += luma(light, j);
        count++;
      });
      smooth[i]! /= count;
    }
    for (let i = 0; i < n; i++) {
      const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
      const own = smooth[i]!;
      let total = 0;
      for (let dy = -2; dy <= 2; dy++)
        for (let dx = -2; dx <= 2; dx++) {
          const [u, v] = [x + dx * step, y + dy * step];
          if (u < 0 || v < 0 || u >= WIDTH || v >= HEIGHT) continue;
          const j = v * WIDTH + u;
          const facing = normals[3 * i]! * normals[3 * j]! + normals[3 * i + 1]! * normals[3 * j + 1]! + normals[3 * i + 2]! * normals[3 * j + 2]!;
          const apart = Math.abs(logs[i]! - logs[j]!) / (0.03 * (1 + Math.hypot(dx, dy) * step));
          const differs = Math.abs(own - smooth[j]!) / ((3 / step) * noise[i]! + 0.02 * own + 1e-6);
          const w = TAPS[Math.abs(dx)]! * TAPS[Math.abs(dy)]! * Math.max(0, facing) ** 16 * Math.exp(-apart - differs) + (i === j ? 1e-6 : 0);
          total += w;
          for (let k = 0; k < 3; k++) out[3 * i + k]! += w * light[3 * j + k]!;
        }
      for (let k = 0; k < 3; k++) out[3 * i + k]! /= total;
    }
    light = out;
  }
  return light;
}

/**
 * A picture as an open lens sees it, in place of the sharp one: photographs of a subject leave what lies behind it far more blurred than
 * anything else tells of its distance. Focused on something near the middle, most often the nearest of it.
 */
function defocused(bytes: Uint8Array, nearness: Float32Array, random: () => number): Uint8Array {
  const places = Array.from({ length: 6 }, () => {
    const [x, y] = [WIDTH * (0.2 + 0.6 * random()), HEIGHT * (0.2 + 0.7 * random())];
    return nearness[Math.floor(y) * WIDTH + Math.floor(x)]!;
  }).sort((p, q) => q - p);
  const focus = Math.max(1e-6, places[random() < 0.7 ? 1 : 3]!);
  const atInfinity = 1.5 * 10 ** random();
  const data = new Float32Array(WIDTH * HEIGHT * 4);
  let [least, most] = [0, 0];
  for (let i = 0; i < nearness.length; i++) {
    const radius = Math.max(-18, atInfinity * (1 - nearness[i]! / focus));
    [least, most] = [Math.min(least, radius), Math.max(most, radius)];
    data.set([0, 1, 2].map((k) => srgbToLinear(bytes[3 * i + k]! / 255) ** 1.3).concat(radius), 4 * i);
  }
  const out = new Float32Array(data.length);
  blurRows({ width: WIDTH, height: HEIGHT, data }, blurShape({ blades: 0, rounding: 0, turn: 0 }, least, most), 0, HEIGHT, out);
  return Uint8Array.from({ length: 3 * WIDTH * HEIGHT }, (_, i) => {
    const v = out[4 * Math.floor(i / 3) + (i % 3)]!;
    return Math.round(255 * linearToSrgb(Math.min(1, v ** (1 / 1.3))));
  });
}

const write = async (file: string, bytes: Uint8Array): Promise<void> =>
  writeFileSync(
    file,
    await sharp(bytes, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
      .jpeg({ quality: 92 })
      .toBuffer(),
  );

/** Renders one random scene: an 8-bit picture, the same defocused (-open) and 1/distance as float32, side by side in out/training. */
async function renderOne(seed: number): Promise<void> {
  const scene = randomScene(seed);
  const random = seededRandom(seed);
  const tracer = new Tracer(scene, random);
  const view = viewOf(scene.camera, WIDTH);
  const n = WIDTH * HEIGHT;
  const halves = [new Float32Array(n * 3), new Float32Array(n * 3)] as const;
  const albedo = new Float32Array(n * 3);
  const normals = new Float32Array(n * 3);
  const nearness = new Float32Array(n);
  const sample: Sample = { r: 0, g: 0, b: 0, albedo: [0, 0, 0], normal: [0, 0, 0], distance: 0 };
  for (let i = 0; i < n; i++) {
    const [x, y] = [i % WIDTH, Math.floor(i / WIDTH)];
    nearness[i] = 1 / tracer.distanceAt(view, x + 0.5, y + 0.5, WIDTH, HEIGHT);
    for (let s = 0; s < SAMPLES; s++) {
      tracer.sample(view, x + random(), y + random(), WIDTH, HEIGHT, null, sample);
      const half = halves[s & 1]!;
      half[i * 3]! += (sample.r * 2) / SAMPLES;
      half[i * 3 + 1]! += (sample.g * 2) / SAMPLES;
      half[i * 3 + 2]! += (sample.b * 2) / SAMPLES;
      for (let k = 0; k < 3; k++) {
        albedo[i * 3 + k]! += sample.albedo[k]! / SAMPLES;
        normals[i * 3 + k]! += sample.normal[k]! / SAMPLES;
      }
    }
  }
  const plain = (c: Float32Array): Float32Array => c.map((v, i) => v / (albedo[i]! + 0.05));
  const clean = settle(plain(halves[0]), plain(halves[1]), nearness, normals).map((v, i) => v * (albedo[i]! + 0.05));
  const sorted = clean.slice().sort();
  const white = Math.max(1e-4, sorted[Math.floor(sorted.length * 0.93)]!);
  const gain = (0.45 + 0.5 * random()) / white;
  const bytes = developPicture(
    clean.map((v) => v * gain),
    WIDTH,
    HEIGHT,
  );
  const name = `${FOLDER}/${String(seed).padStart(5, '0')}`;
  await write(`${name}.jpg`, bytes);
  await write(`${name}-open.jpg`, defocused(bytes, nearness, random));
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
