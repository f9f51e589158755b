import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { developPicture } from './develop';
import { seededRandom } from '../src/core/random';
import { CROSSING_FRAMES, crossing } from './scenes/crossing';
import { sceneNamed } from './scenes/index';
import { renderFrame } from './tracer/renderFrame';
import { Tracer, viewOf } from './tracer/trace';

export const CLIP_WIDTH = 640;
export const CLIP_HEIGHT = 360;
const SAMPLES = 16;

/** One frame of the moving shot: 8-bit sRGB, interleaved, and the exact distance of every pixel, metres. */
export interface ClipFrame {
  readonly rgb: Uint8Array;
  readonly distance: Float32Array;
}

const PIXELS = CLIP_WIDTH * CLIP_HEIGHT;
const fileOf = (frame: number): string => `out/crossing/${String(frame).padStart(4, '0')}.frame`;

/** Reads a frame that has been rendered. */
export function readClipFrame(frame: number): ClipFrame {
  const bytes = readFileSync(fileOf(frame));
  return {
    rgb: new Uint8Array(bytes.subarray(0, PIXELS * 3)),
    distance: new Float32Array(bytes.buffer.slice(bytes.byteOffset + PIXELS * 3, bytes.byteOffset + PIXELS * 7)),
  };
}

/** Renders the frames of the moving shot that are not there yet into out/crossing: each is kept, so that a broken run goes on where it stopped. */
export async function renderClipFrames(threads: number): Promise<void> {
  mkdirSync('out/crossing', { recursive: true });
  for (let frame = 0; frame < CROSSING_FRAMES; frame++) {
    if (existsSync(fileOf(frame))) continue;
    const scene = `crossing@${frame}`;
    const { exposure } = await sceneNamed(scene);
    const { rgb, distance } = await renderFrame({ scene, width: CLIP_WIDTH, height: CLIP_HEIGHT, samples: SAMPLES, lens: null }, threads, exposure);
    const bytes = new Uint8Array(PIXELS * 7);
    bytes.set(developPicture(rgb, CLIP_WIDTH, CLIP_HEIGHT));
    bytes.set(new Uint8Array(distance.buffer, distance.byteOffset, PIXELS * 4), PIXELS * 3);
    writeFileSync(`${fileOf(frame)}.new`, bytes);
    renameSync(`${fileOf(frame)}.new`, fileOf(frame));
    console.log(`crossing frame ${frame} done`);
  }
}

/** Exact distances of a frame, metres: by one ray through the middle of each pixel. With or without its deckhand. */
export function exactDistance(frame: number, width = CLIP_WIDTH, height = CLIP_HEIGHT, manned = true): Float32Array {
  const scene = crossing(frame, manned);
  const tracer = new Tracer(scene, seededRandom(1), null);
  const view = viewOf(scene.camera, width);
  const data = new Float32Array(width * height);
  for (let y = 0, i = 0; y < height; y++) for (let x = 0; x < width; x++, i++) data[i] = tracer.distanceAt(view, x + 0.5, y + 0.5, width, height);
  return data;
}
