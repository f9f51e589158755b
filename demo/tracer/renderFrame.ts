import { Worker } from 'node:worker_threads';
import { denoise } from './denoise';
import type { LayerSpec } from './layers';
import type { Lens } from './trace';

export interface FrameJob {
  scene: string;
  width: number;
  height: number;
  samples: number;
  lens: Lens | null;
  /** offset of the camera in its own axes (right, up, forward), metres */
  shift?: readonly [number, number, number];
  /** further pictures of the very same samples */
  layers?: readonly LayerSpec[];
}

/** A finished pinhole frame of the same scene, shared with the render threads (see SeenLight). */
export interface SeenFrame {
  width: number;
  height: number;
  rgb: SharedArrayBuffer;
  distance: SharedArrayBuffer;
}

export interface Frame {
  width: number;
  height: number;
  /** linear RGB, interleaved, times the scene's exposure */
  rgb: Float32Array;
  /** exact distance from the camera plane at each pixel's centre, metres */
  distance: Float32Array;
  /** RGBA, one for each of the job's layers */
  layers: readonly Float32Array[];
}

/** Shared buffers of one frame: two halves of colour, features, distance and a row counter. */
export interface SharedFrame {
  a: SharedArrayBuffer;
  b: SharedArrayBuffer;
  albedo: SharedArrayBuffer;
  normal: SharedArrayBuffer;
  distance: SharedArrayBuffer;
  nextRow: SharedArrayBuffer;
  layers: readonly SharedArrayBuffer[];
}

const bootstrap = (file: string): string => `import('tsx/esm/api').then(({ register }) => { register(); return import(${JSON.stringify(file)}); });`;

/** Renders one frame over `threads` threads and removes its noise. */
export async function renderFrame(job: FrameJob, threads: number, exposure: number, seen: SeenFrame | null = null): Promise<Frame> {
  const n = job.width * job.height;
  const floats = (count: number): SharedArrayBuffer => new SharedArrayBuffer(count * 4);
  const shared: SharedFrame = {
    a: floats(n * 3),
    b: floats(n * 3),
    albedo: floats(n * 3),
    normal: floats(n * 3),
    distance: floats(n),
    nextRow: new SharedArrayBuffer(4),
    layers: (job.layers ?? []).map(() => floats(n * 4)),
  };
  const file = new URL('./renderWorker.ts', import.meta.url).href;
  await Promise.all(
    Array.from(
      { length: threads },
      (_, index) =>
        new Promise<void>((resolve, reject) => {
          const worker = new Worker(bootstrap(file), { eval: true, workerData: { job, shared, index, seen } });
          worker.once('error', reject);
          worker.once('exit', (code) => (code === 0 ? resolve() : reject(new Error(`render thread ended with ${code}`))));
        }),
    ),
  );
  const a = new Float32Array(shared.a);
  const b = new Float32Array(shared.b);
  const albedo = new Float32Array(shared.albedo);
  const distance = new Float32Array(shared.distance);
  const pinhole = job.lens === null && !seen;
  const lightOf = (c: Float32Array): Float32Array => (pinhole ? c.map((v, i) => v / (albedo[i]! + 0.05)) : c.slice());
  const normal = new Float32Array(shared.normal);
  const layers = shared.layers.map((l) => new Float32Array(l));
  const plane = (k: number): Float32Array => Float32Array.from({ length: n }, (_, i) => normal[i * 3 + k]!);
  if (seen) {
    // light read from a finished picture carries no noise worth removing
    return { width: job.width, height: job.height, rgb: a.map((v, i) => 0.5 * (v + b[i]!) * exposure), distance, layers };
  }
  const features = pinhole
    ? [
        ...[0, 1, 2].map((k) => ({ plane: plane(k), tolerance: 0.25 })),
        { plane: distance.map((d) => (d === Infinity ? 12 : Math.log(d))), tolerance: 0.06 },
      ]
    : [];
  const clean = denoise({ width: job.width, height: job.height, a: lightOf(a), b: lightOf(b) }, features, 0.7);
  const rgb = clean.map((v, i) => (pinhole ? v * (albedo[i]! + 0.05) : v) * exposure);
  return { width: job.width, height: job.height, rgb, distance, layers };
}
