import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { linearToSrgb } from '../src/core/raster/colour';
import { newPicture, newPlane, type Picture, type Plane } from '../src/core/picture';
import { decodePng } from '../src/formats/png/png';

/** Truth made by demo/cutTruth.ts: a scene cut out at distances, and in fog, of the very samples its picture is made of. */
export interface CutIndex {
  readonly width: number;
  readonly height: number;
  readonly hfovDegrees: number;
  readonly nearest: number;
  readonly cuts: readonly number[];
  readonly fog: {
    readonly visibility: number;
    readonly start: number;
    readonly colour: string;
    readonly thins: number;
    readonly eye: number;
    readonly horizon: number;
  };
}
export interface Cut {
  /** exact coverage */
  readonly alpha: Plane;
  /** light of the front, premultiplied */
  readonly front: Picture;
  /** pixels in which the front is narrower than 3 px */
  readonly thin: Uint8Array;
  /** pixels within 4 px of one that is shared */
  readonly band: Uint8Array;
}

const png = (name: string): ReturnType<typeof decodePng> => decodePng(new Uint8Array(readFileSync(`bench/truth/${name}.png`)));
const unpack = (v: number): number => 64 * (v / 65535) ** 3;

export const cutIndex = (name: string): CutIndex => JSON.parse(readFileSync(`bench/truth/${name}.cuts.json`, 'utf8')) as CutIndex;

export function cutPicture(name: string): { picture: Picture; distance: Plane } {
  const { width, height, data } = png(`${name}.cuts`);
  const picture = newPicture(width, height);
  for (let i = 0; i < width * height; i++) {
    for (let k = 0; k < 3; k++) picture.data[i * 4 + k] = unpack(data[i * 3 + k]!);
    picture.data[i * 4 + 3] = 1;
  }
  const { nearest } = cutIndex(name);
  const distance = newPlane(width, height);
  const packed = png(`${name}.cuts.distance`).data;
  for (let i = 0; i < width * height; i++) distance.data[i] = packed[i] ? (nearest * 65535) / packed[i]! : Infinity;
  return { picture, distance };
}

export function cutTruth(name: string, k: number): Cut {
  const { width, height, data } = png(`${name}.cut${k}`);
  const [alpha, front] = [newPlane(width, height), newPicture(width, height)];
  const thin = new Uint8Array(width * height);
  const shared: number[] = [];
  for (let i = 0; i < width * height; i++) {
    alpha.data[i] = data[i * 4 + 3]! / 65534;
    thin[i] = data[i * 4 + 3]! & 1;
    for (let c = 0; c < 3; c++) front.data[i * 4 + c] = unpack(data[i * 4 + c]!);
    front.data[i * 4 + 3] = alpha.data[i]!;
    if (alpha.data[i]! > 0.02 && alpha.data[i]! < 0.98) shared.push(i);
  }
  const band = new Uint8Array(width * height);
  for (const i of shared)
    for (let dy = -4; dy <= 4; dy++)
      for (let dx = -4; dx <= 4; dx++) {
        const [x, y] = [(i % width) + dx, Math.floor(i / width) + dy];
        if (dx * dx + dy * dy <= 16 && x >= 0 && y >= 0 && x < width && y < height) band[y * width + x] = 1;
      }
  return { alpha, front, thin, band };
}

/** The scene in fog, 8-bit sRGB, RGB interleaved. */
export const fogTruth = async (name: string, kind: 'fog' | 'lowFog'): Promise<Uint8Array> =>
  new Uint8Array(await sharp(`bench/truth/${name}.${kind}.png`).removeAlpha().raw().toBuffer());

export interface MatteScore {
  /** mean absolute error of the coverage in the band */
  readonly error: number;
  /** dB of the composite over green, black and white in the band, and on thin pixels */
  readonly band: number;
  readonly thin: number;
  /** coverage found on thin pixels, of the true one, % */
  readonly kept: number;
  /** mean absolute error outside the band */
  readonly stray: number;
}

const BACKDROPS = [
  [0.05, 0.5, 0.1],
  [0, 0, 0],
  [1, 1, 1],
] as const;
const shown = (v: number): number => linearToSrgb(Math.min(1, Math.max(0, v)));

/** A matte with premultiplied colours against the truth. */
export function matteScore({ alpha, front, thin, band }: Cut, matte: Plane, colours: Picture): MatteScore {
  let [error, inBand, stray, outside, found, there, squareBand, squareThin, inThin] = [0, 0, 0, 0, 0, 0, 0, 0, 0];
  for (let i = 0; i < alpha.data.length; i++) {
    const e = Math.abs(matte.data[i]! - alpha.data[i]!);
    if (band[i]) {
      error += e;
      inBand++;
    } else {
      stray += e;
      outside++;
    }
    if (thin[i]) {
      found += matte.data[i]!;
      there += alpha.data[i]!;
      inThin++;
    }
    if (!band[i] && !thin[i]) continue;
    let square = 0;
    for (const backdrop of BACKDROPS)
      for (let c = 0; c < 3; c++) {
        const over = colours.data[i * 4 + c]! + (1 - matte.data[i]!) * backdrop[c]!;
        square += (shown(over) - shown(front.data[i * 4 + c]! + (1 - alpha.data[i]!) * backdrop[c]!)) ** 2;
      }
    if (band[i]) squareBand += square;
    if (thin[i]) squareThin += square;
  }
  const db = (sum: number, n: number): number => -10 * Math.log10(sum / (n * 9) + 1e-12);
  return { error: error / inBand, band: db(squareBand, inBand), thin: db(squareThin, inThin), kept: (100 * found) / there, stray: stray / outside };
}
