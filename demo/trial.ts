import { writeFileSync } from 'node:fs';
import { availableParallelism } from 'node:os';
import sharp from 'sharp';
import { sceneNamed, sceneNames } from './scenes/index';
import { developPicture } from './develop';
import { renderFrame } from './tracer/renderFrame';

/** Renders a quick trial of one scene: `tsx demo/trial.ts SCENE WIDTH SAMPLES OUT.png`. */
const [name = sceneNames[0]!, width = '640', samples = '16', out = 'trial.png'] = process.argv.slice(2);
const scene = await sceneNamed(name);
const w = Number(width);
const h = Math.round((w * 9) / 16);
const started = Date.now();
const frame = await renderFrame({ scene: name, width: w, height: h, samples: Number(samples), lens: null }, availableParallelism(), scene.exposure);
const bytes = developPicture(frame.rgb, w, h);
writeFileSync(
  out,
  await sharp(bytes, { raw: { width: w, height: h, channels: 3 } })
    .png()
    .toBuffer(),
);
console.log(`${name}: ${scene.mesh.triangles.length / 3} triangles, ${((Date.now() - started) / 1000).toFixed(0)} s`);
