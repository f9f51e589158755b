import type { Size } from '../picture';
import { HALVING_SPREADS, hiddenLevels } from './blurShape';
import type { RadiusPicture } from './lensBlurHost';
import { halfSize } from './lensBlurLayout';

/** Pixels of one size: light times coverage beside the signed radius. */
export interface TwinSheet extends Size {
  readonly data: Float32Array;
  readonly cover: Float32Array;
  /** what lies behind them, and where it is read for a pixel */
  readonly hidden?: { readonly data: Float32Array; readonly cover: Float32Array; readonly at: (x: number, y: number) => number };
  /** lamps alone: they cover nothing */
  readonly lamps?: boolean;
}

export const NOTHING = -1e9;

const strength = (data: Float32Array, i: number): number => Math.max(data[i]!, data[i + 1]!, data[i + 2]!);

/** The pixels of each 2x2, a last row or column twice. */
function fours({ width, height }: Size, x: number, y: number): { i: number; twice: boolean }[] {
  return [0, 1, 2, 3].map((k) => {
    const [u, v] = [2 * x + (k & 1), 2 * y + (k >> 1)];
    return { i: Math.min(height - 1, v) * width + Math.min(width - 1, u), twice: u >= width || v >= height };
  });
}

/** A radius in px of half the size, in single precision as the kernel has it. */
const halvedRho = (rho: number): number => Math.fround((Math.sign(rho) * Math.sqrt(Math.max(0, rho * rho - HALVING_SPREADS))) / 2);

/** A sheet at half the size, of the pixels that belong to it. */
export function halved(from: TwinSheet, belongs: (rho: number) => boolean): TwinSheet {
  const size = halfSize(from);
  const data = new Float32Array(size.width * size.height * 4);
  const cover = new Float32Array(size.width * size.height);
  for (let y = 0; y < size.height; y++)
    for (let x = 0; x < size.width; x++) {
      const o = y * size.width + x;
      const all = fours(from, x, y).filter(({ i }) => from.cover[i]! > 0 && belongs(from.data[i * 4 + 3]!));
      if (all.length === 0) continue;
      const light = (i: number, twice: boolean, c: number): number =>
        twice ? Math.min(from.cover[i]!, from.data[i * 4 + c]!) : from.data[i * 4 + c]!;
      const most = (i: number, twice: boolean): number => Math.max(...[0, 1, 2].map((c) => light(i, twice, c)));
      const radii = all.map(({ i }) => from.data[i * 4 + 3]!);
      const n = all.reduce((s, { i }) => s + from.cover[i]!, 0);
      const brightest = all.reduce((a, b) => (most(b.i, b.twice) > most(a.i, a.twice) ? b : a));
      const oneSurface = Math.fround(Math.max(...radii) - Math.min(...radii)) <= 1;
      const rho = oneSurface ? all.reduce((s, { i }) => s + from.cover[i]! * from.data[i * 4 + 3]!, 0) / n : from.data[brightest.i * 4 + 3]!;
      for (let c = 0; c < 3; c++) data[o * 4 + c] = all.reduce((s, { i, twice }) => s + light(i, twice, c), 0) / 4;
      data[o * 4 + 3] = halvedRho(rho);
      cover[o] = n / 4;
    }
  return { ...size, data, cover };
}

/** What lies behind the pixels of a sheet, from what lies behind those of the finer one. */
export function halvedHidden(from: TwinSheet, to: TwinSheet, belongs: (rho: number) => boolean): NonNullable<TwinSheet['hidden']> {
  const { width } = to;
  const at = (x: number, y: number): number => y * width + x;
  const hidden = from.hidden!;
  if (hidden.data.length === from.data.length) {
    const coarser = halved({ ...from, data: hidden.data, cover: hidden.cover }, belongs);
    return { data: coarser.data, cover: coarser.cover, at };
  }
  // behind the whole picture it is at half the size already: it covers as much as there are pixels that own it
  const data = new Float32Array(to.data.length);
  const cover = new Float32Array(to.cover.length);
  for (let y = 0; y < to.height; y++)
    for (let x = 0; x < width; x++) {
      const o = y * width + x;
      const owners = fours(from, x, y).reduce((s, { i, twice }) => s + (twice ? 0 : hidden.cover[i]!), 0);
      if (owners === 0 || !belongs(hidden.data[o * 4 + 3]!)) continue;
      cover[o] = owners / 4;
      for (let c = 0; c < 3; c++) data[o * 4 + c] = (hidden.data[o * 4 + c]! * owners) / 4;
      data[o * 4 + 3] = halvedRho(hidden.data[o * 4 + 3]!);
    }
  return { data, cover, at };
}

/** Takes the lamps out of a sheet at half the size: the sheet without them, and they alone at full size, null where there are none. */
export function lampsOf(picture: TwinSheet, belongs: (rho: number) => boolean, sheet: TwinSheet): [TwinSheet, TwinSheet | null] {
  const { width, height } = sheet;
  const BLOCK = 8;
  const [bw, bh] = [Math.ceil(width / BLOCK), Math.ceil(height / BLOCK)];
  const sums = new Float64Array(bw * bh);
  const counts = new Float64Array(bw * bh);
  const own = (x: number, y: number): number[] =>
    fours(picture, x, y)
      .filter(({ i, twice }) => !twice && belongs(picture.data[i * 4 + 3]!))
      .map(({ i }) => i);
  const brightest = Float32Array.from(sheet.cover, (cover, o) => {
    if (cover <= 0) return 0;
    const all = fours(picture, o % width, Math.floor(o / width)).filter(({ i }) => belongs(picture.data[i * 4 + 3]!));
    return Math.max(...all.map(({ i, twice }) => (twice ? Math.min(1, strength(picture.data, i * 4)) : strength(picture.data, i * 4))));
  });
  const blockOf = (o: number): [number, number] => [Math.floor((o % width) / BLOCK), Math.floor(o / width / BLOCK)];
  for (const [o, cover] of sheet.cover.entries()) {
    if (cover <= 0) continue;
    const [bx, by] = blockOf(o);
    sums[by * bw + bx]! += brightest[o]!;
    counts[by * bw + bx]! += 1;
  }
  const light = sheet.data.slice();
  const lamps = new Float32Array(picture.data.length);
  const cover = new Float32Array(picture.cover.length);
  let any = false;
  for (const [o, most] of brightest.entries()) {
    const [bx, by] = blockOf(o);
    let [sum, n] = [0, 0];
    for (let v = Math.max(0, by - 1); v <= Math.min(bh - 1, by + 1); v++)
      for (let u = Math.max(0, bx - 1); u <= Math.min(bw - 1, bx + 1); u++) {
        sum += sums[v * bw + u]!;
        n += counts[v * bw + u]!;
      }
    const above = Math.max(0.3, n > 0 ? (5 * sum) / n : 0);
    if (most <= above) continue;
    for (const i of own(o % width, Math.floor(o / width))) {
      const share = 1 - above / strength(picture.data, i * 4);
      if (share <= 0) continue;
      any = true;
      for (let c = 0; c < 3; c++) {
        lamps[i * 4 + c] = picture.data[i * 4 + c]! * share;
        light[o * 4 + c]! -= lamps[i * 4 + c]! / 4;
      }
      lamps[i * 4 + 3] = picture.data[i * 4 + 3]!;
      cover[i] = 1;
    }
  }
  return [{ ...sheet, data: light }, any ? { width: picture.width, height: picture.height, data: lamps, cover, lamps: true } : null];
}

/** A plane at half the size: means of 2x2. */
export function halvedPlane(data: Float64Array, width: number, height: number): Float64Array {
  const size = halfSize({ width, height });
  return Float64Array.from({ length: size.width * size.height }, (_, o) =>
    fours({ width, height }, o % size.width, Math.floor(o / size.width)).reduce((s, { i }) => s + data[i]! / 4, 0),
  );
}

/** A plane that is halved so many times, at the pixels of the whole: linear between its cells. */
export function enlarged(from: Size & { data: Float64Array; channels: number }, halvings: number, to: Size): Float64Array {
  const { channels, width, height, data } = from;
  const out = new Float64Array(to.width * to.height * channels);
  const cell = 2 ** halvings;
  for (let y = 0; y < to.height; y++)
    for (let x = 0; x < to.width; x++) {
      const [fx, fy] = [Math.max(0, (x + 0.5) / cell - 0.5), Math.max(0, (y + 0.5) / cell - 0.5)];
      const [x0, y0] = [Math.min(width - 1, Math.floor(fx)), Math.min(height - 1, Math.floor(fy))];
      const [x1, y1] = [Math.min(width - 1, x0 + 1), Math.min(height - 1, y0 + 1)];
      const [tx, ty] = [fx - x0, fy - y0];
      for (let c = 0; c < channels; c++) {
        const read = (u: number, v: number): number => data[(v * width + u) * channels + c]!;
        const upper = read(x0, y0) * (1 - tx) + read(x1, y0) * tx;
        const lower = read(x0, y1) * (1 - tx) + read(x1, y1) * tx;
        out[(y * to.width + x) * channels + c] = upper * (1 - ty) + lower * ty;
      }
    }
  return out;
}

interface Level extends Size {
  readonly data: Float32Array;
}

function farthestLevel(source: Level, level: number): Level {
  const { width, height } = halfSize(source);
  const data = new Float32Array(width * height * 4);
  const tolerance = 0.5 + 0.25 * 2 ** level;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const children = fours(source, x, y).map(({ i }) => i * 4);
      const farthest = Math.max(...children.map((c) => source.data[c + 3]!));
      const kept = children.filter((c) => source.data[c + 3]! >= Math.fround(farthest - tolerance));
      for (let c = 0; c < 4; c++) {
        const read = (p: number): number => (level === 1 && c < 3 ? Math.min(1, source.data[p + c]!) : source.data[p + c]!);
        data[(y * width + x) * 4 + c] = kept.reduce((s, p) => s + read(p), 0) / kept.length;
      }
    }
  return { width, height, data };
}

/** Colour and radius of what lies behind every four pixels, at half the size; radius NOTHING where the lens sees nothing past the nearest of them. */
export function hiddenPlateTwin(picture: RadiusPicture, maxRadius: number): Float32Array {
  const { width, height } = halfSize(picture);
  const pyramid: Level[] = [];
  let source: Level = picture;
  for (let l = 1; l <= hiddenLevels(maxRadius); l++) {
    source = farthestLevel(source, l);
    pyramid.push(source);
  }
  const out = new Float32Array(width * height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = (y * width + x) * 4;
      const nearest = Math.min(...fours(picture, x, y).map((four) => picture.data[four.i * 4 + 3]!));
      let left = 1;
      const sum = [0, 0, 0, 0];
      for (const [index, level] of pyramid.entries()) {
        const cell = 2 ** (index + 1);
        const need = Math.fround(nearest + Math.max(1, 0.55 * cell));
        const fx = (2 * x + 1) / cell - 0.5;
        const fy = (2 * y + 1) / cell - 0.5;
        const tx = fx - Math.floor(fx);
        const ty = fy - Math.floor(fy);
        let cover = 0;
        const taps = [0, 0, 0, 0];
        for (let v = 0; v < 2; v++)
          for (let u = 0; u < 2; u++) {
            const px = Math.min(level.width - 1, Math.max(0, Math.floor(fx) + u));
            const py = Math.min(level.height - 1, Math.max(0, Math.floor(fy) + v));
            const p = (py * level.width + px) * 4;
            if (level.data[p + 3]! < need) continue;
            const w = (u ? tx : 1 - tx) * (v ? ty : 1 - ty);
            cover += w;
            for (let c = 0; c < 4; c++) taps[c]! += w * level.data[p + c]!;
          }
        if (cover <= 0) continue;
        for (let c = 0; c < 4; c++) sum[c]! += left * taps[c]!;
        left *= 1 - cover;
        if (left < 0.03) break;
      }
      for (let c = 0; c < 4; c++) out[i + c] = left < 0.95 ? sum[c]! / (1 - left) : c === 3 ? NOTHING : 0;
    }
  return out;
}

/** 1 for each pixel of the picture that owns what lies behind it: the lens sees past it, and it is in another slice. */
export function ownersOf(picture: RadiusPicture, hidden: Float32Array, sliceOf: (rho: number) => number): Float32Array {
  const half = halfSize(picture).width;
  return Float32Array.from({ length: picture.width * picture.height }, (_, i) => {
    const rho = hidden[((Math.floor(i / picture.width) >> 1) * half + ((i % picture.width) >> 1)) * 4 + 3]!;
    const own = picture.data[i * 4 + 3]!;
    return rho >= Math.fround(own + 1) && sliceOf(rho) !== sliceOf(own) ? 1 : 0;
  });
}
