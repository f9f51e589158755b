import { beforeEach, expect, test } from '@jest/globals';
import { IDBFactory, IDBKeyRange } from 'fake-indexeddb';
import { Database, type ExportRow } from './database';
import { beginExport, brokenExport, endExport, keepPiece, piecesOfExport } from './exports';

let db: Database;
beforeEach(() => {
  db = new Database(`exports-${Math.random()}`, { indexedDB: new IDBFactory(), IDBKeyRange });
});

const row = (id: string, begunAt: number): ExportRow => ({ id, project: 'p', shot: 's', name: 'x.mp4', request: {}, clip: {}, begunAt });
const piece = (text: string): Blob => new Blob([text]);

test('an export that is begun again knows its finished pieces, and gives them in order', async () => {
  expect((await beginExport(db, row('a', 1))).size).toBe(0);
  await keepPiece(db, 'a', 2, piece('c'));
  await keepPiece(db, 'a', 0, piece('a'));
  await keepPiece(db, 'b', 1, piece('other'));
  expect([...(await beginExport(db, row('a', 2)))].sort()).toEqual([0, 2]);
  await keepPiece(db, 'a', 1, piece('b'));
  expect(await piecesOfExport(db, 'a')).toHaveLength(3);
  await endExport(db, 'a');
  expect(await piecesOfExport(db, 'a')).toHaveLength(0);
  expect(await piecesOfExport(db, 'b')).toHaveLength(1);
});

test('what was broken off is found by its shot, the newest first; after a week it is let go', async () => {
  const week = 7 * 24 * 3600e3;
  expect(await brokenExport(db, 's', 0)).toBeNull();
  await beginExport(db, row('old', 0));
  await keepPiece(db, 'old', 0, piece('x'));
  await beginExport(db, row('new', week));
  await keepPiece(db, 'new', 0, piece('y'));
  expect(await brokenExport(db, 's', week + 10)).toMatchObject({ row: { id: 'new' }, finished: 1 });
  expect(await db.exports.get('old')).toBeUndefined();
  expect(await piecesOfExport(db, 'old')).toHaveLength(0);
});
