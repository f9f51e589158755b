import { beforeAll, expect, test } from '@jest/globals';
import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { newLayer, newProject, newShot } from '../src/core/document/defaults';
import { decodePfm, encodePicturePfm, encodePlanePfm } from '../src/formats/pfm';
import { decodePng, encodeDepthPng } from '../src/formats/png';
import { packProject } from '../src/formats/projectFile';
import { sha256 } from '../src/formats/sha256';
import { encodeExr } from '../src/formats/exr';
import { apply, depth, errorLine, estimate, inspect, matte, render } from './verbs';

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

test('an error is one line', () => {
  expect(errorLine(new Error('a\n  b'))).toBe('error: a b');
});

test('the program ends with 0 or 1 and prints help from the definitions', () => {
  const run = (...args: string[]) => spawnSync(process.execPath, ['--import', 'tsx', 'headless/main.ts', ...args], { encoding: 'utf8' });
  const help = run('apply', '--help');
  expect(help.status).toBe(0);
  expect(help.stdout).toContain('lens-blur (lens): Lens blur');
  expect(help.stdout).toContain('What lies here is sharp');
  const bad = run('inspect', at('nothing.png'));
  expect(bad.status).toBe(1);
  expect(bad.stderr.trim().split('\n')).toHaveLength(1);
  expect(execFileSync(process.execPath, ['--import', 'tsx', 'headless/main.ts', 'inspect', at('p.png')], { encoding: 'utf8' })).toContain('PNG');
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
