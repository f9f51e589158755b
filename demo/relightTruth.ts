import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { encode as encodePng } from 'fast-png';
import sharp from 'sharp';
import { addedLamp, LAMP_RADIUS } from './addedLamp';
import { renderFrame } from './tracer/renderFrame';
import type { Scene } from './tracer/scene';
import { encodeSrgb } from './truthValues';

const WIDTH = 640;
const HEIGHT = 360;
const SAMPLES = 64;
/** both pictures are so much darker than the light is, so that what the lamp adds seldom clips */
const EXPOSURE = 0.6;

/** Writes a scene under an even sky, and with one lamp added: bench/truth/NAME.even.webp, NAME.lamp.webp and NAME.relight.json. */
export async function writeRelightTruth(name: string, scene: Scene, threads: number): Promise<void> {
  mkdirSync('bench/truth', { recursive: true });
  const render = (light: string): ReturnType<typeof renderFrame> =>
    renderFrame({ scene: `${name}+${light}`, width: WIDTH, height: HEIGHT, samples: SAMPLES, lens: null }, threads, EXPOSURE);
  const raw = { raw: { width: WIDTH, height: HEIGHT, channels: 3 as const } };
  const write = async (light: string, rgb: Float32Array): Promise<void> =>
    writeFileSync(
      `bench/truth/${name}.${light}.webp`,
      await sharp(Uint8Array.from(rgb, encodeSrgb), raw).webp({ lossless: true, effort: 6 }).toBuffer(),
    );
  const lamp = await render('lamp');
  await write('lamp', lamp.rgb);
  const { at, intensity } = addedLamp(scene);
  const index = {
    width: WIDTH,
    height: HEIGHT,
    hfovDegrees: scene.camera.hfovDegrees,
    nearest: lamp.distance.reduce((a, b) => Math.min(a, b), Infinity),
    sky: EXPOSURE,
    radius: LAMP_RADIUS,
    at,
    intensity: intensity.map((v) => v * EXPOSURE),
  };
  writeFileSync(`bench/truth/${name}.relight.json`, `${JSON.stringify(index, null, 2)}\n`);
  // another lamp needs no other plate
  if (existsSync(`bench/truth/${name}.even.webp`)) return;
  const even = await render('even');
  await write('even', even.rgb);
  const nearest = even.distance.reduce((a, b) => Math.min(a, b), Infinity);
  const grey = Uint16Array.from(even.distance, (z) => Math.round((65535 * nearest) / z));
  writeFileSync(`bench/truth/${name}.even.distance.png`, encodePng({ width: WIDTH, height: HEIGHT, data: grey, channels: 1, depth: 16 }));
}
