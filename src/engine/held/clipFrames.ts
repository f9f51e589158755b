import type { FileRef } from '../../core/need/fileRef';
import { Bounded } from '../../core/bounded';
import { OmbrageError } from '../../core/error';
import {
  depthSeries,
  needKey,
  ofClip,
  waysOf,
  type EstimateNeed,
  type MapNeed,
  type Need,
  type PlaneNeed,
  type RasterNeed,
} from '../../core/need/need';
import type { Plane, Raster } from '../../core/picture';
import { inspectStill } from '../../formats/inspect';
import type { ClipReader } from '../../media/clip';
import { nearnessIn } from '../../media/clipMaps';
import { halved } from '../../media/halves';
import type { HeldFile } from '../messages/holdings';
import type { DecodePicture } from '../../media/pictureSequence';
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

/** A map of a frame, with the key of what is in it; null where there is none yet. */
type FramePlane = { readonly key: string; readonly plane: Plane } | null;

const rasters = new Bounded<Raster>({ limit: RASTERS, cost: (raster) => raster.data.byteLength, least: LEAST_RASTERS });
const planes = new Bounded<FramePlane>({ limit: PLANES });
const readers = new Map<string, Promise<ClipReader>>();
let files: ReadonlyMap<string, HeldFile> = new Map();
/** counts the times that maps, or proxies, became others: what was being read then is read again */
let changes = 0;

/** This worker makes the picture that is looked at. */
export function viewClipsFromHere(): void {
  rasters.bound(VIEWER_RASTERS);
  planes.bound(VIEWER_PLANES);
}

/** Says where the files of clips are, by their hashes. */
export const clipsAre = (held: ReadonlyMap<string, HeldFile>): void => void (files = held);

/** The pixels of a clip's frame. Throws FrameMissing. */
export function frameRaster(need: RasterNeed): Raster {
  const found = rasters.get(needKey(need));
  if (!found) throw new FrameMissing(need);
  return need.opaque ? { ...found, opaque: true } : found;
}

/** The map of a clip's frame: the best that is kept; null where there is none yet. Throws FrameMissing. */
export function framePlane(need: PlaneNeed): FramePlane {
  const found = planes.get(needKey(need));
  if (found === undefined) throw new FrameMissing(need);
  return found;
}

/** Maps of frames have been made, or forgotten: what was read of them is read again. */
export function framesChanged(): void {
  changes++;
  planes.clear();
}

/** A proxy has been made, or forgotten: frames of it are read again. One that somebody is still reading from is closed when that is over. */
export function proxiesChanged(): void {
  changes++;
  rasters.forget((key) => key.endsWith(':light'));
  for (const proxy of proxies.values()) leave(proxy);
  proxies.clear();
}

/** Closes an opened proxy once nobody reads from it. */
function leave(proxy: Promise<ClipReader | null>): void {
  void Promise.allSettled(reading).then(() => proxy.then((reader) => reader?.close()).catch(() => undefined));
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
export const clipOf = async ({ sha256, clip }: FileRef): Promise<ClipReader> => halved(await readerOf(sha256), clip?.half);

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
  const { keptProxy } = await import('../../media/clipStore');
  const kept = await keptProxy(sha256);
  return kept && openClip(kept.blob, 'proxy', decodePicture);
}

/** Does work that needs frames of clips, which are brought: those that are told before it begins, any others as they turn out to be missing. They stay until it is over. */
export async function withFrames<T>(work: () => T | Promise<T>, needs: readonly Need[] = []): Promise<T> {
  // maps that were not there may have come meanwhile
  planes.forget((_, plane) => plane === null);
  const ends = [rasters.begin(), planes.begin()];
  try {
    const missing = needs.filter((need) => ofClip(need) && !(need.is === 'raster' ? rasters : planes).has(needKey(need)));
    return await bringing(bring, work, missing);
  } finally {
    for (const end of ends) end();
  }
}

/** what is being read now */
const reading = new Set<Promise<unknown>>();

async function bring(need: Need): Promise<void> {
  const work = read(need);
  reading.add(work);
  try {
    await work;
  } finally {
    reading.delete(work);
  }
}

async function read(need: Need): Promise<void> {
  const before = changes;
  const key = needKey(need);
  if (need.is === 'raster') {
    const reader = (need.light && (await proxyOf(need.ref.sha256))) || (await readerOf(need.ref.sha256));
    const raster = await halved(reader, need.ref.clip?.half).frame(need.frame);
    if (before === changes || !need.light) rasters.set(key, raster);
    return;
  }
  const plane = await planeFor(need);
  // what was read while maps became others may be of before: it is read again
  if (before === changes) planes.set(key, plane);
}

async function planeFor(need: PlaneNeed): Promise<FramePlane> {
  switch (need.is) {
    case 'estimate':
      return keptEstimate(need);
    case 'kept': {
      const { keptFrame } = await import('../../media/clipStore');
      const plane = await keptFrame(need.series, need.frame);
      return plane && { key: needKey(need), plane };
    }
    case 'map':
      return steadyMap(need);
    case 'persons':
      // of clips they are kept frame by frame
      return null;
  }
}

async function keptEstimate(need: EstimateNeed): Promise<FramePlane> {
  const { keptFrame } = await import('../../media/clipStore');
  for (const way of waysOf(need)) {
    const plane = await keptFrame(depthSeries(way), need.frame);
    if (plane) return { key: needKey(way), plane };
  }
  return null;
}

/** A frame of a clip of maps: made steady where that has been done, or else as it is in its file. */
async function steadyMap(need: MapNeed): Promise<{ readonly key: string; readonly plane: Plane }> {
  const { steady, ...plain } = need;
  const kept = steady && (await (await import('../../media/clipStore')).keptFrame(steady.series, steady.at));
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
