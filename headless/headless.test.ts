import { beforeAll, expect, test } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import { chmodSync, existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { hostname, tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode } from 'fast-png';
import sharp from 'sharp';
import { newLayer, newMove, newProject, newShot } from '../src/core/document/defaults';
import { decodePfm, encodePicturePfm, encodePlanePfm } from '../src/formats/pfm/pfm';
import { decodePng, encodeDepthPng, samples16 } from '../src/formats/png/png';
import { packProject } from '../src/formats/project/projectFile';
import { sha256 } from '../src/formats/bytes/sha256';
import { encodeExr } from '../src/formats/exr/exr';
import { apply } from './apply';
import { framesIntoFolder } from './frames';
import { render } from './renderVerb';
import { errorLine } from './errorLine';
import { inspect } from './inspectVerb';
import { writePicture } from './stills';
import { depth, estimate, matte, view } from './verbs';

const folder = mkdtempSync(join(tmpdir(), 'ombrage-'));
const at = (name: string): string => join(folder, name);
const [W, H] = [64, 48];

beforeAll(async () => {
  const rgb = Buffer.from(Uint8Array.from({ length: W * H * 3 }, (_, i) => (i * 97) % 256));
  await sharp(rgb, { raw: { width: W, height: H, channels: 3 } })
    .png()
    .toFile(at('p.png'));
  writeFileSync(at('d.pfm'), encodePlanePfm({ width: W, height: H, data: new Float32Array(W * H).fill(4) }));
});

test('inspect says what a file is', async () => {
  expect(await inspect(at('p.png'))).toContain('format: PNG\nsize: 64x48 px\nbits: 8');
  await expect(inspect(at('nothing.png'))).rejects.toThrow('cannot be read');
});

test('apply takes settings from a file: lights in numbers, a look of several effects, and says what it does not know', async () => {
  const file = (name: string, json: unknown): string => {
    writeFileSync(at(name), JSON.stringify(json));
    return at(name);
  };
  const grey = { width: W, height: H, data: new Float32Array(W * H * 4).map((_, i) => (i % 4 === 3 ? 1 : 0.5)) };
  writeFileSync(at('grey.pfm'), encodePicturePfm(grey));
  const usual = { picture: at('grey.pfm'), distance: at('d.pfm'), hfov: '50', set: [] as string[], out: at('lit.pfm') };
  const middle = (path: string): number => {
    const read = decodePfm(new Uint8Array(readFileSync(path)));
    if (!('picture' in read)) throw new Error('no picture');
    return read.picture.data[((H / 2) * W + W / 2) * 4]!;
  };
  const lamp = { is: 'lamp', place: [0, 0, 2], intensity: [4, 4, 4], size: 0 };
  const settings = file('lamp.json', { keep: 0, even: 1, shading: 0, balance: 0, shadows: false, lights: [lamp] });
  await apply('relight', { ...usual, settings });
  // a wall 2 m behind the lamp: albedo / π · I / d²
  expect(middle(at('lit.pfm'))).toBeCloseTo((0.5 / Math.PI) * (4 / 4), 3);
  await apply('relight', { ...usual, settings, set: ['keep=100'] });
  expect(middle(at('lit.pfm'))).toBeCloseTo(0.5 + 0.5 / Math.PI, 3);
  const look = file('two.look.json', {
    look: 'Two',
    version: 1,
    subject: 2,
    effects: [
      { kind: 'grade', values: { exposure: 1 } },
      { kind: 'unheard-of', values: {} },
    ],
  });
  expect(await apply(undefined, { ...usual, look })).toContain('unheard-of');
  expect(middle(at('lit.pfm'))).toBeCloseTo(1, 3);
  await expect(apply('relight', { ...usual, settings: file('bad.json', { lights: [{ is: 'torch' }] }) })).rejects.toThrow(/bad\.json/);
  await expect(apply('fog', { ...usual, settings: file('odd.json', { thickness: 3 }) })).rejects.toThrow('"thickness"');
  await expect(apply(undefined, usual)).rejects.toThrow('Neither an effect nor a look');
});

test('estimate writes a map at the size of the picture', async () => {
  await estimate(at('p.png'), { quality: 'draft', out: at('m.png') });
  const map = decodePng(new Uint8Array(readFileSync(at('m.png'))));
  expect([map.width, map.height, map.channels]).toEqual([W, H, 1]);
  await estimate(at('p.png'), { quality: 'fine', out: at('m.pfm') });
  expect(decodePfm(new Uint8Array(readFileSync(at('m.pfm')))).kind).toBe('plane');
  await expect(estimate(at('p.png'), { quality: 'best', out: at('m.png') })).rejects.toThrow('"best"');
  await expect(estimate(at('p.png'), { quality: 'fine', out: at('m.gif') })).rejects.toThrow('m.gif has no ending');
});

test('apply keeps a picture in focus as it is, in linear light above white', async () => {
  const data = new Float32Array(W * H * 4);
  for (let i = 0; i < W * H; i++) data.set([i === 700 ? 12 : 0.25, 0.5, 0.125, 1], i * 4);
  writeFileSync(at('p.pfm'), encodePicturePfm({ width: W, height: H, data }));
  await apply('lens-blur', { picture: at('p.pfm'), distance: at('d.pfm'), hfov: '50', set: ['focus=4', 'aperture=f/1.4'], out: at('o.pfm') });
  const out = decodePfm(new Uint8Array(readFileSync(at('o.pfm'))));
  for (let i = 0; i < data.length; i++) expect(Math.abs(out.kind === 'picture' ? out.picture.data[i]! - data[i]! : 1)).toBeLessThan(1e-4);
});

test('apply refuses what does not fit, by name', async () => {
  const usual = { picture: at('p.png'), distance: at('d.pfm'), hfov: '50', set: [] as string[], out: at('o.png') };
  await expect(apply('mist', usual)).rejects.toThrow('There is no effect "mist".');
  await expect(apply('lens-blur', { ...usual, set: ['focus:2'] })).rejects.toThrow('"focus:2" is no setting.');
  await expect(apply('lens-blur', { ...usual, set: ['sharpness=2'] })).rejects.toThrow('There is no setting "sharpness".');
  await expect(apply('lens-blur', { ...usual, hfov: 'wide' })).rejects.toThrow('"wide"');
  writeFileSync(at('small.pfm'), encodePlanePfm({ width: 2, height: 2, data: new Float32Array(4).fill(1) }));
  await expect(apply('lens-blur', { ...usual, distance: at('small.pfm') })).rejects.toThrow('2x2 px');
  writeFileSync(at('zero.pfm'), encodePlanePfm({ width: W, height: H, data: new Float32Array(W * H) }));
  await expect(apply('lens-blur', { ...usual, distance: at('zero.pfm') })).rejects.toThrow('holds 0 m at column 0, row 0');
});

test('a picture without a number in it is not written, and nor is one where nothing can be', async () => {
  writeFileSync(
    at('lights.json'),
    JSON.stringify({ light: 'lamps', lights: [{ is: 'lamp', place: [0, 0, 2], intensity: [1e308, 1e308, 1e308], size: 0 }] }),
  );
  const usual = { picture: at('p.png'), distance: at('d.pfm'), hfov: '50', set: [] as string[], out: at('none.pfm') };
  const said = await apply('relight', { ...usual, settings: at('lights.json') }).then(String, errorLine);
  expect(said).toMatch(/^error: /);
  expect(existsSync(at('none.pfm'))).toBe(false);
  const began = performance.now();
  expect(await apply('vignette', { ...usual, out: '/proc/nowhere/deep/o.pfm' }).then(String, errorLine)).toContain(
    '/proc/nowhere/deep/o.pfm cannot be written',
  );
  expect(performance.now() - began).toBeLessThan(5000);
});

test('render makes the picture of a project file, as the effect alone would', async () => {
  const plate = new Uint8Array(readFileSync(at('p.png')));
  const map = encodeDepthPng({ width: W, height: H, data: Float32Array.from({ length: W * H }, (_, i) => (i % W < 30 ? 1 : 0.2)) });
  const shot = newShot({ sha256: await sha256(plate), name: 'p.png', width: W, height: H, bits: 8, hfovFromFile: 50 });
  shot.settings.layers = [newLayer('imported', { sha256: await sha256(map), name: 'm.png', width: W, height: H })];
  shot.settings.calibration = { ...shot.settings.calibration, near: 1, far: 10 };
  Object.assign(shot.settings.effects[0]!.values, { focus: 1, aperture: 0.3 });
  const project = { ...newProject('P'), shots: [shot] };
  const packed = await packProject(
    project,
    new Map([
      [await sha256(plate), plate],
      [await sha256(map), map],
    ]),
  );
  writeFileSync(at('p.ombrage'), new Uint8Array(await packed.arrayBuffer()));
  await render(at('p.ombrage'), { shot: '1', frame: '0', out: at('r.pfm') });
  const out = decodePfm(new Uint8Array(readFileSync(at('r.pfm'))));
  expect(out.kind === 'picture' && [out.picture.width, out.picture.height]).toEqual([W, H]);
  const distance = Float32Array.from({ length: W * H }, (_, i) => (i % W < 30 ? 1 : 1 / (0.2 + 0.8 / 10)));
  writeFileSync(at('dd.pfm'), encodePlanePfm({ width: W, height: H, data: distance }));
  await apply('lens-blur', { picture: at('p.png'), distance: at('dd.pfm'), hfov: '50', set: ['focus=1', 'aperture=0.3'], out: at('a.pfm') });
  const alone = decodePfm(new Uint8Array(readFileSync(at('a.pfm'))));
  if (out.kind !== 'picture' || alone.kind !== 'picture') throw new Error('no pictures');
  for (let i = 0; i < W * H * 4; i++) expect(Math.abs(out.picture.data[i]! - alone.picture.data[i]!)).toBeLessThan(2e-3);
  await expect(render(at('p.ombrage'), { shot: '7', frame: '0', out: at('r.png') })).rejects.toThrow('There is no shot 7');
  expect(await inspect(at('p.ombrage'))).toContain('shots: 1');
});

test('matte writes the coverage of a reach and the front’s own colours', async () => {
  // a bright square before a dark wall, each pixel wholly one or the other
  const inside = (i: number): boolean => Math.abs((i % W) - 32) < 12 && Math.abs(Math.floor(i / W) - 24) < 9;
  const [data, z] = [new Float32Array(W * H * 4), new Float32Array(W * H)];
  for (let i = 0; i < W * H; i++) {
    data.set(inside(i) ? [0.8, 0.6, 0.2, 1] : [0.05, 0.1, 0.2, 1], i * 4);
    z[i] = inside(i) ? 2 : 9;
  }
  writeFileSync(at('square.pfm'), encodePicturePfm({ width: W, height: H, data }));
  writeFileSync(at('square.z.pfm'), encodePlanePfm({ width: W, height: H, data: z }));
  const usual = { picture: at('square.pfm'), distance: at('square.z.pfm'), hfov: '50', from: '1', to: '4', out: at('m.pfm') };
  const share = Array.from({ length: W * H }, (_, i) => inside(i)).filter(Boolean).length / (W * H);
  expect(await matte({ ...usual, colours: at('f.pfm') })).toBe(`${at('m.pfm')}: ${W}x${H} px, ${(100 * share).toFixed(1)} % covered`);
  const [m, f] = ['m.pfm', 'f.pfm'].map((name) => decodePfm(new Uint8Array(readFileSync(at(name)))));
  if (m!.kind !== 'plane' || f!.kind !== 'picture') throw new Error('not a plane and a picture');
  for (let i = 0; i < W * H; i++) {
    expect(Math.abs(m!.plane.data[i]! - (inside(i) ? 1 : 0))).toBeLessThan(0.02);
    expect(Math.abs(f!.picture.data[i * 4]! - (inside(i) ? 0.8 : 0))).toBeLessThan(0.03);
  }
  // beyond them: everything else
  await matte({ ...usual, from: '4', to: 'inf' });
  const rest = decodePfm(new Uint8Array(readFileSync(at('m.pfm'))));
  expect(rest.kind === 'plane' && Math.abs(rest.plane.data[0]! - 1)).toBeLessThan(0.02);
  await expect(matte({ ...usual, from: '5' })).rejects.toThrow('--to (4 m) is not beyond --from (5 m).');
  await expect(matte({ ...usual, to: 'there' })).rejects.toThrow('"there" is no distance for --to.');
  await expect(matte({ ...usual, out: at('m.gif') })).rejects.toThrow('m.gif');
});

test('view stands still to the bit, moves by metres, and tells the distances from there', async () => {
  const [w, h, hfov] = [160, 90, 60];
  const focal = w / 2 / Math.tan((hfov * Math.PI) / 360);
  const data = new Float32Array(w * h * 4);
  for (let i = 0; i < w * h; i++) data.set([0.4 + 0.3 * Math.sin((i % w) / 9), 0.5, 0.1, 1], i * 4);
  writeFileSync(at('v.pfm'), encodePicturePfm({ width: w, height: h, data }));
  writeFileSync(at('v.d.pfm'), encodePlanePfm({ width: w, height: h, data: new Float32Array(w * h).fill(2) }));
  const usual = { picture: at('v.pfm'), distance: at('v.d.pfm'), hfov: String(hfov), out: at('v.o.pfm') };
  const lightOf = (name: string): Float32Array => {
    const file = decodePfm(new Uint8Array(readFileSync(at(name))));
    return file.kind === 'picture' ? file.picture.data : file.plane.data;
  };
  await view({ ...usual, at: '0,0,0' });
  expect(lightOf('v.o.pfm')).toEqual(data);
  // 10 px to the right on a plane 2 m away
  await view({ ...usual, at: `${(10 * 2) / focal},0,0`, depth: at('v.z.pfm') });
  const moved = lightOf('v.o.pfm');
  for (let x = 20; x < w - 20; x++) expect(moved[(45 * w + x) * 4]!).toBeCloseTo(data[(45 * w + x + 10) * 4]!, 3);
  expect(Math.max(...lightOf('v.z.pfm'))).toBeCloseTo(2, 4);
  await view({ ...usual, at: '0,0,0.5,0,0,5', depth: at('v.z.pfm') });
  expect(lightOf('v.z.pfm')[45 * w + 80]).toBeCloseTo(1.5, 4);
  for (const bad of ['1,2', '1,2,x', '', '1,2,3,4,5,6,7', '1,,3']) await expect(view({ ...usual, at: bad })).rejects.toThrow(/is no place for --at/);
});

test('a range of frames becomes PNGs that processes share, or is refused by name', async () => {
  const bytes = new Uint8Array(readFileSync(at('p.png')));
  const hash = await sha256(bytes);
  const shot = newShot({ sha256: hash, name: 'p.png', width: W, height: H, bits: 8, hfovFromFile: 50 });
  const map = new Uint8Array(encodeDepthPng({ width: W, height: H, data: Float32Array.from({ length: W * H }, (_, i) => (i % W < 20 ? 1 : 0)) }));
  const mapHash = await sha256(map);
  shot.settings.layers = [{ ...newLayer('imported', { sha256: mapHash, name: 'd.png', width: W, height: H }) }];
  shot.settings.time.length = 12;
  const push = newMove('push-in');
  shot.settings.camera.moves = [{ ...push, values: { ...push.values, distance: 20, easing: 'straight' } }];
  const project = { ...newProject('Clip'), shots: [shot] };
  const save = async (): Promise<void> => {
    const media = new Map([
      [hash, new Blob([bytes])],
      [mapHash, new Blob([map])],
    ]);
    writeFileSync(at('clip.ombrage'), new Uint8Array(await (await packProject(project, media)).arrayBuffer()));
  };
  await save();
  const out = at('frames');
  expect(await render(at('clip.ombrage'), { shot: '1', frames: '2-4', out })).toContain('3 made, 0 there already');
  expect(readdirSync(out).filter((f) => f.endsWith('.png'))).toEqual(['0002.png', '0003.png', '0004.png']);
  const before = statSync(join(out, '0003.png')).mtimeMs;
  expect(await render(at('clip.ombrage'), { shot: '1', frames: '3-5', out })).toContain('1 made, 2 there already');
  expect(statSync(join(out, '0003.png')).mtimeMs).toBe(before);
  // one that another living process is at is left to it; that of one that is gone is not
  writeFileSync(join(out, '.frames', '0006.png.claim'), `${hostname()} ${process.pid}`);
  writeFileSync(join(out, '.frames', '0007.png.claim'), `${hostname()} 999999999`);
  expect(await render(at('clip.ombrage'), { shot: '1', frames: '6-7', out })).toContain('1 made, 0 there already, 1 left to other processes');
  expect(existsSync(join(out, '0007.png'))).toBe(true);
  // a changed shot makes its frames anew
  shot.settings.camera.moves[0]!.values.distance = 30;
  await save();
  expect(await render(at('clip.ombrage'), { shot: '1', frames: '2-3', out })).toContain('2 made, 0 there already');
  // the frames differ, and the first one is the plate
  const frame = (n: number): Uint8Array => new Uint8Array(readFileSync(join(out, `000${n}.png`)));
  expect(Buffer.compare(frame(2), frame(3))).not.toBe(0);
  const refuse = async (frames: string, to: string, why: RegExp): Promise<void> =>
    expect(render(at('clip.ombrage'), { shot: '1', frames, out: to })).rejects.toThrow(why);
  await refuse('5-2', out, /"5-2" is no range/);
  await refuse('0-12', out, /ends at frame 11/);
  await refuse('all', out, /"all" is no range/);
  await refuse('0-3', at('x.gif'), /x.gif cannot hold frames/);
  // two processes make what one makes
  const [alone, shared] = [at('alone'), at('shared')];
  await render(at('clip.ombrage'), { shot: '1', frames: '0-11', out: alone });
  expect(await render(at('clip.ombrage'), { shot: '1', frames: '0-11', out: shared, jobs: '2' })).toBe(`${shared}: 12 frames, by 2 processes`);
  const names = readdirSync(alone).filter((f) => f.endsWith('.png'));
  expect(readdirSync(shared).filter((f) => f.endsWith('.png'))).toEqual(names);
  for (const name of names) expect(Buffer.compare(readFileSync(join(alone, name)), readFileSync(join(shared, name)))).toBe(0);
  const jobs = (options: object): Promise<string> => render(at('clip.ombrage'), { shot: '1', frames: '0-3', out, ...options });
  await expect(jobs({ jobs: '0' })).rejects.toThrow('"0" is no number of processes.');
  await expect(jobs({ jobs: '2', out: at('c.mp4') })).rejects.toThrow('Several processes share a range of frames in a folder.');
});

test('a frame that cannot be written ends the work, and nobody else’s claim stays', async () => {
  const folder = at('unwritable');
  const flat = (light: number) => ({ width: 2, height: 2, data: new Float32Array(16).fill(light) });
  const work = { folder, from: 0, to: 3, last: 3, key: (frame: number) => `k${frame}`, make: async (frame: number) => flat(frame === 1 ? NaN : 0.5) };
  await expect(framesIntoFolder(work)).rejects.toThrow(/values that are no numbers/);
  expect(readdirSync(join(folder, '.frames')).filter((f) => f.endsWith('.claim'))).toEqual([]);
  expect(existsSync(join(folder, '0000.png'))).toBe(true);
  expect(existsSync(join(folder, '0001.png'))).toBe(false);
});

test('16-bit PNGs hold the samples as they are, see-through ones too', async () => {
  for (const alpha of [1, 0.4]) {
    const data = Float32Array.from({ length: W * H * 4 }, (_, i) => (i % 4 === 3 ? alpha : (alpha * ((i * 37) % 1009)) / 1009));
    const picture = { width: W, height: H, data };
    await writePicture(at('samples.png'), picture);
    const wanted = samples16(picture);
    const found = decode(new Uint8Array(readFileSync(at('samples.png'))));
    expect([found.width, found.height, found.depth, found.channels]).toEqual([W, H, 16, wanted.channels]);
    expect(Uint16Array.from(found.data)).toEqual(wanted.data);
  }
});

test('clips are piped to ffmpeg frame by frame; where there is none it is said', async () => {
  const bin = at('bin');
  mkdirSync(bin, { recursive: true });
  const path = process.env.PATH;
  try {
    process.env.PATH = bin;
    await expect(render(at('clip.ombrage'), { shot: '1', frames: '0-2', out: at('c.mp4') })).rejects.toThrow(/ffmpeg here, and it is not installed/);
    // a stand-in that counts the bytes it is given and keeps how it was called
    writeFileSync(
      join(bin, 'ffmpeg'),
      `#!${process.execPath}\nconst fs=require('fs');let n=0;process.stdin.on('data',(d)=>(n+=d.length));process.stdin.on('end',()=>fs.writeFileSync(process.argv.at(-1),n+' '+process.argv.slice(2).join(' ')));\n`,
    );
    chmodSync(join(bin, 'ffmpeg'), 0o755);
    expect(await render(at('clip.ombrage'), { shot: '1', frames: '0-2', out: at('c.mp4') })).toContain('3 frames, 24 fps');
    const said = readFileSync(at('c.mp4'), 'utf8');
    expect(said).toMatch(new RegExp(`^${3 * W * H * 1.5} .*-s ${W}x${H} -r 24 .*libx264`));
    writeFileSync(join(bin, 'ffmpeg'), '#!/bin/sh\necho "no such encoder" >&2\nexit 1\n');
    await expect(render(at('clip.ombrage'), { shot: '1', frames: '0-2', out: at('c.webm') })).rejects.toThrow(/no such encoder/);
  } finally {
    process.env.PATH = path;
  }
});

test('an error is one line', () => {
  expect(errorLine(new Error('a\n  b'))).toBe('error: a b');
});

test('the program ends with 0 or 1 and prints help from the definitions', () => {
  const run = (...args: string[]) => spawnSync(process.execPath, ['scripts/headless.mjs', ...args], { encoding: 'utf8' });
  const help = run('apply', '--help');
  expect(help.status).toBe(0);
  expect(help.stdout).toContain('lens-blur (lens): Lens blur');
  expect(help.stdout).toContain('What lies here is sharp');
  const bad = run('inspect', at('nothing.png'));
  expect(bad.status).toBe(1);
  expect(bad.stderr.trim().split('\n')).toHaveLength(1);
  expect(run('inspect', at('p.png')).stdout).toContain('PNG');
});

const ramp = (f: (y: number) => number, scale = 1) => ({
  width: W * scale,
  height: H * scale,
  data: Float32Array.from({ length: W * H * scale * scale }, (_, i) => f((Math.floor(i / (W * scale)) + 0.5) / (H * scale))),
});

test('depth brings a smaller map to its plate, and writes what other readers read back', async () => {
  writeFileSync(
    at('half.png'),
    encodeDepthPng({ width: 32, height: 24, data: Float32Array.from({ length: 768 }, (_, i) => Math.floor(i / 32) / 23) }),
  );
  const said = await depth({ plate: at('p.png'), map: at('half.png'), out: at('o.tif'), turnOver: 'no' });
  expect(said).toContain('map: PNG, 32x24 px, 16 bits');
  expect(said).toContain('white is near (as asked');
  const { data, info } = await sharp(at('o.tif')).toColourspace('b-w').raw({ depth: 'float' }).toBuffer({ resolveWithObject: true });
  expect([info.width, info.height]).toEqual([W, H]);
  const floats = new Float32Array(data.buffer, data.byteOffset, W * H);
  for (let y = 4; y < H - 4; y++) expect(Math.abs(floats[y * W + 20]! - (y + 0.5 - 1) / (H - 2))).toBeLessThan(0.05);
  await depth({ plate: at('p.png'), map: at('half.png'), out: at('turned.pfm'), turnOver: 'yes' });
  const turned = decodePfm(new Uint8Array(readFileSync(at('turned.pfm'))));
  expect(turned.kind === 'plane' && turned.plane.data[5 * W]! > turned.plane.data[40 * W]!).toBe(true);
});

test('distances of an EXR stay metres on their way to a PFM', async () => {
  const z = ramp((y) => 12 - 10 * y);
  writeFileSync(at('z.exr'), encodeExr({ Z: z }));
  const said = await depth({ plate: at('p.png'), map: at('z.exr'), out: at('z.pfm'), turnOver: 'auto', metres: true });
  expect(said).toContain('read as: distances, small is near (file');
  const out = decodePfm(new Uint8Array(readFileSync(at('z.pfm'))));
  for (let i = 2 * W; i < (H - 2) * W; i += 97) expect((out.kind === 'plane' ? out.plane.data[i]! : 0) / z.data[i]!).toBeCloseTo(1, 2);
});

test('a JPEG with depth inside is read back by its own import', async () => {
  writeFileSync(at('z2.exr'), encodeExr({ Z: ramp((y) => 9 - 7 * y) }));
  await depth({ plate: at('p.png'), map: at('z2.exr'), out: at('carried.jpg'), turnOver: 'auto' });
  expect(await inspect(at('carried.jpg'))).toContain('depth inside: a depth map in its XMP metadata');
  const said = await depth({ plate: at('carried.jpg'), map: at('carried.jpg'), out: at('again.pfm'), turnOver: 'auto', metres: true });
  expect(said).toContain('XMP depth map');
  const out = decodePfm(new Uint8Array(readFileSync(at('again.pfm'))));
  expect(out.kind === 'plane' ? out.plane.data[24 * W + 30]! : 0).toBeCloseTo(9 - 7 * (24.5 / H), 1);
});

test('depth refuses by name what it cannot do', async () => {
  const usual = { plate: at('p.png'), map: at('half.png'), out: at('o.pfm'), turnOver: 'auto' };
  await expect(depth({ ...usual, fit: 'squeeze' })).rejects.toThrow('"squeeze" is no fit.');
  await expect(depth({ ...usual, turnOver: 'maybe' })).rejects.toThrow('"maybe"');
  await expect(depth({ ...usual, channel: 'Q' })).rejects.toThrow('has no channel "Q".');
  await expect(depth({ ...usual, near: '5', far: '2' })).rejects.toThrow('is not beyond the near end');
  await expect(depth({ ...usual, out: at('o.png'), metres: true })).rejects.toThrow('cannot hold metres');
  await expect(depth({ ...usual, map: at('d.txt') })).rejects.toThrow('d.txt');
});
