import Dexie, { type Table } from 'dexie';
import type { Plane } from '../core/picture';
import { written } from './storage';
import { packPlane, unpackPlane, type PackedPlane } from '../formats/maps/packedPlane';

/** A map of one frame of a clip. */
interface FrameRow extends PackedPlane {
  /** of what: the clip, how its depth was found, and whether it was made steady */
  readonly of: string;
  readonly frame: number;
}

/** What is known of a clip's depth as a whole, besides its maps. */
export interface DepthReport {
  readonly of: string;
  /** frames that begin a scene */
  readonly cuts: readonly number[];
  /** mean change of nearness along flow by frame, as estimated and made steady; null where nothing links a frame to the one before */
  readonly before: readonly (number | null)[];
  readonly after: readonly (number | null)[];
  readonly from: number;
}

/** How far a clip has been made steady, as whoever makes it so says. */
interface ProgressRow {
  readonly of: string;
  readonly progress: unknown;
}

/** A small copy of a clip, to work with. */
interface ProxyRow {
  /** `along` and the hash of the clip's file */
  readonly of: string;
  readonly blob: Blob;
  readonly width: number;
  readonly height: number;
}

/** Maps of the frames of clips, and their proxies, in this browser: read by the page and by the workers alike. */
class ClipDatabase extends Dexie {
  frames!: Table<FrameRow, [string, number]>;
  reports!: Table<DepthReport, string>;
  proxies!: Table<ProxyRow, string>;
  begun!: Table<ProgressRow, string>;

  constructor() {
    super('ombrage-clips');
    this.version(1).stores({ frames: '[of+frame], of', reports: 'of' });
    this.version(2).stores({ proxies: 'of' });
    this.version(3).stores({ begun: 'of' });
  }
}

let opened: ClipDatabase | null = null;
const clips = (): ClipDatabase => (opened ??= new ClipDatabase());

/** Keeps the map of a frame. Throws where the disk is full. */
export const keepFrame = async (of: string, frame: number, plane: Plane): Promise<void> => {
  const packed = await packPlane(plane);
  await written(clips().frames.put({ of, frame, ...packed }));
};

/** The map of a frame; null where there is none. */
export async function keptFrame(of: string, frame: number): Promise<Plane | null> {
  const row = await clips().frames.get([of, frame]);
  return row ? unpackPlane(row) : null;
}

/** The frames of which there are maps, in order. */
export async function keptFrames(of: string): Promise<readonly number[]> {
  const keys = await clips().frames.where('of').equals(of).primaryKeys();
  return keys.map(([, frame]) => frame).sort((a, b) => a - b);
}

export const keepReport = (report: DepthReport): Promise<void> => written(clips().reports.put(report));
export const keptReport = async (of: string): Promise<DepthReport | null> => (await clips().reports.get(of)) ?? null;

export const keepProgress = (of: string, progress: unknown): Promise<void> => written(clips().begun.put({ of, progress }));
export const keptProgress = async <T>(of: string): Promise<T | null> => ((await clips().begun.get(of))?.progress as T | undefined) ?? null;

const proxyName = (sha256: string): string => `along ${sha256}`;

/** Keeps the proxy of a clip. Throws where the disk is full. */
export const keepProxy = (sha256: string, proxy: Omit<ProxyRow, 'of'>): Promise<void> =>
  written(clips().proxies.put({ of: proxyName(sha256), ...proxy }));
/** The proxy of a clip; null where there is none. */
export const keptProxy = async (sha256: string): Promise<Omit<ProxyRow, 'of'> | null> => (await clips().proxies.get(proxyName(sha256))) ?? null;
export const forgetProxy = async (sha256: string): Promise<void> => void (await clips().proxies.delete(proxyName(sha256)));

/** Forgets what is of clips that nobody has any more; `used` tells those that are. */
export async function forgetUnless(used: (of: string) => boolean): Promise<void> {
  if (!(await Dexie.exists('ombrage-clips'))) return;
  const frames = (await clips().frames.orderBy('of').uniqueKeys()) as string[];
  const reports = await clips().reports.toCollection().primaryKeys();
  const begun = await clips().begun.toCollection().primaryKeys();
  for (const of of new Set([...frames, ...reports, ...begun])) if (!used(of)) await forgetFrames(of);
  for (const of of await clips().proxies.toCollection().primaryKeys()) if (!used(of)) await clips().proxies.delete(of);
}

/** Forgets what was found of a clip. */
export async function forgetFrames(of: string): Promise<void> {
  await clips().frames.where('of').equals(of).delete();
  await clips().reports.delete(of);
  await clips().begun.delete(of);
}
