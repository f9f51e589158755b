import { OmbrageError } from '../core/error';
import type { FoundUse } from '../core/estimate/own/guess';
import type { NetworkUse } from '../core/need/networkUse';
import { asStorageError } from '../media/storage';
import type { Database, NetworkRow } from './database';

/** Keeps a network under the hash of its file: the same file is kept once, with how it is asked. */
export async function putNetwork(db: Database, found: FoundUse, blob: Blob): Promise<NetworkRow> {
  const { sha256, name } = found.use;
  const kept = await db.networks.get(sha256);
  const row: NetworkRow = { use: null, seconds: null, ...kept, sha256, name, blob, found, addedAt: kept?.addedAt ?? Date.now() };
  try {
    await db.networks.put(row);
  } catch (error) {
    throw asStorageError(error);
  }
  return row;
}

/** The file of a network that a project names. Throws `missing-network`. */
export async function getNetwork(db: Database, { sha256, name }: Pick<NetworkUse, 'sha256' | 'name'>): Promise<Blob> {
  const row = await db.networks.get(sha256);
  if (!row)
    throw new OmbrageError(
      'missing-network',
      `The network ${name} is not in this browser.`,
      'Bring its file in again, in Depth, or choose another quality.',
    );
  return row.blob;
}

/** The networks in this browser, the newest first; without their files. */
export const listNetworks = async (db: Database): Promise<readonly Omit<NetworkRow, 'blob'>[]> =>
  (await db.networks.orderBy('addedAt').reverse().toArray()).map(({ blob: _, ...row }) => row);

/** Remembers how a network is asked, and what a run took. */
export const keepUse = (db: Database, sha256: string, use: NetworkUse, seconds: number | null): Promise<number> =>
  db.networks.update(sha256, { use: { ...use, ends: undefined }, ...(seconds !== null && { seconds }) });

/** Takes a network out of this browser. Projects that name it say so when they need it. */
export const removeNetwork = (db: Database, sha256: string): Promise<void> => db.networks.delete(sha256);
