import { readBytes } from './readBytes';
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { basename, dirname, extname, resolve } from 'node:path';
import sharp from 'sharp';
import { OmbrageError } from '../src/core/error';
import { encodePicture8 } from '../src/core/raster/colour';
import type { Picture, Plane, Raster } from '../src/core/picture';
import { sampleRaster, stretch } from '../src/core/raster/resample';
import { checkPlate, inspectStill } from '../src/formats/inspect';
import type { Encoders, FormatDefinition, StillFacts } from '../src/formats/definition';
import { encodeExr } from '../src/formats/exr/exr';
import { decodePfm } from '../src/formats/pfm/pfm';
import { encodeDepthPng, png, samples16 } from '../src/formats/png/png';
import { formatOf, formats } from '../src/formats/registry';

/** Decoded pixels of a picture file; 16-bit PNGs keep their bits. `name` is used in messages. */
export async function decodeStill(bytes: Uint8Array, name: string, plate = true): Promise<{ facts: StillFacts; raster: Raster }> {
  const facts = await inspectStill(bytes, name);
  if (plate) checkPlate(facts, name);
  const own = await formatOf(bytes)?.readPicture?.(bytes, facts, plate ? 'plate' : 'map');
  if (own) return { facts, raster: own };
  try {
    const { data, info } = await sharp(bytes, { failOn: 'error', limitInputPixels: 4e8 })
      .rotate()
      .toColourspace('srgb')
      .ensureAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    return { facts, raster: { width: info.width, height: info.height, channels: 4, data: new Uint8Array(data) } };
  } catch (error) {
    throw new OmbrageError(
      'damaged-file',
      `${name} is damaged (${error instanceof Error ? error.message.split('\n')[0] : 'unknown'}).`,
      'Choose an undamaged copy.',
    );
  }
}

/** A picture in linear light: a PFM as it is, anything else decoded from sRGB. */
export async function readPicture(path: string): Promise<Picture> {
  const bytes = readBytes(path);
  const name = basename(path);
  if (extname(path).toLowerCase() === '.pfm') {
    const image = decodePfm(bytes);
    if (image.kind === 'picture') return image.picture;
    throw new OmbrageError('not-a-picture', `${name} holds one channel, not colours.`, 'Give a three-channel PFM.');
  }
  const { raster } = await decodeStill(bytes, name);
  return sampleRaster(raster, stretch(raster, raster.width, raster.height), raster.width, raster.height);
}

/** Distances in metres from a one-channel PFM. */
export function readDistance(path: string): Plane {
  const image = decodePfm(readBytes(path));
  if (image.kind === 'plane') return image.plane;
  throw new OmbrageError('not-a-distance', `${basename(path)} holds colours, not distances.`, 'Give a one-channel PFM in metres.');
}

/** Makes a folder and those it is in. One by one: where a file system takes none, making them all at once never ends. Throws what the system says. */
export function makeFolder(path: string): void {
  if (existsSync(path)) return;
  makeFolder(dirname(path));
  mkdirSync(path);
}

/** Writes a file; a folder that is missing is made. Throws OmbrageError `unwritable`. */
export function writeBytes(path: string, bytes: Uint8Array): void {
  try {
    makeFolder(dirname(resolve(path)));
    writeFileSync(path, bytes);
  } catch (error) {
    const why = {
      EACCES: 'it may not be written here',
      ENOSPC: 'the disk is full',
      ENOENT: 'no folder can be made there',
      EROFS: 'nothing may be written there',
      EPERM: 'it may not be written here',
      EISDIR: 'it is a folder',
      ENOTDIR: 'a part of its path is a file',
      EEXIST: 'a part of its path is a file',
    };
    const { code } = error as { code?: string };
    throw new OmbrageError('unwritable', `${path} cannot be written: ${why[code as keyof typeof why] ?? code ?? 'unknown'}.`, 'Give another path.');
  }
}

const unwritable = (path: string, allowed: string): OmbrageError =>
  new OmbrageError('bad-output', `${path} has no ending that can be written here.`, `Give a name that ends in ${allowed}.`);

/** Refuses a picture that is none: settings beyond all measure leave numbers that are no light. */
function checkFinite({ data }: Picture, path: string): void {
  let finite = true;
  for (let i = 0; finite && i < data.length; i++) finite = Number.isFinite(data[i]!);
  if (finite) return;
  throw new OmbrageError(
    'no-numbers',
    `${path} was not written: the picture holds values that are no numbers.`,
    'A setting is far too large: choose smaller ones.',
  );
}

/** How a file ends, without its dot. */
const endingOf = (path: string): string => extname(path).slice(1).toLowerCase();
const endingsOf = (format: FormatDefinition): readonly string[] => format.extensions.map((ending) => `.${ending}`);

const asPictures = formats.filter((f) => f.writePicture);
const asPlanes = formats.filter((f) => f.writePlane);
export const PICTURE_ENDINGS = asPictures.flatMap(endingsOf);
/** Nearness goes into a PNG as grey of 16 bits, into others as floats. */
export const MAP_ENDINGS = [...endingsOf(png), ...asPlanes.flatMap(endingsOf)];

/** Writes a picture in any format that can be written as one: 16 bits a channel where there is a choice. */
export async function writePicture(path: string, picture: Picture): Promise<void> {
  checkFinite(picture, path);
  const format = asPictures.find((f) => f.extensions.includes(endingOf(path)));
  if (!format) throw unwritable(path, PICTURE_ENDINGS.join(', '));
  writeBytes(path, await format.writePicture!(picture, { bits: 16, quality: 0.92, encoders: ENCODERS }));
}

const eightBits = (picture: Picture) => {
  const rgba = new Uint8ClampedArray(picture.data.length);
  encodePicture8(picture, rgba);
  return sharp(rgba, { raw: { width: picture.width, height: picture.height, channels: 4 } });
};

const percent = (quality: number): number => Math.round(100 * quality);
/** As the page's encoders: on white where a JPEG would be see-through. */
export const ENCODERS: Encoders = {
  jpeg: async (picture, quality) =>
    new Uint8Array(
      await eightBits(picture)
        .flatten({ background: '#fff' })
        .jpeg({ quality: percent(quality), chromaSubsampling: '4:4:4' })
        .toBuffer(),
    ),
  webp: async (picture, quality) =>
    new Uint8Array(
      await eightBits(picture)
        .webp({ quality: percent(quality) })
        .toBuffer(),
    ),
  // compressed beside what goes on meanwhile, and in a fifth of the time
  png16: async (picture) => {
    const { data, ...raw } = samples16(picture);
    return new Uint8Array(await sharp(data, { raw }).toColourspace('rgb16').png().toBuffer());
  },
};

/** A picture as JPEG, on white where it is see-through. */
export const encodeJpeg = (picture: Picture): Promise<Uint8Array> => ENCODERS.jpeg(picture, 0.92);

/** Formats that would take a plane for distances, or hold whole numbers: how they hold greys. */
const AS_GREYS: Readonly<Record<string, (map: Plane) => Uint8Array>> = { png: encodeDepthPng, exr: (map) => encodeExr(map) };

/** Writes a map, 0..1. */
export function writeMap(path: string, map: Plane): void {
  const ending = endingOf(path);
  const write = AS_GREYS[ending] ?? asPlanes.find((f) => f.extensions.includes(ending))?.writePlane;
  if (!write) throw unwritable(path, MAP_ENDINGS.join(', '));
  writeBytes(path, write(map));
}

/** Refuses an output name before any work is done. */
export function checkOutput(path: string, endings: readonly string[]): void {
  if (!endings.some((ending) => path.toLowerCase().endsWith(ending) && path.length > ending.length)) throw unwritable(path, endings.join(', '));
}
