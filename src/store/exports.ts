import type { Database, ExportRow } from './database';

/** An export that lies untouched for so long is let go, ms. */
const KEPT_MS = 7 * 24 * 3600e3;

/** Begins an export, or goes on with the same one: which of its pieces are finished. */
export async function beginExport(db: Database, row: ExportRow): Promise<ReadonlySet<number>> {
  await db.exports.put(row);
  return new Set((await db.pieces.where('export').equals(row.id).primaryKeys()).map(([, index]) => index));
}

/** Keeps a finished piece. */
export const keepPiece = async (db: Database, id: string, index: number, blob: Blob): Promise<void> => {
  await db.pieces.put({ export: id, index, blob });
};

/** The finished pieces of an export, in order. */
export async function piecesOfExport(db: Database, id: string): Promise<readonly Blob[]> {
  const rows = await db.pieces.where('export').equals(id).toArray();
  return rows.sort((a, b) => a.index - b.index).map((r) => r.blob);
}

/** An export is over, or not wanted any more. */
export const endExport = (db: Database, id: string): Promise<void> =>
  db.transaction('rw', db.exports, db.pieces, async () => {
    await db.pieces.where('export').equals(id).delete();
    await db.exports.delete(id);
  });

/** An export of a shot that was broken off, the newest; those that are old are let go. */
export async function brokenExport(db: Database, shot: string, now: number): Promise<{ readonly row: ExportRow; readonly finished: number } | null> {
  const rows = (await db.exports.where('shot').equals(shot).toArray()).sort((a, b) => b.begunAt - a.begunAt);
  for (const old of rows.filter((r) => now - r.begunAt > KEPT_MS)) await endExport(db, old.id);
  const row = rows.find((r) => now - r.begunAt <= KEPT_MS);
  return row ? { row, finished: await db.pieces.where('export').equals(row.id).count() } : null;
}
