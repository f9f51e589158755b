import { OmbrageError } from '../../core/error';
import type { MapEnds } from '../../core/need/need';
import { luminance } from '../../core/raster/colour';
import { fullScale, newPlane, type Plane, type Raster } from '../../core/picture';
import type { FoundMap, StillFacts } from '../definition';
import { furtherPictures, xmpDepth } from '../jpeg/depthPhoto';
import { checkMapSize, type MapFacts, type MapReading } from '../mapFacts';
import { formatOf } from '../registry';

/** How a browser or the command line turns a picture file into pixels. Throws OmbrageError. */
export type DecodeRaster = (bytes: Uint8Array, name: string) => Promise<{ facts: StillFacts; raster: Raster }>;

/** A map as it is stored, before it is read as depth: whole numbers as shares of full scale, floats as they are. */
export interface MapFile {
  readonly plane: Plane;
  readonly facts: MapFacts;
}

/** Mean difference of channels from which a picture counts as colourful. */
const COLOURFUL = 0.04;
/** Spread of alpha from which it counts as a map and not as a cut-out. */
const ALPHA_SPREAD = 0.02;

const MAP_KINDS = 'Choose a PNG, JPEG, WebP, AVIF, TIFF, OpenEXR, PFM or NPY file.';

/**
 * Reads a depth map from any file that may hold one: PNG, JPEG, WebP, AVIF, TIFF, OpenEXR, PFM, NPY, the alpha channel of a picture,
 * or a photograph that carries depth. `channel` chooses among several; null takes the likeliest. Throws OmbrageError that names the file.
 */
export async function readMapFile(bytes: Uint8Array, name: string, channel: string | null, decodeRaster: DecodeRaster): Promise<MapFile> {
  if (bytes.length === 0) throw new OmbrageError('empty-file', `${name} is empty.`, 'Choose a depth map.');
  const format = formatOf(bytes);
  try {
    const found = format?.readMap ? await format.readMap(bytes, channel) : await fromPicture(bytes, name, channel, decodeRaster);
    return describe(found, format?.label ?? 'picture', name);
  } catch (error) {
    if (!(error instanceof OmbrageError)) throw new OmbrageError('damaged-file', `${name} cannot be read.`, 'Choose an undamaged copy.');
    // the reader of pictures names those alone; a map may be of other kinds as well
    if (error.code === 'unknown-format') throw new OmbrageError(error.code, error.message, MAP_KINDS);
    throw error.message.includes(name) ? error : new OmbrageError(error.code, `${name}: ${error.message}`, error.hint);
  }
}

async function fromPicture(bytes: Uint8Array, name: string, wanted: string | null, decodeRaster: DecodeRaster): Promise<FoundMap> {
  if (bytes[0] === 0xff && bytes[1] === 0xd8 && (wanted === null || wanted === 'XMP depth map' || wanted.startsWith('further picture'))) {
    const depth = await carried(bytes, name, wanted, decodeRaster);
    if (depth) return depth;
  }
  const { facts, raster } = await decodeRaster(bytes, name);
  checkMapSize(raster.width, raster.height, name);
  return fromRaster(raster, facts.bits, wanted);
}

/** Depth that a photograph carries: in its XMP, or as a further picture that is grey. */
async function carried(jpeg: Uint8Array, name: string, wanted: string | null, decodeRaster: DecodeRaster): Promise<FoundMap | null> {
  const xmp = wanted === null || wanted === 'XMP depth map' ? await xmpDepth(jpeg) : null;
  if (xmp) {
    const { facts, raster } = await decodeRaster(xmp.bytes, `The depth map in ${name}`);
    const found = fromRaster(raster, facts.bits, 'brightness');
    const even = xmp.spacing === 'even';
    // greys of this standard are 0 at the near end; those that run linearly in distance are turned into distances
    const { ends } = xmp;
    const plane =
      even && ends && ends.far < Infinity
        ? { ...found.plane, data: found.plane.data.map((v) => ends.near + v * (ends.far - ends.near)) }
        : found.plane;
    return {
      ...found,
      plane,
      channel: xmp.channel,
      channels: [xmp.channel, 'brightness'],
      colourful: false,
      ends,
      smallIsNear: true,
      ...(even && ends ? { reading: 'distance' as const, float: true } : {}),
    };
  }
  for (const [index, picture] of furtherPictures(jpeg).entries()) {
    const channel = `further picture ${index + 1}`;
    if (wanted !== null && wanted !== channel) continue;
    const { facts, raster } = await decodeRaster(picture, `Picture ${index + 2} in ${name}`).catch(() => ({ facts: null, raster: null }));
    if (!raster) continue;
    const found = fromRaster(raster, facts.bits, 'brightness');
    if (!found.colourful || wanted !== null) return { ...found, channel, channels: [channel, 'brightness'], colourful: false };
  }
  return null;
}

/** A map from decoded pixels: grey values as stored, not turned to linear light. */
function fromRaster(raster: Raster, bits: number, wanted: string | null): FoundMap {
  const { width, height, channels, data } = raster;
  const top = fullScale(raster);
  const plane = newPlane(width, height);
  const hasAlpha = channels === 2 || channels === 4;
  const alpha = hasAlpha ? newPlane(width, height) : null;
  let colour = 0;
  let [lowest, highest] = [1, 0];
  for (let i = 0, p = 0; i < plane.data.length; i++, p += channels) {
    if (channels < 3) plane.data[i] = data[p]! / top;
    else {
      const [r, g, b] = [data[p]! / top, data[p + 1]! / top, data[p + 2]! / top];
      plane.data[i] = luminance(r, g, b);
      colour += Math.max(r, g, b) - Math.min(r, g, b);
    }
    if (alpha) {
      const a = data[p + channels - 1]! / top;
      alpha.data[i] = a;
      if (a < lowest) lowest = a;
      if (a > highest) highest = a;
    }
  }
  const colourful = colour / plane.data.length > COLOURFUL;
  const alphaVaries = alpha !== null && highest - lowest > ALPHA_SPREAD && manyLevels(alpha);
  const names = ['brightness', ...(channels >= 3 ? ['red', 'green', 'blue'] : []), ...(alphaVaries ? ['alpha'] : [])];
  const channel = wanted !== null && names.includes(wanted) ? wanted : colourful && alphaVaries ? 'alpha' : 'brightness';
  const single = ['red', 'green', 'blue'].indexOf(channel);
  if (single >= 0) for (let i = 0, p = single; i < plane.data.length; i++, p += channels) plane.data[i] = data[p]! / top;
  return { plane: channel === 'alpha' ? alpha! : plane, bits, float: false, channel, channels: names, colourful: colourful && channel !== 'alpha' };
}

/** A map has many levels; a cut-out is mostly all or nothing. */
function manyLevels(alpha: Plane): boolean {
  let between = 0;
  for (const a of alpha.data) if (a > 0.02 && a < 0.98) between++;
  return between > 0.2 * alpha.data.length;
}

/** A map from the decoded pixels of a frame. */
export const mapOfRaster = (raster: Raster, channel: string | null): MapFile =>
  describe(fromRaster(raster, raster.data instanceof Uint16Array ? 16 : 8, channel), 'clip', 'The frame');

/** Floats beyond this are how programs write "nothing there". */
const NOTHING = 1e9;

function describe(found: FoundMap, format: string, name: string): MapFile {
  const { plane, ...rest } = found;
  let [low, high, holes] = [Infinity, -Infinity, 0];
  const data = newPlane(plane.width, plane.height, true).data;
  for (let i = 0; i < data.length; i++) {
    const v = plane.data[i]!;
    // infinity is a distance: the farthest; what is not a number, or stands for one, is a hole
    if (v !== v || (found.float && Math.abs(v) > NOTHING && v !== Infinity) || v === -Infinity) {
      data[i] = NaN;
      holes++;
      continue;
    }
    data[i] = v;
    if (v === Infinity) continue;
    if (v < low) low = v;
    if (v > high) high = v;
  }
  if (low > high) throw new OmbrageError('not-a-map', `${name} holds no usable numbers.`, 'Choose another file, or another channel of it.');
  const beyond = found.float && (low < 0 || high > 1.0001);
  return {
    plane: { width: plane.width, height: plane.height, data },
    facts: {
      format,
      width: plane.width,
      height: plane.height,
      low,
      high,
      holes: holes / data.length,
      reading: found.reading === 'distance' && low >= 0 && beyond ? 'distance' : 'grey',
      ends: null,
      smallIsNear: null,
      colourful: false,
      ...rest,
      ...(found.reading === 'distance' && !(low >= 0 && beyond) ? { reading: 'grey' as const } : {}),
    },
  };
}

/** Share of the distances of a map that its ends leave out on either side, against single wild pixels. */
const LEFT_OUT = 0.001;

/** The ends of a map of distances: nearly all of it, metres. */
export function distanceEnds(plane: Plane): { near: number; far: number } {
  const step = Math.max(1, Math.floor(plane.data.length / 100000));
  const found: number[] = [];
  for (let i = 0; i < plane.data.length; i += step) {
    const v = plane.data[i]!;
    if (v > 0 && v < Infinity) found.push(v);
  }
  found.sort((a, b) => a - b);
  if (found.length === 0) return { near: 1, far: Infinity };
  const near = found[Math.floor(found.length * LEFT_OUT)]!;
  const far = found[Math.min(found.length - 1, Math.floor(found.length * (1 - LEFT_OUT)))]!;
  return { near, far: far > near ? far : near * 2 };
}

/**
 * Stored numbers as raw nearness 0..1, NaN where there is none. Greys are stretched where they leave 0..1; distances are turned into
 * nearness linear in 1/distance between two ends, those of the file or those of what is in it where nothing tells them, so that perspective
 * spacing with those ends gives them back.
 */
export function mapAsNearness(
  map: MapFile,
  reading: MapReading,
  between: MapEnds | null = map.facts.ends,
): { plane: Plane; ends: { near: number; far: number } | null } {
  const { plane, facts } = map;
  const out = newPlane(plane.width, plane.height, true);
  if (reading === 'distance') {
    const ends = between ?? distanceEnds(plane);
    const span = 1 / ends.near - 1 / ends.far;
    for (let i = 0; i < out.data.length; i++) {
      const z = plane.data[i]!;
      out.data[i] = z > 0 ? Math.min(1, Math.max(0, (1 / z - 1 / ends.far) / span)) : NaN;
    }
    return { plane: out, ends };
  }
  const stretched = facts.float && (facts.low < 0 || facts.high > 1.0001);
  const scale = stretched ? 1 / Math.max(1e-12, facts.high - facts.low) : 1;
  const from = stretched ? facts.low : 0;
  for (let i = 0; i < out.data.length; i++) {
    const v = plane.data[i]!;
    out.data[i] = v === Infinity ? 1 : v === v ? Math.min(1, Math.max(0, (v - from) * scale)) : NaN;
  }
  return { plane: out, ends: facts.ends };
}
