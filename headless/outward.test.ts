import { describe, expect, test } from '@jest/globals';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js';
import { focalPx } from '../src/core/optics';
import { encodePlanePfm } from '../src/formats/pfm/pfm';
import { mesh } from './meshVerb';
import { page } from './pageVerb';

const folder = mkdtempSync(join(tmpdir(), 'outward-'));
const at = (name: string): string => join(folder, name);
const [W, H] = [80, 60];

/** A card 2 m away before a wall 6 m away, and a picture that says where it was taken. */
async function files(): Promise<{ picture: string; distance: string; hfov: string }> {
  const rgb = Buffer.alloc(W * H * 3, 90);
  const data = Float32Array.from({ length: W * H }, (_, i) => (i % W > 30 && i % W < 50 && i > W * 15 && i < W * 45 ? 2 : 6));
  for (let i = 0; i < W * H; i++) if (data[i] === 2) rgb[i * 3] = 250;
  const jpeg = await sharp(rgb, { raw: { width: W, height: H, channels: 3 } })
    .withExif({ IFD0: { Copyright: 'nobody' }, IFD3: { GPSLatitudeRef: 'N', GPSLatitude: '51/1 30/1 0/1' } })
    .jpeg({ quality: 95 })
    .toBuffer();
  writeFileSync(at('p.jpg'), jpeg);
  writeFileSync(at('d.pfm'), encodePlanePfm({ width: W, height: H, data }));
  return { picture: at('p.jpg'), distance: at('d.pfm'), hfov: '60' };
}

describe('mesh', () => {
  test('corners lie where the lens and the distances put them', async () => {
    const given = await files();
    const said = await mesh({ ...given, triangles: '100000', behind: true, out: at('m.ply') });
    expect(said).toMatch(/m\.ply: [\d,]+ triangles, at most 0\.00 px off$/);
    const at3 = new PLYLoader().parse(readFileSync(at('m.ply')).buffer.slice(0)).getAttribute('position');
    const f = focalPx(W, 60);
    let near = 0;
    for (let i = 0; i < at3.count; i++) {
      const [x, y, z] = [at3.getX(i), at3.getY(i), -at3.getZ(i)];
      const [px, py] = [W / 2 + (f * x) / z, H / 2 - (f * y) / z];
      expect(px > -0.01 && px < W + 0.01 && py > -0.01 && py < H + 0.01).toBe(true);
      if (Math.abs(z - 2) < 1e-4) near++;
    }
    expect(near).toBeGreaterThanOrEqual(19 * 29);
  });

  test('every ending is written, points too, and nothing of where the picture was taken goes along', async () => {
    const given = await files();
    for (const out of ['m.glb', 'm.obj.zip', 'm.ply', 'n.html']) {
      if (out === 'n.html') await page({ ...given, strength: '3', out: at(out) });
      else await mesh({ ...given, triangles: '800', out: at(out) });
      const bytes = readFileSync(at(out));
      expect(bytes.length).toBeGreaterThan(1000);
      for (const trace of ['Exif', 'GPS', 'nobody']) expect(bytes.includes(Buffer.from(trace))).toBe(false);
    }
    expect(await mesh({ ...given, triangles: '1', points: true, out: at('p.ply') })).toMatch(/points$/);
  });

  test('what cannot be is said', async () => {
    const given = await files();
    const usual = { ...given, triangles: '800', out: at('m.glb') };
    await expect(mesh({ ...usual, triangles: 'many' })).rejects.toMatchObject({ code: 'bad-setting' });
    await expect(mesh({ ...usual, out: at('m.stl') })).rejects.toMatchObject({ code: 'bad-output' });
    await expect(mesh({ ...usual, points: true })).rejects.toMatchObject({ code: 'bad-output' });
    const holes = { width: W, height: H, data: new Float32Array(W * H).fill(NaN) };
    writeFileSync(at('nan.pfm'), encodePlanePfm(holes));
    await expect(mesh({ ...usual, distance: at('nan.pfm') })).rejects.toMatchObject({ code: 'bad-distance' });
  });

  test('a map of one distance only is a flat wall', async () => {
    const given = await files();
    writeFileSync(at('flat.pfm'), encodePlanePfm({ width: W, height: H, data: new Float32Array(W * H).fill(3) }));
    const said = await mesh({ ...given, distance: at('flat.pfm'), triangles: '800', behind: true, out: at('flat.glb') });
    expect(said).toMatch(/at most 0\.\d+ px off$/);
    expect(await page({ ...given, distance: at('flat.pfm'), strength: '2.5', out: at('flat.html') })).toContain('flat.html');
  });
});

test('a page keeps its words, and refuses what it cannot be', async () => {
  const given = await files();
  await page({ ...given, strength: '2.5', words: `"a" <b>`, title: '</title>', out: at('w.html') });
  const text = readFileSync(at('w.html'), 'utf8');
  expect(text).toContain('aria-label="&#34;a&#34; &#60;b&#62;"');
  expect(text).toContain('<title>&#60;/title&#62;</title>');
  await expect(page({ ...given, strength: '40', out: at('w.html') })).rejects.toMatchObject({ code: 'bad-setting' });
  await expect(page({ ...given, strength: '2', stands: '0', out: at('w.html') })).rejects.toMatchObject({ code: 'bad-setting' });
});
