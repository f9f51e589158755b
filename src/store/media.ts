import { OmbrageError } from '../core/error';
import type { Plane } from '../core/raster/picture';
import type { MediaRef } from '../core/document/schema';
import type { Database } from './database';
import { asStorageError } from './projects';

/** Keeps a file under the hash of its bytes: the same file is stored once. */
export async function putMedia(db: Database, sha256: string, name: string, blob: Blob): Promise<void> {
  try {
    if (!(await db.media.get(sha256))) await db.media.put({ sha256, name, blob });
  } catch (error) {
    throw asStorageError(error);
  }
}

/** A file that a project refers to. Throws `missing-media`. */
export async function getMedia(db: Database, ref: Pick<MediaRef, 'sha256' | 'name'>): Promise<Blob> {
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
