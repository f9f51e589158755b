import { writeSync } from 'node:fs';
import { workerData } from 'node:worker_threads';
import { sceneNamed } from '../scenes/index';
import { seededRandom } from '../../src/core/random';
import type { FrameJob, SeenFrame, SharedFrame } from './renderFrame';
import { addToLayer, rayOf } from './layers';
import { Tracer, viewOf, type Sample } from './trace';

const { job, shared, index, seen } = workerData as {
  job: FrameJob;
  shared: SharedFrame;
  index: number;
  seen: SeenFrame | null;
};

/** Offset of a sample from the pixel centre: a tent of radius 1 px; the pixel itself where its coverage is asked for. */
const tent = (r: number): number => (r < 0.5 ? Math.sqrt(2 * r) - 1 : 1 - Math.sqrt(2 - 2 * r));
const filter = job.layers ? (r: number): number => r - 0.5 : tent;

async function run(): Promise<void> {
  const scene = await sceneNamed(job.scene);
  const random = seededRandom(index * 977 + 5);
  const light = seen && {
    view: viewOf(scene.camera, seen.width),
    width: seen.width,
    height: seen.height,
    rgb: new Float32Array(seen.rgb),
    distance: new Float32Array(seen.distance),
    sparksApart: job.layers === undefined,
  };
  const tracer = new Tracer(scene, random, light);
  const base = viewOf(scene.camera, job.width);
  const [sx, sy, sz] = job.shift ?? [0, 0, 0];
  const at = (k: 0 | 1 | 2): number => base.position[k] + base.right[k] * sx + base.up[k] * sy + base.forward[k] * sz;
  const view = { ...base, position: [at(0), at(1), at(2)] as const };
  const halves = [new Float32Array(shared.a), new Float32Array(shared.b)] as const;
  const albedo = new Float32Array(shared.albedo);
  const normal = new Float32Array(shared.normal);
  const distance = new Float32Array(shared.distance);
  const layers = shared.layers.map((l) => new Float32Array(l));
  const counter = new Int32Array(shared.nextRow);
  const sample: Sample = { r: 0, g: 0, b: 0, albedo: [0, 0, 0], normal: [0, 0, 0], distance: 0 };
  const side = Math.ceil(Math.sqrt(job.samples));
  const share = 2 / (side * side);
  for (;;) {
    const y = Atomics.add(counter, 0, 1);
    if (y >= job.height) return;
    if (y % 100 === 0) writeSync(1, `  ${job.scene} row ${y} of ${job.height}\n`);
    for (let x = 0; x < job.width; x++) {
      const i = y * job.width + x;
      distance[i] = tracer.distanceAt(view, x + 0.5, y + 0.5, job.width, job.height);
      for (let s = 0; s < side * side; s++) {
        const u = ((s % side) + random()) / side;
        const v = (Math.floor(s / side) + random()) / side;
        const [px, py] = [x + 0.5 + filter(u), y + 0.5 + filter(v)];
        tracer.sample(view, px, py, job.width, job.height, job.lens, sample);
        for (let k = 0; k < layers.length; k++)
          addToLayer(job.layers![k]!, sample, rayOf(view, px, py, job), scene.exposure, share / 2, layers[k]!, i);
        const half = halves[(s + Math.floor(s / side)) & 1]!;
        half[i * 3]! += sample.r * share;
        half[i * 3 + 1]! += sample.g * share;
        half[i * 3 + 2]! += sample.b * share;
        for (let k = 0; k < 3; k++) {
          albedo[i * 3 + k]! += (sample.albedo[k]! * share) / 2;
          normal[i * 3 + k]! += (sample.normal[k]! * share) / 2;
        }
      }
    }
  }
}

void run().then(() => process.exit(0));
