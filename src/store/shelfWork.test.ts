import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { IDBFactory, IDBKeyRange } from 'fake-indexeddb';
import { newLayer, newProject, newShot } from '../core/document/defaults';
import type { Project, Shot } from '../core/document/schema';
import { estimateKey } from '../core/need/estimateKey';

const kept = new Map<string, readonly number[]>();
jest.unstable_mockModule('../media/clipStore', () => ({
  keptFrames: (of: string) => Promise.resolve(kept.get(of) ?? []),
  keptReport: () => Promise.resolve(null),
  forgetUnless: () => Promise.resolve(),
}));

const { Database } = await import('./database');
const { putMap } = await import('./media');
const { addProject, loadProject } = await import('./projects');
const { duplicateShot, moveShot, renameShot } = await import('./shelfWork');
const { shotState } = await import('./shotState');
const { writeNote } = await import('./shotNotes');
const { estimatesOf, seriesOf } = await import('../core/motion/clipSpec');
const { clipDepthSpec } = await import('../core/shot/clipLayer');
const { onlyDemo } = await import('./demo');

let db: InstanceType<typeof Database>;
let count = 0;
beforeEach(() => {
  const notes = new Map<string, string>();
  Object.assign(globalThis, { localStorage: { getItem: (k: string) => notes.get(k) ?? null, setItem: (k: string, v: string) => notes.set(k, v) } });
  kept.clear();
  db = new Database(`shelf-${++count}`, { indexedDB: new IDBFactory(), IDBKeyRange });
});
afterEach(() => db.delete());

const shot = (name: string): Shot => ({
  ...newShot({ sha256: name.repeat(64).slice(0, 64), name: `${name}.png`, width: 40, height: 30, bits: 8, hfovFromFile: null }),
  name,
});
const project = (name: string, ...shots: Shot[]): Promise<Project> => addProject(db, { ...newProject(name), shots });
const names = async ({ id }: Project): Promise<string[]> => (await loadProject(db, id)).project.shots.map((s) => s.name);

test('a shot is put before and after others of its project, and goes back to where it was', async () => {
  const coast = await project('Coast', shot('a'), shot('b'), shot('c'), shot('d'));
  const [a, , c] = coast.shots;
  expect(await moveShot(db, a!.id, coast.id, { project: coast.id, index: 2 })).toEqual({ project: coast.id, index: 0 });
  expect(await names(coast)).toEqual(['b', 'c', 'a', 'd']);
  const was = await moveShot(db, c!.id, coast.id, { project: coast.id, index: 0 });
  expect(await names(coast)).toEqual(['c', 'b', 'a', 'd']);
  await moveShot(db, c!.id, coast.id, was);
  expect(await names(coast)).toEqual(['b', 'c', 'a', 'd']);
});

test('a shot moves between projects, or stays where it is as a whole', async () => {
  const [coast, inland] = [await project('Coast', shot('a'), shot('b')), await project('Inland', shot('c'))];
  const b = coast.shots[1]!;
  const was = await moveShot(db, b.id, coast.id, { project: inland.id, index: Infinity });
  expect([await names(coast), await names(inland)]).toEqual([['a'], ['c', 'b']]);
  await moveShot(db, b.id, inland.id, was);
  expect([await names(coast), await names(inland)]).toEqual([['a', 'b'], ['c']]);
  await expect(moveShot(db, b.id, coast.id, { project: 'gone', index: 0 })).rejects.toMatchObject({ code: 'no-project' });
  await expect(moveShot(db, b.id, inland.id, { project: coast.id, index: 0 })).rejects.toMatchObject({ code: 'no-shot' });
  expect([await names(coast), await names(inland)]).toEqual([['a', 'b'], ['c']]);
});

test('a copy stands behind its shot, with its own number and the same picture; names are kept within bounds', async () => {
  const coast = await project('Coast', shot('a'), shot('b'));
  const [a] = coast.shots;
  await db.thumbs.put({ shot: a!.id, blob: new Blob(['picture']) });
  const copy = await duplicateShot(db, coast.id, a!.id);
  expect(copy.id).not.toBe(a!.id);
  expect(await names(coast)).toEqual(['a', 'a, copy', 'b']);
  expect(await db.thumbs.get(copy.id)).toBeDefined();
  expect({ ...copy, id: a!.id, name: a!.name }).toEqual(a);
  await renameShot(db, coast.id, copy.id, `  ${'x'.repeat(300)} `);
  expect((await names(coast))[1]).toBe('x'.repeat(200));
  await renameShot(db, coast.id, a!.id, '   ');
  expect((await names(coast))[0]).toBe('a');
});

test('the shelf tells what a shot has: a draft, depth of some frames or all, something made of it', async () => {
  const still = shot('a');
  expect(await shotState(db, still)).toEqual([]);
  const plane = { width: 2, height: 1, data: Float32Array.from([0.2, 0.8]) };
  await putMap(db, estimateKey(still.plate.sha256, { quality: 'draft' }), plane);
  expect(await shotState(db, still)).toEqual(['draft depth']);
  // what is not seen in the picture is not told
  const under: Shot = { ...still, settings: { ...still.settings, layers: still.settings.layers.map((l) => ({ ...l, visible: false })) } };
  expect(await shotState(db, under)).toEqual([]);
  await putMap(db, estimateKey(still.plate.sha256, { quality: 'fine' }), plane);
  writeNote('made', still.id, 'a.png');
  expect(await shotState(db, still)).toEqual(['exported']);

  const clip: Shot = { ...still, id: 'clip', plate: { ...still.plate, clip: { frames: 8, fps: 24 } } };
  const layer = newLayer('estimate');
  clip.settings = { ...clip.settings, layers: [layer] };
  const series = seriesOf(clipDepthSpec(clip.plate, layer)!);
  expect(await shotState(db, clip)).toEqual([]);
  kept.set(series, [0, 1, 2]);
  expect(await shotState(db, clip)).toEqual(['depth of 3 in 8 frames']);
  kept.set(series, [0, 1, 2, 3, 4, 5, 6, 7]);
  expect(await shotState(db, clip)).toEqual(['depth found']);
  // what is not made steady is there once it is estimated
  const plain = { ...layer, values: { ...layer.values, steady: 0 } };
  clip.settings = { ...clip.settings, layers: [plain] };
  expect(await shotState(db, clip)).toEqual([]);
  kept.set(estimatesOf(clipDepthSpec(clip.plate, plain)!)!, [0, 1, 2, 3, 4, 5, 6, 7]);
  expect(await shotState(db, clip)).toEqual(['depth found']);
});

test('what can be done is shown to those who have the demo alone', () => {
  const demo: Project = {
    ...newProject('Slack Water'),
    id: 'slack-water',
    shots: [{ ...shot('a'), plate: { ...shot('a').plate, name: 'quayLamp.jpg' } }],
  };
  expect(onlyDemo([demo])).toBe(demo);
  expect(onlyDemo([demo, newProject('Coast')])).toBeNull();
  expect(onlyDemo([{ ...demo, shots: [...demo.shots, shot('own')] }])).toBeNull();
  expect(onlyDemo([null])).toBeNull();
  expect(onlyDemo([])).toBeNull();
});
