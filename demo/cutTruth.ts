import { mkdirSync, writeFileSync } from 'node:fs';
import { encode as encodePng } from 'fast-png';
import sharp from 'sharp';
import { seededRandom } from '../src/core/random';
import { parseHex, srgbToLinear } from '../src/core/raster/colour';
import type { FogLaw } from './tracer/layers';
import { renderFrame, type SeenFrame } from './tracer/renderFrame';
import type { Scene } from './tracer/scene';
import { Tracer, viewOf } from './tracer/trace';
import { encodeSrgb, packLight } from './truthValues';

const WIDTH = 640;
const HEIGHT = 360;
const SAMPLES = 64;
/** Samples of depth a pixel, each way, by which the width of what is cut out is told. */
const FINE = 4;
/** What is narrower than this is thin, px. */
const THIN = 3;

const FOG_COLOUR = '#c9d2d8';
const SETTINGS: Record<string, { cuts: readonly number[]; visibility: number; start: number; thins: number; below: number }> = {
  chartTable: { cuts: [0.85, 1.7], visibility: 6, start: 0.5, thins: 0.25, below: 0.4 },
  quayLamp: { cuts: [3.5, 14], visibility: 40, start: 2, thins: 1.2, below: 1.35 },
  figurehead: { cuts: [3, 4.5], visibility: 12, start: 0, thins: 0.5, below: 1.1 },
  dunes: { cuts: [3.5, 12], visibility: 120, start: 4, thins: 2, below: 2.15 },
};

/** Pixels in which what lies nearer than a distance is narrower than THIN: what an opening by a disc takes away. */
function thinPixels(fine: Float32Array, cut: number): Uint8Array {
  const [w, h] = [WIDTH * FINE, HEIGHT * FINE];
  const radius = (THIN * FINE) / 2;
  const subject = Uint8Array.from(fine, (z) => (z < cut ? 1 : 0));
  const core = grown(
    grown(subject, w, h, radius, 0).map((v) => 1 - v),
    w,
    h,
    radius + 0.5,
    1,
  );
  const out = new Uint8Array(WIDTH * HEIGHT);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      let [all, thin] = [0, 0];
      for (let v = 0; v < FINE; v++)
        for (let u = 0; u < FINE; u++) {
          const j = (y * FINE + v) * w + x * FINE + u;
          all += subject[j]!;
          thin += subject[j]! && !core[j] ? 1 : 0;
        }
      if (thin > 0 && thin * 2 > all) out[y * WIDTH + x] = 1;
    }
  return out;
}

/** Pixels within a radius of one of a value. */
function grown(mask: Uint8Array, w: number, h: number, radius: number, value: number): Uint8Array {
  const aside = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    for (let x = 0, d = 1e6; x < w; x++) aside[y * w + x] = d = mask[y * w + x] === value ? 0 : d + 1;
    for (let x = w - 1, d = 1e6; x >= 0; x--) {
      d = mask[y * w + x] === value ? 0 : d + 1;
      aside[y * w + x] = Math.min(aside[y * w + x]!, d);
    }
  }
  const r = Math.floor(radius);
  const out = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let dy = -r; dy <= r && !out[y * w + x]; dy++) {
        const row = y + dy;
        if (row >= 0 && row < h && aside[row * w + x]! ** 2 + dy * dy <= radius * radius) out[y * w + x] = 1;
      }
  return out;
}

/** Writes what a scene looks like cut out and in fog, of the very samples its picture is made of: bench/truth/NAME.cuts.json and its pictures. */
export async function writeCutTruth(name: string, scene: Scene, seen: SeenFrame, threads: number): Promise<void> {
  const { cuts, visibility, start, thins, below } = SETTINGS[name]!;
  mkdirSync('bench/truth', { recursive: true });
  const [r, g, b] = parseHex(FOG_COLOUR).map(srgbToLinear);
  const law: FogLaw = { visibility, start, colour: [r!, g!, b!] };
  const eye = scene.camera.position[1];
  const fogs: readonly FogLaw[] = [law, { ...law, low: { level: eye - below, thins } }];
  const layers = [...cuts.map((cut) => ({ cut })), ...fogs.map((fog) => ({ fog }))];
  const job = { scene: name, width: WIDTH, height: HEIGHT, samples: SAMPLES, lens: null, layers };
  const frame = await renderFrame(job, threads, 1, seen);
  const view = viewOf(scene.camera, WIDTH);
  const nearest = frame.distance.reduce((a, z) => Math.min(a, z), Infinity);
  const save = (kind: string, data: Uint16Array, channels: 1 | 3 | 4): void =>
    writeFileSync(`bench/truth/${name}.${kind}.png`, encodePng({ width: WIDTH, height: HEIGHT, data, channels, depth: 16 }));
  save(
    'cuts',
    Uint16Array.from(frame.rgb, (v) => packLight(v * scene.exposure)),
    3,
  );
  save(
    'cuts.distance',
    Uint16Array.from(frame.distance, (z) => Math.round((65535 * nearest) / z)),
    1,
  );
  const tracer = new Tracer(scene, seededRandom(7), null);
  const [fw, fh] = [WIDTH * FINE, HEIGHT * FINE];
  const fineView = viewOf(scene.camera, fw);
  const fine = Float32Array.from({ length: fw * fh }, (_, i) => tracer.distanceAt(fineView, (i % fw) + 0.5, Math.floor(i / fw) + 0.5, fw, fh));
  for (const [k, cut] of cuts.entries()) {
    const thin = thinPixels(fine, cut);
    // colours as packed light; the coverage's last step tells what is thin
    const packed = Uint16Array.from(frame.layers[k]!, (v, i) =>
      i % 4 === 3 ? (Math.round(65535 * Math.min(1, v)) & ~1) | thin[i >> 2]! : packLight(v),
    );
    save(`cut${k}`, packed, 4);
  }
  for (const [k, kind] of (['fog', 'lowFog'] as const).entries()) {
    const rgb = Uint8Array.from({ length: WIDTH * HEIGHT * 3 }, (_, i) =>
      encodeSrgb(frame.layers[cuts.length + k]![Math.floor(i / 3) * 4 + (i % 3)]!),
    );
    const picture = sharp(rgb, { raw: { width: WIDTH, height: HEIGHT, channels: 3 } });
    writeFileSync(`bench/truth/${name}.${kind}.png`, await picture.png({ compressionLevel: 9 }).toBuffer());
  }
  const { forward } = view;
  // the row through which rays run level, from the top
  const horizon = 50 + (100 * view.focalPx * (forward[1] / Math.hypot(forward[0], forward[2]))) / HEIGHT;
  const index = {
    width: WIDTH,
    height: HEIGHT,
    hfovDegrees: scene.camera.hfovDegrees,
    nearest,
    cuts,
    fog: { visibility, start, colour: FOG_COLOUR, thins, eye: below, horizon },
  };
  writeFileSync(`bench/truth/${name}.cuts.json`, `${JSON.stringify(index, null, 2)}\n`);
}
