import { readLook, type Look } from '../core/document/looks';
import { newId } from '../core/document/defaults';
import type { Database, LookRow } from './database';

export interface SavedLook {
  readonly id: string;
  readonly look: Look;
}

/** The looks that were saved in this browser, the newest first; those that cannot be read are left where they are. */
export async function savedLooks(db: Database): Promise<SavedLook[]> {
  const rows = await db.looks.orderBy('savedAt').reverse().toArray();
  return rows.flatMap(({ id, look }: LookRow) => {
    try {
      return [{ id, look: readLook(look, 'A saved look').look }];
    } catch {
      return [];
    }
  });
}

export async function saveLook(db: Database, look: Look, now = Date.now()): Promise<string> {
  const id = newId();
  await db.looks.put({ id, look, savedAt: now });
  return id;
}

export const deleteLook = (db: Database, id: string): Promise<void> => db.looks.delete(id);
