import { mkdtempSync, openAsBlob, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp, { type Sharp } from 'sharp';
import { render } from '../headless/renderVerb';
import { calibrationOf, newProject } from '../src/core/document/defaults';
import { effectOf } from '../src/core/effects/registry';
import type { EffectItem, Shot } from '../src/core/document/schema';
import { depthPixels } from '../src/engine/show/paint';
import { copyOf } from '../src/core/values/copy';
import { packProject } from '../src/formats/project/projectFile';
import { assembleDemo, posterOf } from '../src/store/demo';

// What the shelf of a first visit shows: the demo's shots as they are finished, and three loops of what can be done with them.
// `npm run demo:posters`, after what is staged in the shots has changed; with names of shots, their pictures alone.

const FOLDER = 'public/demo';
/** As large as the pictures that the studio makes for the shelf, px. */
const WIDTH = 640;
/** The moment that stands for a shot that moves: who walks through it is there, and in focus. */
const MOMENT = 45;
/** Loops: px, frames that are made, and how long each is shown, ms. They run to and fro. */
const LOOP = { width: 360, height: 202, frames: 13, each: 90 } as const;

const { shots, files } = await assembleDemo((name) => openAsBlob(join(FOLDER, name)), false);
const names = Object.keys((JSON.parse(readFileSync(join(FOLDER, 'demo.json'), 'utf8')) as { shots: object }).shots);
const media = new Map(files.map((f) => [f.sha256, f.blob]));
const folder = mkdtempSync(join(tmpdir(), 'ombrage-posters-'));
const fileOf = (shot: Shot): string => names.find((n) => shot.plate.name.startsWith(n))!;
const shotOf = (name: string): Shot => copyOf(shots.find((s) => fileOf(s) === name)!);

const focuses = (effect: EffectItem): boolean => effectOf(effect.kind).params.focus !== undefined;

/** A frame of a shot, finished. */
async function finished(shot: Shot, frame: number): Promise<Sharp> {
  const [project, picture] = [join(folder, 'shot.ombrage'), join(folder, `${frame}.png`)];
  writeFileSync(project, new Uint8Array(await (await packProject({ ...newProject('Demo'), shots: [shot] }, media)).arrayBuffer()));
  await render(project, { shot: '1', frame: String(frame), out: picture });
  return sharp(picture).toColourspace('srgb');
}

const only = process.argv.slice(2);

async function posters(): Promise<void> {
  for (const shot of shots) {
    if (only.length > 0 && !only.includes(fileOf(shot))) continue;
    const poster = join(FOLDER, posterOf(fileOf(shot)));
    const picture = await finished(shot, shot.plate.clip ? MOMENT : 0);
    await picture.resize(WIDTH).jpeg({ quality: 82, mozjpeg: true }).toFile(poster);
    console.log(poster);
  }
}

/** Writes frames as a loop that runs to and fro, and its first one for those who want nothing to move. */
async function writeLoop(name: string, frames: readonly Buffer[]): Promise<void> {
  const there = [...frames, ...frames.slice(1, -1).reverse()];
  // the ends are looked at for longer
  const delay = there.map((_, k) => (k === 0 || k === frames.length - 1 ? 900 : LOOP.each));
  await sharp([...there], { join: { animated: true } })
    .webp({ quality: 62, effort: 6, loop: 0, delay })
    .toFile(join(FOLDER, `${name}.loop.webp`));
  await sharp(frames[0])
    .webp({ quality: 70 })
    .toFile(join(FOLDER, `${name}.still.webp`));
  console.log(join(FOLDER, `${name}.loop.webp`));
}

const small = async (picture: Sharp): Promise<Buffer> =>
  sharp(await picture.png().toBuffer())
    .resize(LOOP.width, LOOP.height, { fit: 'cover' })
    .png()
    .toBuffer();

/** Focus goes from what is near to what is far. */
async function focusLoop(): Promise<void> {
  const shot = shotOf('chartTable');
  shot.settings.framing = { ...shot.settings.framing, width: 960, height: 540 };
  const blur = shot.settings.effects.find(focuses)!;
  const frames: Buffer[] = [];
  for (let k = 0; k < LOOP.frames; k++) {
    const t = k / (LOOP.frames - 1);
    blur.values.focus = 1 / (1 / 0.62 + t * (1 / 2.4 - 1 / 0.62));
    frames.push(await small(await finished(shot, 0)));
  }
  await writeLoop('focus', frames);
}

/** The camera goes round what stands in front. */
async function moveLoop(): Promise<void> {
  const shot = shotOf('figurehead');
  shot.settings.framing = { ...shot.settings.framing, width: 960, height: 540 };
  shot.settings.effects = shot.settings.effects.filter((e) => !focuses(e));
  const arc = shot.settings.camera.moves[0]!;
  Object.assign(arc.values, { angle: 4.5, returns: false });
  const frames: Buffer[] = [];
  for (let k = 0; k < LOOP.frames; k++)
    frames.push(await small(await finished(shot, Math.round((k * (shot.settings.time.length - 1)) / (LOOP.frames - 1)))));
  await writeLoop('move', frames);
}

/** The picture gives way to its depth. */
async function depthLoop(): Promise<void> {
  const { width, height } = LOOP;
  const shot = shotOf('quayLamp');
  const map = sharp(join(FOLDER, 'quayLamp.depth.png')).toColourspace('grey16');
  const { data: raw, info } = await map.raw({ depth: 'ushort' }).toBuffer({ resolveWithObject: true });
  const n = info.width * info.height;
  const data = Float32Array.from(new Uint16Array(raw.buffer, raw.byteOffset, n), (v) => v / 65535);
  const large = depthPixels({ width: info.width, height: info.height, data }, calibrationOf(shot.settings.calibration), 'distance');
  const depth = await sharp(Buffer.from(large.buffer), { raw: { width: info.width, height: info.height, channels: 4 } })
    .resize(width, height, { fit: 'cover' })
    .raw()
    .toBuffer();
  const plate = await sharp(join(FOLDER, 'quayLamp.jpg')).resize(width, height, { fit: 'cover' }).ensureAlpha().raw().toBuffer();
  const frames: Buffer[] = [];
  for (let k = 0; k < LOOP.frames; k++) {
    const t = k / (LOOP.frames - 1);
    const edge = Math.round(width * (1 - t * t * (3 - 2 * t)));
    const out = Buffer.from(plate);
    for (let i = 0; i < width * height; i++) {
      const x = i % width;
      if (x >= edge) out.set(x - edge < 2 && edge > 0 ? [239, 233, 220, 255] : depth.subarray(i * 4, i * 4 + 4), i * 4);
    }
    frames.push(
      await sharp(out, { raw: { width, height, channels: 4 } })
        .png()
        .toBuffer(),
    );
  }
  await writeLoop('depth', frames);
}

try {
  await posters();
  if (only.length === 0) {
    await focusLoop();
    await moveLoop();
    await depthLoop();
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
