import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { newEffect, newLayer, newProject, newShot } from '../src/core/document/defaults';
import { encodeExr } from '../src/formats/exr/exr';
import { decodePng } from '../src/formats/png/png';
import { packProject } from '../src/formats/project/projectFile';
import { storedZip } from '../src/formats/bytes/zip';
import { sha256 } from '../src/formats/bytes/sha256';
import { openNodeClip } from './clips';
import { depthClip, steady } from './clipVerbs';
import { errorLine } from './errorLine';
import { render } from './renderVerb';

const W = 96;
const H = 64;
const FRAMES = 6;
let folder = '';
const at = (...names: string[]): string => join(folder, ...names);

/** A bright square that walks over a dark ground with a texture. */
async function framePng(k: number): Promise<Buffer> {
  const rgb = Buffer.alloc(W * H * 3);
  for (let y = 0; y < H; y++)
    for (let x = 0; x < W; x++) {
      const on = x >= 10 + 6 * k && x < 34 + 6 * k && y > 20 && y < 54;
      const grain = (((on ? x - 6 * k : x) * 7919 + y * 104729) % 41) - 20;
      rgb.set(on ? [220, 200 + grain, 60] : [50 + grain, 70 + grain, 90], (y * W + x) * 3);
    }
  return sharp(rgb, { raw: { width: W, height: H, channels: 3 } })
    .png()
    .toBuffer();
}

const greyPng = (level: number): Promise<Buffer> =>
  sharp(Buffer.from(Uint8Array.from({ length: (W / 2) * (H / 2) }, (_, i) => Math.round(level + 40 * (i % (W / 2) > 20 ? 1 : 0)))), {
    raw: { width: W / 2, height: H / 2, channels: 1 },
  })
    .png()
    .toBuffer();

beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'ombrage-clips-'));
  for (const name of ['walk', 'maps']) mkdirSync(at(name));
  for (let k = 0; k < FRAMES; k++) {
    writeFileSync(at('walk', `walk_${k + 8}.png`), await framePng(k));
    writeFileSync(at('maps', `${k}.png`), await greyPng(k % 2 ? 110 : 90));
  }
  writeFileSync(at('walk', 'notes.txt'), 'nothing');
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const mean = (file: string): number => {
  const { data, width, height } = decodePng(new Uint8Array(readFileSync(file)));
  expect([width, height]).toEqual([W, H]);
  let sum = 0;
  for (const v of data) sum += v;
  return sum / data.length / 65535;
};

describe('clips without a browser', () => {
  test('a folder is a clip, its frames in the order of their numbers', async () => {
    const clip = await openNodeClip(at('walk'));
    expect([clip.frames, clip.width, clip.height]).toEqual([FRAMES, W, H]);
    expect(clip.remarks.join()).toContain('notes.txt');
    const bright = async (k: number, x: number): Promise<number> => {
      const { data, channels } = await clip.frame(k);
      return data[(40 * W + x) * channels]!;
    };
    expect(await bright(0, 15)).toBe(220);
    expect(await bright(5, 15)).toBeLessThan(100);
    expect(await bright(5, 45)).toBe(220);
    clip.close();
  });

  test('depth-clip writes a map for each frame, of the size of the clip', async () => {
    const said = await depthClip(at('walk'), { quality: 'draft', steady: '70', frames: '1-5', out: at('depth') });
    expect(said).toMatch(/5 frames, flicker [\d.]+ % to [\d.]+ %/);
    expect(readdirSync(at('depth'))).toEqual(['0001.png', '0002.png', '0003.png', '0004.png', '0005.png']);
    expect(mean(at('depth', '0003.png'))).toBeGreaterThan(0.02);
  });

  test('steady takes flicker out of maps of another size', async () => {
    const said = await steady({ clip: at('walk'), depth: at('maps'), strength: '70', out: at('even') });
    const [before, after] = said.match(/[\d.]+(?= %)/g)!.map(Number) as [number, number];
    expect(before).toBeGreaterThan(5);
    expect(after).toBeLessThan(0.2 * before);
    const means = Array.from({ length: FRAMES }, (_, k) => mean(at('even', `000${k}.png`)));
    expect(Math.max(...means) - Math.min(...means)).toBeLessThan(0.02);
  });

  test('maps that end before the clip are told, and the last one is held', async () => {
    mkdirSync(at('few'));
    for (let k = 0; k < 3; k++) writeFileSync(at('few', `${k}.png`), await greyPng(90));
    const said = await steady({ clip: at('walk'), depth: at('few'), strength: '70', out: at('held') });
    expect(said).toContain('its maps end at frame 2: the last one is held');
    expect(mean(at('held', '0005.png'))).toBeCloseTo(mean(at('held', '0002.png')), 2);
    expect(await steady({ clip: at('walk'), depth: at('maps'), strength: '70', out: at('even') })).not.toContain('held');
  });

  test('maps in metres, a file of floats each, are read as such', async () => {
    mkdirSync(at('metres'));
    for (let k = 0; k < FRAMES; k++) {
      const data = Float32Array.from({ length: W * H }, (_, i) => (i % W < W / 2 ? 2 : 8) * (k % 2 ? 1.3 : 1));
      writeFileSync(at('metres', `z.000${k}.exr`), encodeExr({ Z: { width: W, height: H, data } }));
    }
    const said = await steady({ clip: at('walk'), depth: at('metres'), strength: '70', out: at('near') });
    expect(said).toContain(`${FRAMES} frames`);
    // the near half is white: metres were turned into nearness
    const { data } = decodePng(new Uint8Array(readFileSync(at('near', '0003.png'))));
    expect(data[40 * W + 10]!).toBeGreaterThan(data[40 * W + W - 10]! + 20000);
    await expect(openNodeClip(at('metres')).then((c) => c.file!(2))).resolves.toMatchObject({ name: 'z.0002.exr' });
  });

  test('a region that follows is carried for what is rendered, and limits an effect', async () => {
    const zip = await storedZip(
      await Promise.all(
        Array.from({ length: FRAMES }, async (_, k) => ({ name: `f${k}.png`, blob: new Blob([(await framePng(k)) as Uint8Array<ArrayBuffer>]) })),
      ),
    );
    const hash = await sha256(new Uint8Array(await zip.arrayBuffer()));
    const shot = newShot({ sha256: hash, name: 'walk.zip', width: W, height: H, bits: 8, hfovFromFile: null, clip: { frames: FRAMES, fps: 24 } });
    // drawn about the square on the first frame
    const points = [
      [0.02, 0.2],
      [0.28, 0.2],
      [0.28, 0.9],
      [0.02, 0.9],
    ].map(([x, y]) => ({ x: x!, y: y! }));
    const drawn = { id: 's', name: 'Square', points };
    shot.settings.layers = [{ ...newLayer('shape'), id: 'region', visible: false, content: { shapes: [drawn], follow: { at: 0, earlier: [] } } }];
    const dark = newEffect('grade');
    shot.settings.effects = [{ ...dark, values: { ...dark.values, exposure: -6 }, region: { layer: 'region', outside: true } }];
    shot.settings.time.length = FRAMES;
    const packed = await packProject({ ...newProject('Region'), shots: [shot] }, new Map([[hash, zip]]));
    writeFileSync(at('region.ombrage'), new Uint8Array(await packed.arrayBuffer()));
    expect(await render(at('region.ombrage'), { shot: '1', frames: '0-5', out: at('regions') })).toContain('6 made');
    const bright = async (k: number, x: number): Promise<number> => {
      const { data } = await sharp(at('regions', `000${k}.png`))
        .removeAlpha()
        .raw()
        .toBuffer({ resolveWithObject: true });
      return data[(40 * W + x) * 3]!;
    };
    // the square is as bright as it was, and where it was before it is dark
    expect(await bright(0, 15)).toBeGreaterThan(180);
    expect(await bright(5, 45)).toBeGreaterThan(180);
    expect(await bright(5, 12)).toBeLessThan(60);
  });

  test('a shot whose plate is a clip is rendered frame by frame', async () => {
    const files = await Promise.all(
      Array.from({ length: FRAMES }, async (_, k) => ({ name: `f${k}.png`, blob: new Blob([(await framePng(k)) as Uint8Array<ArrayBuffer>]) })),
    );
    const zip = await storedZip(files);
    const hash = await sha256(new Uint8Array(await zip.arrayBuffer()));
    const shot = newShot({ sha256: hash, name: 'walk.zip', width: W, height: H, bits: 8, hfovFromFile: null, clip: { frames: FRAMES, fps: 24 } });
    shot.settings.effects = [];
    shot.settings.layers = [];
    shot.settings.time.length = FRAMES;
    const packed = await packProject({ ...newProject('Walk'), shots: [shot] }, new Map([[hash, zip]]));
    writeFileSync(at('walk.ombrage'), new Uint8Array(await packed.arrayBuffer()));
    expect(await render(at('walk.ombrage'), { shot: '1', frames: '0-5', out: at('out') })).toContain('6 made');
    const left = async (k: number): Promise<number> => {
      const { data } = await sharp(at('out', `000${k}.png`))
        .removeAlpha()
        .raw()
        .toBuffer({ resolveWithObject: true });
      return data[(40 * W + 15) * 3]!;
    };
    expect(await left(0)).toBeGreaterThan(200);
    expect(await left(5)).toBeLessThan(120);
  });

  test('a clip that was cut short says so, whatever its kind', async () => {
    const gif = await sharp(await framePng(0))
      .gif()
      .toBuffer();
    const frames = await sharp(
      Buffer.concat(
        await Promise.all(
          [0, 1, 2].map(async (k) =>
            sharp(await framePng(k))
              .ensureAlpha()
              .raw()
              .toBuffer(),
          ),
        ),
      ),
      {
        raw: { width: W, height: H * 3, channels: 4, pageHeight: H } as never,
      },
    )
      .webp({ loop: 0 })
      .toBuffer();
    expect(gif.length).toBeGreaterThan(0);
    writeFileSync(at('whole.webp'), frames);
    writeFileSync(at('cut.webp'), frames.subarray(0, Math.floor(frames.length * 0.7)));
    const remarks = async (name: string): Promise<string> => {
      const clip = await openNodeClip(at(name)).catch((error: unknown) => ({ remarks: [errorLine(error)], close: () => undefined }));
      clip.close();
      return clip.remarks.join(' ');
    };
    expect(await remarks('whole.webp')).toBe('');
    expect(await remarks('cut.webp')).toMatch(/cut short|damaged/);
    writeFileSync(at('broken.webp'), Buffer.concat([frames.subarray(0, 60), Buffer.alloc(400, 7)]));
    expect(await remarks('broken.webp')).toMatch(/^(error: )?broken\.webp is damaged|cut short/);
  });

  test('frames without depth are refused before anything is computed', async () => {
    expect(await depthClip(at('walk'), { quality: 'draft', steady: '0', every: '4', out: at('never') }).then(String, errorLine)).toContain(
      '--every 4 leaves frames without depth where --steady is 0.',
    );
  });

  test('what cannot be done is said in words', async () => {
    const line = (work: Promise<string>): Promise<string> => work.then(String, errorLine);
    expect(await line(depthClip(at('nowhere'), { quality: 'draft', steady: '70', out: at('x') }))).toContain('nowhere is not there.');
    expect(await line(depthClip(at('walk'), { quality: 'best', steady: '70', out: at('x') }))).toContain('"best" is no quality.');
    expect(await line(depthClip(at('walk'), { quality: 'draft', steady: '170', out: at('x') }))).toContain('"170" is no value for --steady.');
    expect(await line(depthClip(at('walk'), { quality: 'draft', steady: '70', frames: '3-99', out: at('x') }))).toContain('The shot ends at frame 5');
    expect(await line(depthClip(at('walk'), { quality: 'draft', steady: '70', out: at('x.gif') }))).toContain('cannot hold frames of depth');
    writeFileSync(at('note.txt'), 'no clip');
    expect(await line(depthClip(at('note.txt'), { quality: 'draft', steady: '70', out: at('x') }))).toContain('note.txt is no clip.');
    writeFileSync(at('clip.mp4'), Buffer.from('\0\0\0\x18ftypisom\0\0\0\0', 'latin1'));
    const path = process.env.PATH;
    process.env.PATH = '';
    try {
      expect(await line(depthClip(at('clip.mp4'), { quality: 'draft', steady: '70', out: at('x') }))).toContain(
        'ffmpeg here, and it is not installed',
      );
    } finally {
      process.env.PATH = path;
    }
  });
});
