import { mkdirSync, writeFileSync } from 'node:fs';
import { encode as encodePng } from 'fast-png';
import sharp from 'sharp';
import { plateLens, poseOf, type CameraPose } from '../src/core/camera/pose';
import { viewParts } from './viewParts';
import { renderFrame, type SeenFrame } from './tracer/renderFrame';
import type { Scene } from './tracer/scene';
import { encodeSrgb, packLight } from './truthValues';

const WIDTH = 800;
const HEIGHT = 450;
const SAMPLES = 64;
/** So far the near quarter of the picture moves sideways, px. */
const NEAR_MOVES = 11;

/** Writes what a scene looks like from moved cameras: bench/truth/NAME.views.json, the plate, and a picture and its parts for each view. */
export async function writeViewTruth(name: string, scene: Scene, seen: SeenFrame, threads: number): Promise<void> {
  mkdirSync('bench/truth', { recursive: true });
  const lens = plateLens(WIDTH, HEIGHT, scene.camera.hfovDegrees);
  // layers, though none: the box of the pixel, and sparks in the picture
  const render = (pose: CameraPose): ReturnType<typeof renderFrame> =>
    renderFrame(
      { scene: name, width: WIDTH, height: HEIGHT, samples: SAMPLES, lens: null, layers: [], shift: [pose.x, -pose.y, pose.z] },
      threads,
      1,
      seen,
    );
  const plate = await render(poseOf({}));
  const nearness = plate.distance.map((z) => 1 / z).sort();
  const nearest = 1 / nearness[nearness.length - 1]!;
  const near = nearness[Math.floor(nearness.length * 0.75)]!;
  const side = NEAR_MOVES / (lens.focalPx * near);
  const views: Record<string, CameraPose> = {
    side: poseOf({ x: side }),
    between: poseOf({ x: -side / 2, y: -side / 4 }),
    in: poseOf({ z: NEAR_MOVES / (near * 0.25 * WIDTH) }),
    rise: poseOf({ y: -0.75 * side }),
  };
  const exposed = (rgb: Float32Array): Float32Array => rgb.map((v) => v * scene.exposure);
  writeFileSync(
    `bench/truth/${name}.plate.png`,
    encodePng({ width: WIDTH, height: HEIGHT, data: Uint16Array.from(exposed(plate.rgb), packLight), channels: 3, depth: 16 }),
  );
  writeFileSync(
    `bench/truth/${name}.plate.distance.png`,
    encodePng({
      width: WIDTH,
      height: HEIGHT,
      data: Uint16Array.from(plate.distance, (z) => Math.round((65535 * nearest) / z)),
      channels: 1,
      depth: 16,
    }),
  );
  for (const [key, pose] of Object.entries(views)) {
    const frame = await render(pose);
    const bytes = Uint8Array.from(exposed(frame.rgb), encodeSrgb);
    const raw = { raw: { width: WIDTH, height: HEIGHT, channels: 3 as const } };
    writeFileSync(`bench/truth/${name}.view.${key}.webp`, await sharp(bytes, raw).webp({ lossless: true, effort: 6 }).toBuffer());
    const parts = viewParts(lens, pose, plate.distance, frame.distance);
    const grey = { raw: { width: WIDTH, height: HEIGHT, channels: 1 as const } };
    writeFileSync(`bench/truth/${name}.view.${key}.parts.png`, await sharp(parts, grey).png({ compressionLevel: 9, palette: false }).toBuffer());
    console.log(`${name} ${key} done`);
  }
  const index = { width: WIDTH, height: HEIGHT, hfovDegrees: scene.camera.hfovDegrees, nearest, views };
  writeFileSync(`bench/truth/${name}.views.json`, `${JSON.stringify(index, null, 2)}\n`);
}
