import { beforeAll, describe, expect, test } from '@jest/globals';
import sharp, { type Sharp } from 'sharp';
import { zipSync, strToU8 } from 'fflate';
import { OmbrageError } from '../core/error';
import { newLayer, newProject, newShot } from '../core/document/defaults';
import { srgbToLinear } from '../core/raster/colour';
import { newPicture } from '../core/picture';
import { seededRandom } from '../core/random';
import { checkPlate, inspectStill } from './inspect';
import { decodePfm, encodePicturePfm, encodePlanePfm } from './pfm/pfm';
import { decodePng, encodeDepthPng, encodePng } from './png/png';
import { packProject, unpackProject } from './project/projectFile';
import { mediaOf } from './project/projectMedia';
import { sha256 } from './bytes/sha256';
import { formatOf } from './registry';

const solid = (width: number, height: number, channels: 3 | 4 = 3) =>
  sharp({ create: { width, height, channels, background: { r: 200, g: 100, b: 50, alpha: 0.5 } } });
const bytesOf = async (image: Sharp): Promise<Uint8Array> => new Uint8Array(await image.toBuffer());
const blobOf = (bytes: Uint8Array): Blob => new Blob([bytes as Uint8Array<ArrayBuffer>]);
const codeOf = async (work: () => unknown): Promise<string> => {
  try {
    await work();
  } catch (error) {
    expect(error).toBeInstanceOf(OmbrageError);
    expect((error as OmbrageError).hint).not.toBe('');
    return (error as OmbrageError).code;
  }
  return 'no error';
};

describe('inspect', () => {
  test('knows files made by other software by what is in them', async () => {
    const made = { JPEG: solid(40, 30).jpeg(), PNG: solid(40, 30).png(), WebP: solid(40, 30).webp(), AVIF: solid(40, 30).avif() };
    for (const [label, image] of Object.entries(made)) {
      const facts = await inspectStill(await bytesOf(image), 'x');
      expect(facts).toMatchObject({ format: label, width: 40, height: 30, bits: 8, animated: false });
    }
  });

  test('turned pictures have their displayed size, and EXIF tells the field of view', async () => {
    const exif = { IFD2: { FocalLengthIn35mmFilm: '28' } };
    const upright = await inspectStill(await bytesOf(solid(40, 30).withExif(exif).jpeg()), 'x');
    expect(upright.hfovDegrees).toBeCloseTo((2 * Math.atan(18 / 28) * 180) / Math.PI, 3);
    const turned = await inspectStill(await bytesOf(solid(40, 30).withExif(exif).withMetadata({ orientation: 6 }).jpeg()), 'x');
    expect([turned.width, turned.height]).toEqual([30, 40]);
  });

  test('16-bit, grey, alpha and CMYK pictures are named as such', async () => {
    expect((await inspectStill(await bytesOf(solid(20, 20).toColourspace('rgb16').png()), 'x')).bits).toBe(16);
    expect((await inspectStill(await bytesOf(solid(20, 20).toColourspace('b-w').png()), 'x')).colour).toContain('grey');
    expect((await inspectStill(await bytesOf(solid(20, 20, 4).png()), 'x')).depthInside).toContain('alpha');
    const jpeg = await bytesOf(solid(20, 20, 3).jpeg());
    expect((await inspectStill(jpeg, 'x')).depthInside).toBeNull();
    const segment = Uint8Array.from([0xff, 0xe2, 0, 8, 0x4d, 0x50, 0x46, 0, 0, 0]);
    const multi = Uint8Array.from([...jpeg.subarray(0, 2), ...segment, ...jpeg.subarray(2)]);
    expect((await inspectStill(multi, 'x')).depthInside).toContain('further picture');
    expect((await inspectStill(await bytesOf(solid(20, 20).toColourspace('cmyk').jpeg()), 'x')).colour).toBe('CMYK');
  });

  test('bad input is refused by name, and says what to do', async () => {
    expect(await codeOf(() => inspectStill(new Uint8Array(), 'a.png'))).toBe('empty-file');
    expect(await codeOf(() => inspectStill(strToU8('not a picture at all'), 'a.png'))).toBe('unknown-format');
    expect(await codeOf(() => inspectStill(strToU8('<svg xmlns="http://www.w3.org/2000/svg"/>'), 'a.svg'))).toBe('unknown-format');
    const jpeg = await bytesOf(solid(400, 300).jpeg());
    expect(await codeOf(() => inspectStill(jpeg.subarray(0, jpeg.length >> 1), 'half.jpg'))).toBe('damaged-file');
    expect(await codeOf(() => inspectStill(awaitPng.subarray(0, 20), 'a.png'))).toBe('damaged-file');
    await expect(inspectStill(strToU8('GIF89a…………'), 'dance.gif')).rejects.toThrow('dance.gif is a GIF');
  });

  test('plates too large and too small are refused before they are decoded', async () => {
    const facts = { format: 'PNG', width: 20000, height: 20000, bits: 8, colour: 'RGB', animated: false, hfovDegrees: null, depthInside: null };
    expect(await codeOf(() => checkPlate(facts, 'wall.png'))).toBe('too-large');
    expect(await codeOf(() => checkPlate({ ...facts, width: 1, height: 1 }, 'dot.png'))).toBe('too-small');
    expect(await codeOf(() => checkPlate({ ...facts, width: 8000, height: 6000 }, 'fine.png'))).toBe('no error');
  });
});

let awaitPng: Uint8Array;
beforeAll(async () => {
  awaitPng = await bytesOf(solid(20, 20).png());
});

describe('png', () => {
  test('16 bits go out and come back, and other software reads them', async () => {
    const picture = newPicture(3, 2);
    for (let i = 0; i < 6; i++) picture.data.set([i / 6, 0.18, 0.5, 1], i * 4);
    const bytes = encodePng(picture, 16);
    const back = decodePng(bytes);
    expect(back.data).toBeInstanceOf(Uint16Array);
    for (let i = 0; i < 6; i++) expect(srgbToLinear(back.data[i * back.channels]! / 65535)).toBeCloseTo(i / 6, 4);
    const other = await sharp(bytes).metadata();
    expect([other.width, other.height, other.depth, other.channels]).toEqual([3, 2, 'ushort', 3]);
  });
  test('8 bits agree with another decoder, alpha kept only where there is some', async () => {
    const picture = newPicture(2, 1);
    picture.data.set([0.5, 0.25, 0.1, 1, 0.2, 0.1, 0.05, 0.5]);
    const { data, info } = await sharp(encodePng(picture, 8)).raw().toBuffer({ resolveWithObject: true });
    expect(info.channels).toBe(4);
    expect(data[7]).toBe(128);
    picture.data.set([0, 0, 0, 1], 4);
    expect((await sharp(encodePng(picture, 8)).metadata()).channels).toBe(3);
  });
  test('indexed and one-bit pictures made elsewhere are read', async () => {
    const bytes = await bytesOf(
      sharp(Buffer.from([255, 0, 0, 0, 0, 255, 255, 0, 0, 0, 0, 255]), { raw: { width: 2, height: 2, channels: 3 } }).png({
        palette: true,
        colours: 2,
      }),
    );
    const raster = decodePng(bytes);
    expect([raster.width, raster.height]).toEqual([2, 2]);
    expect([...raster.data.subarray(0, 3)]).toEqual([255, 0, 0]);
  });
  test('depth is stored as it is', () => {
    const raster = decodePng(encodeDepthPng({ width: 3, height: 1, data: Float32Array.from([0, 0.25, 1]) }));
    expect([...raster.data]).toEqual([0, 16384, 65535]);
  });
});

describe('pfm', () => {
  test('floats go out and come back, infinity too; rows are stored from the bottom', () => {
    const plane = { width: 2, height: 2, data: Float32Array.from([1.5, Infinity, -3, 1e-9]) };
    const bytes = encodePlanePfm(plane);
    expect(new DataView(bytes.buffer).getFloat32(bytes.length - 16, true)).toBe(-3);
    const back = decodePfm(bytes);
    expect(back.kind === 'plane' && [...back.plane.data]).toEqual([...plane.data]);
    const picture = newPicture(2, 1);
    picture.data.set([0.1, 2, 40, 1, 0, 0.5, 0.25, 1]);
    const colours = decodePfm(encodePicturePfm(picture));
    expect(colours.kind === 'picture' && colours.picture.data).toEqual(picture.data);
  });
  test('big-endian files and odd white space are read', () => {
    const head = strToU8('Pf\r\n1 1\r\n1.0\n');
    const bytes = new Uint8Array(head.length + 4);
    bytes.set(head);
    new DataView(bytes.buffer).setFloat32(head.length, 7.25, false);
    const image = decodePfm(bytes);
    expect(image.kind === 'plane' && image.plane.data[0]).toBe(7.25);
  });
  test('damage is named', async () => {
    expect(await codeOf(() => decodePfm(strToU8('Pf\n4 4\n-1\n12')))).toBe('damaged-file');
    expect(await codeOf(() => decodePfm(strToU8('Pf\n99999999 9999999\n-1\n')))).toBe('damaged-file');
    expect(await codeOf(() => decodePfm(strToU8('Pf\n')))).toBe('damaged-file');
  });
});

test('every reader survives random mutations of valid files', async () => {
  const random = seededRandom(7);
  const valid = [
    awaitPng,
    await bytesOf(solid(24, 24).jpeg()),
    await bytesOf(solid(24, 24).webp()),
    await bytesOf(solid(24, 24).avif()),
    encodePlanePfm({ width: 4, height: 4, data: new Float32Array(16) }),
  ];
  for (const bytes of valid)
    for (let round = 0; round < 60; round++) {
      const mutated = bytes.slice(0, random() < 0.3 ? Math.floor(random() * bytes.length) : bytes.length);
      for (let k = 0; k < 4 && mutated.length > 0; k++) mutated[Math.floor(random() * mutated.length)] = Math.floor(256 * random());
      try {
        await inspectStill(mutated, 'mutant');
        const format = formatOf(mutated);
        if (format?.kind === 'png') decodePng(mutated);
        if (format?.kind === 'pfm') decodePfm(mutated);
      } catch (error) {
        expect(error).toBeInstanceOf(OmbrageError);
      }
    }
});

describe('project file', () => {
  const picture = strToU8('pixels of the plate');
  const map = strToU8('pixels of the map');
  const projectOf = async () => {
    const shot = newShot({ sha256: await sha256(picture), name: 'plate.png', width: 40, height: 30, bits: 8, hfovFromFile: null });
    shot.settings.layers.push(newLayer('imported', { sha256: await sha256(map), name: 'map.png', width: 40, height: 30 }));
    return { ...newProject('Coast'), shots: [shot] };
  };
  const media = async () =>
    new Map([
      [await sha256(picture), picture],
      [await sha256(map), map],
    ]);

  test('goes out and comes back whole', async () => {
    const project = await projectOf();
    const back = await unpackProject(await packProject(project, await media()), 'coast.ombrage');
    expect(back.project).toEqual(project);
    expect([...back.media.keys()].sort()).toEqual([...(await media()).keys()].sort());
    expect(mediaOf(project)).toHaveLength(2);
  });

  test('wrong files are refused, each for its reason', async () => {
    const project = await projectOf();
    const json = strToU8(JSON.stringify(project));
    const path = `media/${await sha256(picture)}`;
    const other = `media/${await sha256(map)}`;
    const code = (files: Record<string, Uint8Array>): Promise<string> => codeOf(() => unpackProject(blobOf(zipSync(files)), 'x.ombrage'));
    expect(await codeOf(() => unpackProject(new Blob([]), 'x'))).toBe('empty-file');
    expect(await codeOf(() => unpackProject(blobOf(strToU8('plain text')), 'x'))).toBe('not-a-project');
    expect(await code({ 'other.json': json })).toBe('not-a-project');
    expect(await code({ 'project.json': strToU8('{') })).toBe('bad-document');
    expect(await code({ 'project.json': strToU8(JSON.stringify({ ...project, version: 99 })) })).toBe('newer-version');
    expect(await code({ 'project.json': json, [path]: picture })).toBe('missing-media');
    expect(await code({ 'project.json': json, [path]: strToU8('changed'), [other]: map })).toBe('media-changed');
    expect(await code({ 'project.json': json, [path]: picture, [other]: map, '../outside': picture })).toBe('unsafe-path');
    expect(await codeOf(() => packProject(project, new Map()))).toBe('missing-media');
  });
});
