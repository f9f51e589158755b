import { zlibSync } from 'fflate';
import { OmbrageError } from '../../core/error';
import { newPlane, type Plane, type Raster } from '../../core/picture';
import { hasText, view } from '../bytes/bytes';
import { luminance } from '../../core/raster/colour';
import { defineFormat, type FoundMap } from '../definition';
import { TooMuch } from '../bytes/inflate';
import { readProfile, toSrgb16 } from '../icc/icc';
import { sixteenBits } from '../bytes/sixteenBits';
import { directoryOf } from './tiffTags';
import { checkFull, checkMapSize } from '../mapFacts';

const damaged = (why: string): OmbrageError => new OmbrageError('damaged-file', `The TIFF ${why}.`, 'Choose an undamaged copy.');

/** Numbers of the first directory that tell size and kind (TIFF 6.0, sec. 2); read by hand so that nothing large is allocated for it. */
function readDirectory(bytes: Uint8Array): { width: number; height: number; bits: number; samples: number; float: boolean } {
  if (bytes.length < 8) throw damaged('ends within its header');
  const found = directoryOf(bytes);
  if (!found) throw damaged('ends within its directory');
  const tag = found.directory.number;
  const [width, height] = [tag(256) ?? 0, tag(257) ?? 0];
  checkMapSize(width, height, 'The TIFF');
  const [bits, samples] = [tag(258) ?? 1, tag(277) ?? 1];
  if (samples < 1 || samples > 8 || ![1, 2, 4, 8, 16, 24, 32, 64].includes(bits)) throw damaged('has no usable channels');
  checkFull(width * height * samples * (bits / 8), bytes.length, 'The TIFF');
  return { width, height, bits, samples, float: tag(339) === 3 };
}

export const tiff = defineFormat({
  kind: 'tiff',
  label: 'TIFF',
  extensions: ['tif', 'tiff'],
  mime: 'image/tiff',
  decodedBy: 'own',
  use: 'plates in (8, 16, 32 bits, float); depth in (the same) and out (float)',
  matches: (bytes) => hasText(bytes, 0, 'II*\0') || hasText(bytes, 0, 'MM\0*'),
  describe: (bytes) => {
    const { bits, samples, float } = readDirectory(bytes);
    const colour = samples === 1 ? 'grey' : samples === 2 ? 'grey, alpha' : samples === 3 ? 'RGB' : `${samples} channels`;
    // a single channel of floats holds measures, not light
    return { bits, colour, animated: false, plate: samples >= 3 || !float };
  },
  size: readDirectory,
  readPicture: (bytes, _, use) => (use === 'plate' ? readColours(bytes) : null),
  readMap: (bytes, channel) => readMap(bytes, channel),
  writePlane: (plane) => encodeTiff(plane),
});

export interface TiffSamples {
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  readonly float: boolean;
  /** one plane a channel; whole numbers as shares of full scale */
  readonly planes: readonly Plane[];
}

/** The first picture of a TIFF, every channel as a plane. Throws OmbrageError. */
export async function decodeTiff(bytes: Uint8Array): Promise<TiffSamples> {
  const { width, height, bits, float } = readDirectory(bytes);
  const { fromArrayBuffer, addDecoder } = await import('geotiff');
  const bounded = await import('./tiffDecoders');
  addDecoder(5, () => Promise.resolve(bounded.BoundedLzw));
  addDecoder([8, 32946], () => Promise.resolve(bounded.BoundedDeflate));
  addDecoder(50000, () => Promise.resolve(bounded.BoundedZstd));
  let rasters: ArrayLike<number>[];
  let white = false;
  try {
    const file = await fromArrayBuffer(bytes.slice().buffer);
    const image = await file.getImage();
    const directory = image.fileDirectory as { getValue?: (name: string) => unknown; PhotometricInterpretation?: number };
    white = (directory.getValue?.('PhotometricInterpretation') ?? directory.PhotometricInterpretation) === 0;
    rasters = await image.readRasters({ interleave: false });
  } catch (error) {
    const why = error instanceof Error ? error.message : '';
    if (error instanceof TooMuch) throw damaged('holds far more than the size it gives');
    throw /compression|not supported|unsupported/i.test(why)
      ? new OmbrageError('unsupported-file', 'The TIFF is stored in a way that is not read here.', 'Save it uncompressed, or with LZW or Deflate.')
      : damaged('cannot be decoded');
  }
  const top = float ? 1 : 2 ** bits - 1;
  const planes = Array.from(rasters).map((raster) => {
    if (raster.length < width * height) throw damaged('is not whole');
    const plane = newPlane(width, height);
    for (let i = 0; i < plane.data.length; i++) {
      const v = raster[i]! / top;
      // some files count from white
      plane.data[i] = white && !float ? 1 - v : v;
    }
    return plane;
  });
  if (planes.length === 0) throw damaged('holds no pixels');
  return { width, height, bits, float, planes };
}

/** Longest colour profile, bytes. */
const PROFILE_BYTES = 8e6;
/** Tags of the first directory: what numbers stand for (0, 1 grey, 2 RGB), how further channels are meant (1: premultiplied), and the colour profile. */
const [PHOTOMETRIC, EXTRA, PROFILE] = [262, 338, 34675];
const RGB = 2;

const profileIn = (bytes: Uint8Array): ReturnType<typeof readProfile> => {
  try {
    return readProfile(bytes);
  } catch {
    return null;
  }
};

/** The first picture as a plate, 16 bits: colours of integers from their profile to sRGB; floats are linear light. Throws OmbrageError. */
async function readColours(bytes: Uint8Array): Promise<Raster> {
  const tags = directoryOf(bytes)?.directory;
  if ((tags?.number(PHOTOMETRIC) ?? RGB) > RGB)
    throw new OmbrageError('unsupported-file', 'The TIFF holds neither greys nor RGB (inks or a palette, say).', 'Save it as RGB.');
  const { planes, float } = await decodeTiff(bytes);
  const wanted = planes.slice(0, planes.length >= 4 ? (tags?.number(EXTRA) === undefined ? 3 : 4) : planes.length);
  const raster = sixteenBits(wanted, float);
  const place = float ? null : (tags?.place(PROFILE, 1) ?? null);
  if (place && place.bytes <= PROFILE_BYTES && raster.data instanceof Uint16Array) {
    const profile = profileIn(bytes.subarray(place.at, place.at + place.bytes));
    if (profile) toSrgb16(raster.data, raster.channels, profile);
  }
  return raster;
}

/** Mean difference of channels from which a picture counts as colourful. */
const COLOURFUL = 0.04;

/** A channel of a TIFF as a map. */
async function readMap(bytes: Uint8Array, wanted: string | null): Promise<FoundMap> {
  const { planes, bits, float } = await decodeTiff(bytes);
  const names =
    planes.length === 1
      ? ['grey']
      : planes.length === 2
        ? ['grey', 'alpha']
        : ['brightness', 'red', 'green', 'blue', 'alpha'].slice(0, planes.length + 1);
  const channel = wanted !== null && names.includes(wanted) ? wanted : names[0]!;
  const colourful = planes.length >= 3 && !float && difference(planes) > COLOURFUL;
  const at = names.indexOf(channel);
  const plane =
    channel === 'brightness'
      ? { ...planes[0]!, data: planes[0]!.data.map((r, i) => luminance(r, planes[1]!.data[i]!, planes[2]!.data[i]!)) }
      : planes[planes.length >= 3 ? at - 1 : at]!;
  return { plane, bits, float, channel, channels: names, colourful };
}

function difference(planes: readonly Plane[]): number {
  const n = planes[0]!.data.length;
  const step = Math.max(1, Math.floor(n / 50000));
  let sum = 0;
  let count = 0;
  for (let i = 0; i < n; i += step) {
    const [r, g, b] = [planes[0]!.data[i]!, planes[1]!.data[i]!, planes[2]!.data[i]!];
    sum += Math.max(r, g, b) - Math.min(r, g, b);
    count++;
  }
  return sum / count;
}

/** Writes one channel of 32-bit floats, compressed with Deflate, in one strip (TIFF 6.0; Deflate is its compression 8). */
export function encodeTiff({ width, height, data }: Plane): Uint8Array {
  const strip = zlibSync(new Uint8Array(data.slice().buffer), { level: 6 });
  const entries: [number, number, number][] = [
    [256, 4, width],
    [257, 4, height],
    [258, 3, 32],
    [259, 3, 8],
    [262, 3, 1],
    [273, 4, 0],
    [277, 3, 1],
    [278, 4, height],
    [279, 4, strip.length],
    [339, 3, 3],
  ];
  const start = 8 + 2 + entries.length * 12 + 4;
  const out = new Uint8Array(start + strip.length);
  const words = view(out);
  out.set([0x49, 0x49, 42, 0]);
  words.setUint32(4, 8, true);
  words.setUint16(8, entries.length, true);
  entries.forEach(([tag, type, value], i) => {
    const p = 10 + i * 12;
    words.setUint16(p, tag, true);
    words.setUint16(p + 2, type, true);
    words.setUint32(p + 4, 1, true);
    if (type === 3) words.setUint16(p + 8, value, true);
    else words.setUint32(p + 8, tag === 273 ? start : value, true);
  });
  out.set(strip, start);
  return out;
}
