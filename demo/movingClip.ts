import { readFileSync, writeFileSync } from 'node:fs';
import { encodeClip } from './encodeClip';
import { CLIP_HEIGHT, CLIP_WIDTH, exactDistance, readClipFrame, renderClipFrames } from './clipFrames';
import { CROSSING_FPS, CROSSING_FRAMES, crossing } from './scenes/crossing';
import { seededRandom } from '../src/core/random';

/** The damaged clip of maps is half as large, and its greys are in so few levels. */
const HALF = { width: CLIP_WIDTH / 2, height: CLIP_HEIGHT / 2 };
const BANDS = 64;
/** Its greys are bent, so that what is far takes more of them: hills are told from the sky behind them. */
export const BEND = 2;

/** Greys of the exact depth of a frame, at half size: bent, in bands, and at levels of its own. */
function damagedMap(frame: number, distance: Float32Array): Float32Array {
  const { near, far } = crossing(0).ends;
  const random = seededRandom(500 + frame);
  const [scale, shift] = [1 + 0.12 * (random() - 0.5), 0.05 * (random() - 0.5)];
  const out = new Float32Array(HALF.width * HALF.height);
  for (let y = 0; y < HALF.height; y++)
    for (let x = 0; x < HALF.width; x++) {
      let sum = 0;
      for (const i of [0, 1, CLIP_WIDTH, CLIP_WIDTH + 1]) sum += (1 / distance[2 * y * CLIP_WIDTH + 2 * x + i]! - 1 / far) / (1 / near - 1 / far) / 4;
      const grey = Math.min(1, Math.max(0, scale * Math.max(0, sum) ** (1 / BEND) + shift));
      out[y * HALF.width + x] = Math.round(grey * BANDS) / BANDS;
    }
  return out;
}

/** Writes the damaged clip of maps (public/demo), and by how much its greys are bent. Needs Chromium, which encodes it. */
export async function writeMaps(): Promise<void> {
  const greys: Float32Array[] = [];
  for (let frame = 0; frame < CROSSING_FRAMES; frame++) greys.push(damagedMap(frame, exactDistance(frame)));
  const format = { codec: 'vp9' as const, ...HALF, fps: CROSSING_FPS, bitrate: 1.5e6 };
  writeFileSync('public/demo/crossing.depth.webm', await encodeClip(format, CROSSING_FRAMES, (k) => ({ grey: greys[k]! })));
  const index = JSON.parse(readFileSync('public/demo/demo.json', 'utf8')) as { shots: { crossing: object } };
  Object.assign(index.shots.crossing, { bend: BEND });
  writeFileSync('public/demo/demo.json', `${JSON.stringify(index, null, 2)}\n`);
}

/** Renders the moving shot of the demo and its damaged clip of maps (public/demo). Needs Chromium, which encodes them. */
export async function writeMovingClip(threads: number): Promise<void> {
  await renderClipFrames(threads);
  const rgba = (k: number): { rgba: Uint8Array } => {
    const { rgb } = readClipFrame(k);
    const data = new Uint8Array(CLIP_WIDTH * CLIP_HEIGHT * 4).fill(255);
    for (let i = 0; i < CLIP_WIDTH * CLIP_HEIGHT; i++) for (let c = 0; c < 3; c++) data[i * 4 + c] = rgb[i * 3 + c]!;
    return { rgba: data };
  };
  const size = { width: CLIP_WIDTH, height: CLIP_HEIGHT, fps: CROSSING_FPS };
  writeFileSync('public/demo/crossing.webm', await encodeClip({ codec: 'vp9', ...size, bitrate: 4e6 }, CROSSING_FRAMES, rgba));
  await writeMaps();
}
