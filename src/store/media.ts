import type { FileRef } from '../core/need/fileRef';
import { OmbrageError } from '../core/error';
import type { Plane } from '../core/picture';
import type { Database } from './database';
import { asStorageError } from '../media/storage';

/** Keeps a file under the hash of its bytes: the same file is stored once. */
export async function putMedia(db: Database, sha256: string, name: string, blob: Blob): Promise<void> {
  try {
    if (!(await db.media.get(sha256))) await db.media.put({ sha256, name, blob });
  } catch (error) {
    throw asStorageError(error);
  }
}

/** Room that is left free beside what is brought in, bytes. */
const SPARE_ROOM = 100e6;

/** Refuses a file that this browser has no room for, before any of it is written. */
export async function checkRoom(name: string, bytes: number): Promise<void> {
  const { storage } = globalThis.navigator as { storage?: StorageManager };
  const found = await storage?.estimate?.();
  if (found?.quota === undefined) return;
  const free = found.quota - (found.usage ?? 0) - SPARE_ROOM;
  if (bytes <= free) return;
  const mb = (n: number): string => `${Math.max(0, Math.round(n / 1e6))} MB`;
  throw new OmbrageError(
    'no-room',
    `${name} takes ${mb(bytes)}; this browser has room for ${mb(free)}.`,
    'Make room on the disk, or delete projects and what was computed for clips.',
  );
}

/** A file that a project refers to. Throws `missing-media`. */
export async function getMedia(db: Database, ref: Pick<FileRef, 'sha256' | 'name'>): Promise<Blob> {
  const row = await db.media.get(ref.sha256);
  if (!row)
    throw new OmbrageError('missing-media', `${ref.name} is missing from this browser.`, 'Bring the picture in again, or open the project file.');
  return row.blob;
}

/** A computed map, or null where it has not been kept. */
export async function getMap(db: Database, key: string): Promise<Plane | null> {
  const row = await db.maps.get(key);
  if (!row || row.data.byteLength !== row.width * row.height * 4) return null;
  return { width: row.width, height: row.height, data: new Float32Array(row.data) };
}

/** Keeps a computed map. A full disk is no error: it can be computed again. */
export async function putMap(db: Database, key: string, plane: Plane): Promise<void> {
  try {
    const data = new Float32Array(plane.data).buffer;
    await db.maps.put({ key, width: plane.width, height: plane.height, data });
  } catch (error) {
    if (asStorageError(error) === error) throw error;
  }
}
