import { OmbrageError } from '../core/error';
import {
  depthSeries,
  needKey,
  waysOf,
  type EstimateNeed,
  type MapNeed,
  type Need,
  type PlaneNeed,
  type RasterNeed,
  type StillFile,
} from '../core/need';
import type { Plane, Raster } from '../core/raster/picture';
import { inspectStill } from '../formats/inspect';
import type { ClipReader } from '../media/clip';
import { nearnessIn } from '../media/clipMaps';
import { halved } from '../media/halves';
import type { HeldFile } from './holdings';
import type { DecodePicture } from '../media/pictureSequence';
import { decodeFile, decodeRaster } from './decode';
import { bringing, FrameMissing } from './frameMissing';
import { openClip } from './openClip';

/** Decoded frames that a worker keeps, bytes, and maps of frames, by number; the viewer's keeps those around the playhead, any other one works frame after frame. */
const VIEWER_RASTERS = 36e6;
const VIEWER_PLANES = 24;
const RASTERS = 24e6;
const PLANES = 12;
/** A frame of a plate and one of its backdrop are needed together, whatever their size. */
const LEAST_RASTERS = 2;
let bounds = { rasters: RASTERS, planes: PLANES };

/** This worker makes the picture that is looked at. */
export const viewClipsFromHere = (): void => void (bounds = { rasters: VIEWER_RASTERS, planes: VIEWER_PLANES });

const rasters = new Map<string, Raster>();
const planes = new Map<string, { readonly key: string; readonly plane: Plane } | null>();
const readers = new Map<string, Promise<ClipReader>>();
let files: ReadonlyMap<string, HeldFile> = new Map();

/** Says where the files of clips are, by their hashes. */
export const clipsAre = (held: ReadonlyMap<string, HeldFile>): void => void (files = held);

/** The pixels of a clip's frame. Throws FrameMissing. */
export function frameRaster(need: RasterNeed): Raster {
  const key = needKey(need);
  const found = rasters.get(key);
  if (!found) throw new FrameMissing(need);
  // the last used goes last
  rasters.delete(key);
  rasters.set(key, found);
  return need.opaque ? { ...found, opaque: true } : found;
}

/** The map of a clip's frame: the best that is kept; null where there is none yet. Throws FrameMissing. */
export function framePlane(need: PlaneNeed): { readonly key: string; readonly plane: Plane } | null {
  const found = planes.get(needKey(need));
  if (found === undefined) throw new FrameMissing(need);
  return found;
}

/** Maps of frames, or proxies, have been made, or forgotten: what was read of them is read again. */
export function framesChanged(): void {
  planes.clear();
  for (const key of rasters.keys()) if (key.endsWith(':light')) rasters.delete(key);
  for (const proxy of proxies.values()) void proxy.then((reader) => reader?.close()).catch(() => undefined);
  proxies.clear();
}

/** Lets go of frames and maps that were read, and of what decoders keep for those that follow: a decoder of a large clip holds a hundred megabytes. */
export function restClips(): void {
  rasters.clear();
  planes.clear();
  for (const reader of [...readers.values(), ...proxies.values()]) void reader.then((clip) => clip?.rest?.()).catch(() => undefined);
}

/** The file of a clip. Throws OmbrageError. */
export function clipFile(sha256: string): HeldFile {
  const file = files.get(sha256);
  if (!file) throw new OmbrageError('clip-missing', 'The clip is not loaded.', 'Reload the page.');
  return file;
}

const open = async (sha256: string): Promise<ClipReader> => {
  const { blob, name } = clipFile(sha256);
  return openClip(blob, name, decodePicture);
};

/** The opened clip of a hash. Throws OmbrageError. */
export function readerOf(sha256: string): Promise<ClipReader> {
  let reader = readers.get(sha256);
  if (!reader) {
    reader = open(sha256);
    readers.set(sha256, reader);
    // one that failed can be tried again
    reader.catch(() => readers.delete(sha256));
  }
  return reader;
}

/** The opened clip of a file, or of the half of it that is a picture. Throws OmbrageError. */
export const clipOf = async ({ sha256, clip }: StillFile): Promise<ClipReader> => halved(await readerOf(sha256), clip?.half);

const proxies = new Map<string, Promise<ClipReader | null>>();

/** The proxy of a clip, opened; null where there is none. */
function proxyOf(sha256: string): Promise<ClipReader | null> {
  let proxy = proxies.get(sha256);
  if (!proxy) {
    proxy = openProxy(sha256);
    proxies.set(sha256, proxy);
    // one that cannot be read is none
    proxy.catch(() => proxies.set(sha256, Promise.resolve(null)));
  }
  return proxy.catch(() => null);
}

async function openProxy(sha256: string): Promise<ClipReader | null> {
  const { keptProxy } = await import('../media/clipStore');
  const kept = await keptProxy(sha256);
  return kept && openClip(kept.blob, 'proxy', decodePicture);
}

/** Does work that needs frames of clips, which are brought as they turn out to be missing. */
export function withFrames<T>(work: () => T | Promise<T>): Promise<T> {
  // maps that were not there may have come meanwhile
  for (const [key, plane] of planes) if (!plane) planes.delete(key);
  return bringing(bring, work);
}

async function bring(need: Need): Promise<void> {
  switch (need.is) {
    case 'raster': {
      const reader = (need.light && (await proxyOf(need.ref.sha256))) || (await readerOf(need.ref.sha256));
      keepRaster(needKey(need), await halved(reader, need.ref.clip?.half).frame(need.frame));
      return;
    }
    case 'estimate':
      keepPlane(needKey(need), await keptEstimate(need));
      return;
    case 'kept': {
      const { keptFrame } = await import('../media/clipStore');
      const plane = await keptFrame(need.series, need.frame);
      keepPlane(needKey(need), plane && { key: needKey(need), plane });
      return;
    }
    case 'map':
      keepPlane(needKey(need), await steadyMap(need));
  }
}

function keepRaster(key: string, raster: Raster): void {
  rasters.set(key, raster);
  let bytes = 0;
  for (const kept of rasters.values()) bytes += kept.data.byteLength;
  for (const [oldest, kept] of rasters) {
    if (bytes <= bounds.rasters || rasters.size <= LEAST_RASTERS) return;
    rasters.delete(oldest);
    bytes -= kept.data.byteLength;
  }
}

function keepPlane(key: string, plane: { readonly key: string; readonly plane: Plane } | null): void {
  planes.set(key, plane);
  for (const oldest of planes.keys()) {
    if (planes.size <= bounds.planes) return;
    planes.delete(oldest);
  }
}

async function keptEstimate(need: EstimateNeed): Promise<{ readonly key: string; readonly plane: Plane } | null> {
  const { keptFrame } = await import('../media/clipStore');
  for (const way of waysOf(need)) {
    const plane = await keptFrame(depthSeries(way), need.frame);
    if (plane) return { key: needKey(way), plane };
  }
  return null;
}

/** A frame of a clip of maps: made steady where that has been done, or else as it is in its file. */
async function steadyMap(need: MapNeed): Promise<{ readonly key: string; readonly plane: Plane }> {
  const { steady, ...plain } = need;
  const kept = steady && (await (await import('../media/clipStore')).keptFrame(steady.series, steady.at));
  return kept ? { key: needKey(need), plane: kept } : { key: needKey(plain), plane: await clipMap(plain) };
}

/** A frame of a clip of maps, read as its layer says. */
export async function clipMap(need: MapNeed): Promise<Plane> {
  return nearnessIn(await readerOf(need.ref.sha256), need, decodeRaster);
}

/** One picture of a sequence. */
export const decodePicture: DecodePicture = async (bytes, name) => {
  const facts = await inspectStill(bytes, name, false);
  if (facts.plate === false) {
    // of a sequence of maps only its size is read so
    const { width, height, bits } = facts;
    return { raster: { width, height, channels: 1, data: new Uint8Array(width * height) }, bits, plate: false };
  }
  const { raster } = await decodeFile(new Blob([bytes as Uint8Array<ArrayBuffer>]), name, true, false);
  return { raster, bits: facts.bits };
};
