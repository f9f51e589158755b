import type { FileRef, Half } from '../core/need/fileRef';
import type { Raster, Size } from '../core/picture';
import { mapOfRaster, readMapFile, type DecodeRaster, type MapFile } from '../formats/maps/mapFile';
import { glanceAt, type ClipReader } from './clip';

/** The frames of an opened clip. */
type Frames = Pick<ClipReader, 'frame' | 'glance' | 'file'>;

/** The size of a half of a frame. */
export const halfSize = ({ width, height }: Size, half: Half): Size =>
  half === 'left' || half === 'right' ? { width: width >> 1, height } : { width, height: height >> 1 };

/** The pixels of a half of a frame. */
export function halfOf(raster: Raster, half: Half): Raster {
  const { width, height } = halfSize(raster, half);
  const { channels } = raster;
  const [x0, y0] = [half === 'right' ? raster.width - width : 0, half === 'lower' ? raster.height - height : 0];
  const rows = raster.data;
  const data = rows instanceof Uint16Array ? new Uint16Array(width * height * channels) : new Uint8Array(width * height * channels);
  for (let y = 0; y < height; y++) {
    const from = ((y + y0) * raster.width + x0) * channels;
    data.set(rows.subarray(from, from + width * channels), y * width * channels);
  }
  return { ...raster, width, height, data };
}

/** What of a file's frame is the picture that a document means. */
export const pictureIn = (raster: Raster, { clip }: Pick<FileRef, 'clip'>): Raster => (clip?.half ? halfOf(raster, clip.half) : raster);

/** A clip of which only a half of each frame is seen: what else is told of it is told of the whole. */
export const halved = <T extends Frames>(clip: T, half: Half | undefined): T =>
  half
    ? {
        ...clip,
        file: undefined,
        frame: async (index: number) => halfOf(await clip.frame(index), half),
        glance: (index: number, use: (raster: Raster) => unknown) => glanceAt(clip, index, (whole) => use(halfOf(whole, half))),
      }
    : clip;

/** Halves of a frame that is two pictures. */
export interface Split {
  readonly picture: Half;
  readonly depth: Half;
}

/** Depth as a picture is grey: channels differ by less than this on average, 8 bits; a picture's differ by more. */
const [GREY, COLOURED] = [2.5, 5];
/** Steepness of picture and depth, place by place, goes together at least so well: correlation. */
const ALIKE = 0.15;
/** Halves are looked at in so many columns and rows. */
const [COLUMNS, ROWS] = [96, 54];

/** A half thinned: how coloured it is, and how steep its grey is at each place. */
function seen(raster: Raster): { readonly colour: number; readonly steep: Float64Array } {
  const { width, height, channels, data } = raster;
  const full = data instanceof Uint16Array ? 257 : 1;
  const grey = new Float64Array(COLUMNS * ROWS);
  let colour = 0;
  for (let v = 0; v < ROWS; v++)
    for (let u = 0; u < COLUMNS; u++) {
      // a cell is the mean of what it covers, or of the pixel that it lies in
      const [x0, x1] = [Math.floor((u * width) / COLUMNS), Math.max(Math.floor((u * width) / COLUMNS) + 1, Math.floor(((u + 1) * width) / COLUMNS))];
      const [y0, y1] = [Math.floor((v * height) / ROWS), Math.max(Math.floor((v * height) / ROWS) + 1, Math.floor(((v + 1) * height) / ROWS))];
      let [r, g, b, n] = [0, 0, 0, 0];
      for (let y = y0; y < Math.min(height, y1); y++)
        for (let x = x0; x < Math.min(width, x1); x++, n++) {
          const i = (y * width + x) * channels;
          r += data[i]! / full;
          g += data[i + (channels > 2 ? 1 : 0)]! / full;
          b += data[i + (channels > 2 ? 2 : 0)]! / full;
        }
      grey[v * COLUMNS + u] = (r + 2 * g + b) / (4 * n);
      colour += (Math.abs(r - g) + Math.abs(g - b)) / n;
    }
  const steep = new Float64Array((COLUMNS - 2) * (ROWS - 2));
  for (let v = 1, k = 0; v < ROWS - 1; v++)
    for (let u = 1; u < COLUMNS - 1; u++, k++) {
      const i = v * COLUMNS + u;
      steep[k] = Math.hypot(grey[i + 1]! - grey[i - 1]!, grey[i + COLUMNS]! - grey[i - COLUMNS]!);
    }
  return { colour: colour / (COLUMNS * ROWS), steep };
}

/** How well two sets of numbers go together, −1..1. */
function correlation(a: Float64Array, b: Float64Array): number {
  const n = a.length;
  let [sa, sb, saa, sbb, sab] = [0, 0, 0, 0, 0];
  for (let i = 0; i < n; i++) {
    const [x, y] = [Math.sqrt(a[i]!), Math.sqrt(b[i]!)];
    sa += x;
    sb += y;
    saa += x * x;
    sbb += y * y;
    sab += x * y;
  }
  return (sab - (sa * sb) / n) / Math.sqrt(Math.max(1e-9, (saa - (sa * sa) / n) * (sbb - (sb * sb) / n)));
}

/**
 * Whether a frame is a picture and its depth, side by side or one over the other: one half is coloured, the other grey, and both have their edges
 * at the same places. null where it is one picture.
 */
export function splitOf(frame: Raster): Split | null {
  if (frame.channels < 3) return null;
  for (const [a, b] of [
    ['left', 'right'],
    ['upper', 'lower'],
  ] as const) {
    if ((a === 'left' ? frame.width : frame.height) % 2) continue;
    const [one, two] = [seen(halfOf(frame, a)), seen(halfOf(frame, b))];
    const turned = one.colour < two.colour;
    const [picture, depth] = turned ? [two, one] : [one, two];
    if (depth.colour > GREY || picture.colour < COLOURED || correlation(picture.steep, depth.steep) < ALIKE) continue;
    return turned ? { picture: b, depth: a } : { picture: a, depth: b };
  }
  return null;
}

/** The half beside a half. */
export const OTHER_HALF: Readonly<Record<Half, Half>> = { left: 'right', right: 'left', upper: 'lower', lower: 'upper' };

/** What the halves of a clip's frames are called as channels of a map. */
export const halfChannel = (half: Half): string => `${half} half`;

/**
 * A frame of a clip as a map: from a file of its own where it has one, from half of its pixels where the channel names one, or from all of them.
 * `decodeRaster` reads the pixels of a picture. Throws OmbrageError.
 */
export async function mapIn(clip: Frames, frame: number, channel: string | null, decodeRaster: DecodeRaster): Promise<MapFile> {
  const half = halfNamed(channel);
  if (half) {
    const map = mapOfRaster(halfOf(await clip.frame(frame), half), null);
    // there is nothing else in it to choose from
    return { ...map, facts: { ...map.facts, channel: halfChannel(half), channels: [halfChannel(half)] } };
  }
  const file = await clip.file?.(frame);
  return file ? readMapFile(file.bytes, file.name, channel, decodeRaster) : mapOfRaster(await clip.frame(frame), channel);
}

/** The half that a channel's name means; null for other channels. */
export function halfNamed(channel: string | null): Half | null {
  const found = /^(left|right|upper|lower) half$/.exec(channel ?? '');
  return found ? (found[1] as Half) : null;
}
