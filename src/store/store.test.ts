import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { until } from '../testing/until';
import { IDBFactory, IDBKeyRange } from 'fake-indexeddb';
import { newProject, newShot } from '../core/document/defaults';
import type { OmbrageError } from '../core/error';
import { estimateKey } from '../core/need/estimateKey';
import { unpackProject } from '../formats/project/projectFile';
import { sha256 } from '../formats/bytes/sha256';
import { Autosave, type SaveState } from './autosave';
import { Database } from './database';
import { exportProject, importProject } from './files';
import { getMap, getMedia, putMap, putMedia } from './media';
import {
  addProject,
  CHANGED_ELSEWHERE,
  bringBack,
  DELETED_ELSEWHERE,
  deleteProject,
  listProjects,
  loadProject,
  restoreProject,
  saveProject,
  tidy,
} from './projects';
import { asStorageError, STORAGE_FULL } from '../media/storage';
import { writeNote } from './shotNotes';

let db: Database;
let count = 0;
beforeEach(() => {
  db = new Database(`test-${++count}`, { indexedDB: new IDBFactory(), IDBKeyRange });
});
afterEach(() => db.delete());

const bytes = new TextEncoder().encode('a plate');
// fake-indexeddb clones blobs to plain objects: bytes stand in for them here
const blobOf = (b: Uint8Array): Blob => new Blob([b as Uint8Array<ArrayBuffer>]);
const withShot = async () => ({
  ...newProject('Coast'),
  shots: [newShot({ sha256: await sha256(bytes), name: 'p.png', width: 40, height: 30, bits: 8, hfovFromFile: null })],
});

test('a project is saved and loaded, with a revision that grows', async () => {
  const project = await addProject(db, await withShot());
  const loaded = await loadProject(db, project.id);
  expect(loaded.project).toEqual(project);
  const next = await saveProject(db, { ...project, name: 'Coast 2' }, loaded.revision);
  expect(next).toBe(loaded.revision + 1);
  expect((await loadProject(db, project.id)).project.name).toBe('Coast 2');
});

test('a tab that knows an older document does not overwrite a newer one', async () => {
  const project = await addProject(db, await withShot());
  await saveProject(db, { ...project, name: 'from the other tab' }, 1);
  await expect(saveProject(db, { ...project, name: 'mine' }, 1)).rejects.toMatchObject({ code: CHANGED_ELSEWHERE });
  expect((await loadProject(db, project.id)).project.name).toBe('from the other tab');
});

test('an id that is taken is not overwritten', async () => {
  const project = await addProject(db, await withShot());
  const second = await addProject(db, { ...project, name: 'twin' });
  expect(second.id).not.toBe(project.id);
  expect((await loadProject(db, project.id)).project.name).toBe('Coast');
});

test('deleting can be undone; after a week it is final and unused media go', async () => {
  const project = await addProject(db, await withShot());
  await db.media.put({ sha256: await sha256(bytes), name: 'p.png', blob: blobOf(bytes) });
  await deleteProject(db, project.id);
  expect(await listProjects(db)).toHaveLength(0);
  await restoreProject(db, project.id);
  expect(await listProjects(db)).toHaveLength(1);
  await deleteProject(db, project.id);
  await tidy(db);
  expect(await db.projects.count()).toBe(1);
  await tidy(db, Date.now() + 8 * 24 * 3600 * 1000);
  expect(await db.projects.count()).toBe(0);
  expect(await db.media.count()).toBe(0);
});

test('estimates and pictures on the shelf that belong to no shot are removed, unless a project cannot be read', async () => {
  const project = await addProject(db, await withShot());
  const shot = project.shots[0]!;
  const plane = { width: 1, height: 1, data: new Float32Array(1) };
  const keys = ['draft', 'fine'].map((q) => estimateKey(shot.plate.sha256, { quality: q as 'draft' | 'fine' }));
  for (const key of [...keys, 'estimate of an earlier version']) await putMap(db, key, plane);
  for (const id of [shot.id, 'a shot that was deleted']) await db.thumbs.put({ shot: id, blob: blobOf(bytes) });
  await db.projects.add({ id: 'x', name: 'Broken', document: {}, revision: 1, updatedAt: 1, deletedAt: null });
  await tidy(db);
  expect([await db.maps.count(), await db.thumbs.count()]).toEqual([3, 2]);
  await db.projects.delete('x');
  // a deleted project can still be brought back, with all that belongs to it
  await deleteProject(db, project.id);
  await tidy(db);
  expect((await db.maps.toCollection().primaryKeys()).sort()).toEqual(keys.sort());
  expect(await db.thumbs.toCollection().primaryKeys()).toEqual([shot.id]);
});

test('a document that cannot be read is listed with its problem and left as it is', async () => {
  await db.projects.add({ id: 'x', name: 'Broken', document: { version: 1, nonsense: true }, revision: 1, updatedAt: 1, deletedAt: null });
  const [listed] = await listProjects(db);
  expect(listed!.project).toBeNull();
  expect(listed!.problem).toContain('Broken cannot be read');
  expect((await db.projects.get('x'))!.document).toEqual({ version: 1, nonsense: true });
  await expect(loadProject(db, 'gone')).rejects.toMatchObject({ code: 'no-project' });
});

test('the same file is stored once; one that is gone is named', async () => {
  const hash = await sha256(bytes);
  await putMedia(db, hash, 'a.png', blobOf(bytes));
  await putMedia(db, hash, 'b.png', blobOf(bytes));
  expect(await db.media.count()).toBe(1);
  await expect(getMedia(db, { sha256: 'f'.repeat(64), name: 'lost.png' })).rejects.toThrow('lost.png is missing');
});

test('maps come back as they were; a torn one counts as none', async () => {
  await putMap(db, 'key', { width: 2, height: 1, data: Float32Array.from([0.25, 0.75]) });
  expect([...(await getMap(db, 'key'))!.data]).toEqual([0.25, 0.75]);
  await db.maps.put({ key: 'torn', width: 9, height: 9, data: new ArrayBuffer(4) });
  expect(await getMap(db, 'torn')).toBeNull();
  expect(await getMap(db, 'none')).toBeNull();
});

test('a full disk is said in our words, and loses nothing', async () => {
  const full = Object.assign(new Error('quota'), { name: 'QuotaExceededError' });
  expect((asStorageError(full) as OmbrageError).code).toBe(STORAGE_FULL);
  expect((asStorageError({ name: 'AbortError', inner: full }) as OmbrageError).code).toBe(STORAGE_FULL);
  const other = new Error('x');
  expect(asStorageError(other)).toBe(other);
  const project = await addProject(db, await withShot());
  const put = jest.spyOn(db.projects, 'put').mockImplementation(() => Promise.reject(full) as never);
  const states: SaveState[] = [];
  const autosave = new Autosave(db, 1, (s) => states.push(s), 1);
  autosave.changed({ ...project, name: 'unsaved' });
  await autosave.flush();
  expect(states[states.length - 1]).toMatchObject({ is: 'failed', error: { code: STORAGE_FULL } });
  put.mockRestore();
  // with room again, the change that failed is written
  await autosave.flush();
  expect((await loadProject(db, project.id)).project.name).toBe('unsaved');
  autosave.takeUnsaved();
});

test('autosave writes the newest document once things are quiet', async () => {
  const project = await addProject(db, await withShot());
  const put = jest.spyOn(db.projects, 'put');
  const autosave = new Autosave(db, 1, () => undefined, 20);
  for (let i = 0; i < 30; i++) autosave.changed({ ...project, name: `name ${i}` });
  await until(() => put.mock.calls.length > 0 && !autosave.unsaved);
  expect((await loadProject(db, project.id)).project.name).toBe('name 29');
  expect(put.mock.calls.length).toBe(1);
  autosave.takeUnsaved();
  autosave.changed({ ...project, name: 'late' });
  await autosave.flush();
  expect((await loadProject(db, project.id)).project.name).toBe('name 29');
});

test('a project that was deleted in another tab is not saved into the bin; brought back, it is saved again', async () => {
  const project = await addProject(db, await withShot());
  await deleteProject(db, project.id);
  const states: SaveState[] = [];
  const autosave = new Autosave(db, 1, (s) => states.push(s), 1);
  autosave.changed({ ...project, name: 'mine' });
  await autosave.flush();
  expect(states.at(-1)).toMatchObject({ is: 'failed', error: { code: DELETED_ELSEWHERE } });
  expect((await db.projects.get(project.id))!.name).toBe('Coast');
  // nothing more is tried until it is decided, and nothing is forgotten
  autosave.changed({ ...project, name: 'mine still' });
  await autosave.flush();
  expect([autosave.unsaved, states.filter((s) => s.is === 'failed').length]).toEqual([true, 1]);
  const still = { ...project, name: 'mine still' };
  autosave.resume(await bringBack(db, still), still);
  autosave.changed({ ...project, name: 'mine at last' });
  await autosave.flush();
  expect((await loadProject(db, project.id)).project.name).toBe('mine at last');
  // one whose row is gone for good comes back as well
  await db.projects.delete(project.id);
  await expect(saveProject(db, project, 3)).rejects.toMatchObject({ code: DELETED_ELSEWHERE });
  await bringBack(db, project);
  expect((await loadProject(db, project.id)).project.name).toBe('Coast');
});

test('once there is room again, what could not be saved is saved by itself', async () => {
  const project = await addProject(db, await withShot());
  const full = Object.assign(new Error('quota'), { name: 'QuotaExceededError' });
  const put = jest.spyOn(db.projects, 'put').mockImplementation(() => Promise.reject(full) as never);
  const states: SaveState[] = [];
  const autosave = new Autosave(db, 1, (s) => states.push(s), 1, [5, 20]);
  autosave.changed({ ...project, name: 'unsaved' });
  await autosave.flush();
  expect(states.at(-1)!.is).toBe('failed');
  put.mockRestore();
  await until(() => states.at(-1)!.is === 'saved');
  expect((await loadProject(db, project.id)).project.name).toBe('unsaved');
});

test('a project file is brought in beside what is there', async () => {
  const project = await addProject(db, await withShot());
  const hash = await sha256(bytes);
  jest.spyOn(db.media, 'get').mockImplementation((() => Promise.resolve({ sha256: hash, name: 'p.png', blob: blobOf(bytes) })) as never);
  const file = await exportProject(db, project);
  const copy = await importProject(db, await unpackProject(file, 'coast.ombrage'));
  expect(copy.id).not.toBe(project.id);
  expect({ ...copy, id: '' }).toEqual({ ...project, id: '' });
});

test('what is done while a deleted project is taken back is saved as well', async () => {
  const project = await addProject(db, await withShot());
  await deleteProject(db, project.id);
  const autosave = new Autosave(db, 1, () => undefined, 1);
  autosave.changed({ ...project, name: 'mine' });
  await autosave.flush();
  const written = { ...project, name: 'mine' };
  const revision = await bringBack(db, written);
  autosave.changed({ ...project, name: 'done meanwhile' });
  autosave.resume(revision, written);
  await autosave.flush();
  expect((await loadProject(db, project.id)).project.name).toBe('done meanwhile');
});

describe('for ever', () => {
  const week = 8 * 24 * 3600e3;
  const notes = new Map<string, string>();
  beforeEach(() => {
    notes.clear();
    Object.assign(globalThis, {
      localStorage: {
        get length() {
          return notes.size;
        },
        key: (k: number) => [...notes.keys()][k] ?? null,
        getItem: (key: string) => notes.get(key) ?? null,
        setItem: (key: string, value: string) => notes.set(key, value),
        removeItem: (key: string) => notes.delete(key),
      },
    });
  });
  afterEach(() => {
    delete (globalThis as { localStorage?: unknown }).localStorage;
  });

  test('of a shot whose export was broken off, and that was deleted, nothing is left; of the others everything is', async () => {
    const both = await withShot();
    const other = newShot({ ...both.shots[0]!.plate, sha256: 'c'.repeat(64), name: 'other.png' });
    both.shots.push(other);
    const project = await addProject(db, both);
    const now = Date.now();
    for (const { id, plate } of project.shots) {
      await putMedia(db, plate.sha256, plate.name, blobOf(bytes));
      await putMap(db, estimateKey(plate.sha256, { quality: 'fine' }), { width: 1, height: 1, data: new Float32Array(1) });
      await db.thumbs.put({ shot: id, blob: blobOf(bytes) });
      await db.exports.put({ id: `export ${id}`, project: project.id, shot: id, name: 'x.mp4', request: {}, clip: {}, begunAt: now });
      await db.pieces.put({ export: `export ${id}`, index: 0, blob: blobOf(bytes) });
      writeNote('view', id, { chapter: 'depth' });
      writeNote('plate', id, plate);
    }
    notes.set('something else', '1');
    await db.pieces.put({ export: 'nobody’s', index: 0, blob: blobOf(bytes) });
    const [gone] = project.shots;
    await saveProject(db, { ...project, shots: [other] }, 1);
    await tidy(db, now);
    // the file stays for a week: an undo may bring its shot back
    expect(await db.media.count()).toBe(2);
    await tidy(db, now + week);
    const left = JSON.stringify([
      await db.media.toCollection().primaryKeys(),
      await db.maps.toCollection().primaryKeys(),
      await db.thumbs.toCollection().primaryKeys(),
      await db.exports.toCollection().primaryKeys(),
      await db.pieces.toCollection().primaryKeys(),
      [...notes],
    ]);
    expect(left).not.toContain(gone!.id);
    expect(left).not.toContain(gone!.plate.sha256);
    expect(left).not.toContain('nobody');
    expect([await db.media.count(), await db.maps.count(), await db.thumbs.count(), notes.size]).toEqual([1, 1, 1, 3]);
  });

  test('with a project that is gone go its own files, not one that another page is bringing in', async () => {
    const project = await addProject(db, await withShot());
    const { plate } = project.shots[0]!;
    await putMedia(db, plate.sha256, plate.name, blobOf(bytes));
    const now = Date.now();
    await deleteProject(db, project.id);
    // of no project yet
    await putMedia(db, 'd'.repeat(64), 'coming.png', blobOf(bytes));
    await tidy(db, now + week + 1);
    expect(await db.media.toCollection().primaryKeys()).toEqual(['d'.repeat(64)]);
    // one that never comes into a project goes a week later
    await tidy(db, now + 2 * week + 3);
    expect(await db.media.count()).toBe(0);
  });

  test('a file that is referred to again in time stays', async () => {
    const project = await addProject(db, await withShot());
    const { plate } = project.shots[0]!;
    await putMedia(db, plate.sha256, plate.name, blobOf(bytes));
    const now = Date.now();
    await saveProject(db, { ...project, shots: [] }, 1);
    await tidy(db, now);
    await saveProject(db, project, 2);
    await tidy(db, now + week);
    expect(await db.media.count()).toBe(1);
    // from then on it is as if it had never been away
    await saveProject(db, { ...project, shots: [] }, 3);
    await tidy(db, now + week + 1);
    expect(await db.media.count()).toBe(1);
  });
});
