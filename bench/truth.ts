import { existsSync, readFileSync } from 'node:fs';
import sharp from 'sharp';
import { newPicture, newPlane, type Picture, type Plane, type Raster } from '../src/core/picture';
import { decodePng } from '../src/formats/png/png';

export interface Lens {
  readonly apertureDiameter: number;
  readonly focusDistance: number;
  readonly blades: number;
}

interface Index {
  readonly width: number;
  readonly height: number;
  readonly hfovDegrees: number;
  readonly nearest: number;
  readonly lenses: Record<string, Lens>;
}

export const shotNames = ['chartTable', 'quayLamp', 'figurehead', 'dunes'].filter((n) => existsSync(`bench/truth/${n}.json`));

export const indexOf = (name: string): Index => JSON.parse(readFileSync(`bench/truth/${name}.json`, 'utf8')) as Index;

const bytes = (path: string): Uint8Array => new Uint8Array(readFileSync(path));

/** The pinhole rendering in linear light: stored as 16-bit steps of the cube root, up to 64. */
export function pinholeOf(name: string): Picture {
  const { width, height, data } = decodePng(bytes(`bench/truth/${name}.pinhole.png`));
  const picture = newPicture(width, height);
  for (let i = 0; i < width * height; i++) {
    for (let k = 0; k < 3; k++) picture.data[i * 4 + k] = 64 * (data[i * 3 + k]! / 65535) ** 3;
    picture.data[i * 4 + 3] = 1;
  }
  return picture;
}

/** Its exact distances, metres: stored as nearest/z. */
export function distanceOf(name: string): Plane {
  const { width, height, data } = decodePng(bytes(`bench/truth/${name}.distance.png`));
  const { nearest } = indexOf(name);
  const plane = newPlane(width, height);
  for (let i = 0; i < plane.data.length; i++) plane.data[i] = data[i] ? (nearest * 65535) / data[i]! : Infinity;
  return plane;
}

/** The thin-lens rendering, 8-bit sRGB, RGB interleaved. */
export async function lensTruth(name: string, lens: string): Promise<Uint8Array> {
  return new Uint8Array(await sharp(`bench/truth/${name}.${lens}.png`).removeAlpha().raw().toBuffer());
}

/** The demo's picture and the exact distances that go with it. */
export async function demoShot(name: string): Promise<{ raster: Raster; distance: Plane }> {
  const { data, info } = await sharp(`public/demo/${name}.jpg`).removeAlpha().raw().toBuffer({ resolveWithObject: true });
  const ends = (JSON.parse(readFileSync('public/demo/demo.json', 'utf8')) as { shots: Record<string, { near: number; far: number }> }).shots[name]!;
  const depth = decodePng(bytes(`public/demo/${name}.depth.png`));
  const distance = newPlane(depth.width, depth.height);
  for (let i = 0; i < distance.data.length; i++) {
    const n = depth.data[i]! / 65535;
    distance.data[i] = 1 / (n / ends.near + (1 - n) / ends.far);
  }
  return { raster: { width: info.width, height: info.height, channels: 3, data: new Uint8Array(data) }, distance };
}
