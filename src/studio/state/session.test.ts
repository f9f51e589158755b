import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { settled, until } from '../../testing/until';
import Dexie from 'dexie';
import { IDBFactory, IDBKeyRange } from 'fake-indexeddb';
import { newLayer, newProject, newShot } from '../../core/document/defaults';
import type { Project, Shot } from '../../core/document/schema';
import { estimateKey } from '../../core/need/estimateKey';
import { newPlane } from '../../core/picture';
import type { PreviewPart, PreviewSpec } from '../../engine/messages/protocol';
import { database } from '../../store/database';
import { putMap, putMedia } from '../../store/media';
import { addProject, loadProject, saveProject } from '../../store/projects';
import { beginGesture, changeSettings, changeShot, keyGesture, shotOf, useDocument } from './documentStore';
import { useSession } from './sessionStore';
import { useNotices } from '../notices/noticeStore';
import { useView } from './viewStore';

/** The page as far as a session asks for it. */
const listeners = new Map<string, () => void>();
const kept = new Map<string, string>();
Object.assign(globalThis, {
  window: {
    devicePixelRatio: 1,
    addEventListener: (name: string, run: () => void) => listeners.set(name, run),
    removeEventListener: (name: string) => listeners.delete(name),
  },
  localStorage: { getItem: (key: string) => kept.get(key) ?? null, setItem: (key: string, value: string) => kept.set(key, value) },
});

/** The engine as the session sees it: what is asked is written down, decoding and previews end when the test says so. */
const calls: string[] = [];
const previews: { spec: PreviewSpec; part(part: Partial<PreviewPart>): void; end(): void; fail(error: Error): void }[] = [];
let decoding: (() => void)[] = [];
let holdBack = false;
const thumb = new Blob(['thumb']);
const fakeEngine = {
  decode: async (_file: Blob, name: string) => {
    calls.push(`decode ${name}`);
    if (holdBack) await new Promise<void>((go) => decoding.push(go));
    return {
      raster: { width: 2, height: 1, channels: 3, data: new Uint8Array(6) },
      sha256: name,
      facts: {
        width: 300,
        height: 200,
        bits: 16,
        hfovDegrees: 40,
        ...(name.endsWith('.mp4') && { clip: { frames: 30, fps: 30, rotation: 0, sound: true, codec: 'H.264', remarks: [] } }),
      },
    };
  },
  hold: (kind: string, name: string) => Promise.resolve(kind === 'raster' ? void calls.push(`plate ${name.slice(0, 2)}`) : undefined),
  holds: (kind: string) => kind !== 'raster',
  need: () => undefined,
  prepare: (_shot: unknown, sizes: readonly { width: number }[]) =>
    Promise.resolve(void calls.push(`prepare ${sizes.map((s) => s.width).join(' ')}`)),
  readMap: (_file: Blob, name: string) =>
    Promise.resolve({
      facts: { format: 'PNG', bits: 8, float: false, channel: 'Y', channels: ['Y'], low: 0, high: 1, holes: 0, colourful: false },
      proposal: { reading: 'grey', turnOver: false, fit: 'stretch', ends: null, agreement: null, because: 'custom' },
      sha256: '',
      plane: newPlane(1, 1),
      ...(name.endsWith('.mp4') && { clip: { frames: 48, fps: 24 } }),
    }),
  decodeMap: () => Promise.resolve(newPlane(2, 2)),
  estimate: () => ({ done: Promise.resolve(null), cancel: () => undefined }),
  thumbnail: () => Promise.resolve(thumb),
  preview: (spec: PreviewSpec, onPart: (part: PreviewPart) => void) => {
    calls.push(`preview ${spec.shot.size.width}`);
    return new Promise<boolean>((yes, no) =>
      previews.push({
        spec,
        part: (part) => onPart({ stage: 'full', size: spec.shot.size, milliseconds: 10, ...part } as PreviewPart),
        end: () => yes(true),
        fail: no,
      }),
    );
  },
};
jest.unstable_mockModule('../../engine/pool/engine', () => ({ engine: () => fakeEngine }));
const { openSession, session: openOne, Session } = await import('./session');
const { swapPlate } = await import('./files');

const hash = (letter: string): string => letter.repeat(64);
const plate = { sha256: hash('a'), name: 'p.png', width: 1600, height: 900, bits: 8, hfovFromFile: null };
const bitmap = () => ({ close: jest.fn() }) as unknown as ImageBitmap & { close: ReturnType<typeof jest.fn> };

Dexie.dependencies.indexedDB = new IDBFactory();
Dexie.dependencies.IDBKeyRange = IDBKeyRange;
const db = database();
let session: InstanceType<typeof Session>;
let project: Project;
let shot: Shot;
const open = async (): Promise<void> => session.open(project.id, shot.id);

beforeEach(async () => {
  await Promise.all(db.tables.map((t) => t.clear()));
  calls.length = 0;
  previews.length = 0;
  decoding = [];
  holdBack = false;
  useNotices.setState({ notices: [] });
  shot = newShot(plate);
  project = await addProject(db, { ...newProject('Test'), shots: [shot] });
  await putMedia(db, plate.sha256, plate.name, new Blob(['pixels']));
  await putMap(db, estimateKey(plate.sha256, { quality: 'fine' }), newPlane(4, 4));
  session = new Session();
});
afterEach(async () => {
  await session.close();
});

describe('a shot that is opened', () => {
  test('is laid ahead while its plate is decoded, and shown when that has come', async () => {
    holdBack = true;
    const opening = open();
    await until(() => decoding.length === 1);
    expect(useSession.getState().ready).toBe(true);
    session.resize(800, 450);
    expect(calls).toEqual(['decode p.png', expect.stringMatching(/^prepare \d+ 800$/)]);
    decoding[0]!();
    await opening;
    expect(calls.slice(2)).toEqual(['plate aa', 'preview 800']);
    expect(previews[0]!.spec).toMatchObject({
      has: null,
      given: { [estimateKey(plate.sha256, { quality: 'fine' })]: estimateKey(plate.sha256, { quality: 'fine' }) },
    });
    expect(previews[0]!.spec.quick!.width).toBeLessThan(800);
  });

  test('comes as it was looked at last, with its top layer and first effect chosen', async () => {
    kept.set(`ombrage.view.${shot.id}`, JSON.stringify({ chapter: 'calibrate', mode: 'wipe', zoom: { scale: 2, x: 300, y: 200 } }));
    useView.getState().set({ peek: 'depth', selectedStake: 'old' });
    await open();
    expect(useView.getState()).toMatchObject({
      chapter: 'calibrate',
      mode: 'wipe',
      zoom: { scale: 2, x: 300, y: 200 },
      peek: null,
      selectedStake: null,
      selectedLayer: shot.settings.layers[0]!.id,
      selectedEffect: shot.settings.effects[0]!.id,
    });
    useView.getState().set({ mode: 'depth' });
    expect(JSON.parse(kept.get(`ombrage.view.${shot.id}`)!)).toMatchObject({ mode: 'depth' });
    // moves of the pointer write nothing
    kept.delete(`ombrage.view.${shot.id}`);
    useView.getState().set({ pointer: { x: 0.2, y: 0.3 } });
    expect(kept.has(`ombrage.view.${shot.id}`)).toBe(false);
    useView.getState().set({ zoom: null });
    expect(JSON.parse(kept.get(`ombrage.view.${shot.id}`)!)).toMatchObject({ zoom: null });
  });

  test('that was open before has its plate decoded while the project is read; a plate that was swapped since is not used', async () => {
    await open();
    await session.close();
    session = new Session();
    calls.length = 0;
    holdBack = true;
    const opening = open();
    await until(() => decoding.length === 1);
    decoding[0]!();
    await opening;
    expect(calls.filter((c) => c.startsWith('decode'))).toEqual(['decode p.png']);
    await session.close();
    session = new Session();
    // the other tab swapped the plate
    await putMedia(db, hash('f'), 'other.png', new Blob(['others']));
    const { project: now, revision } = await loadProject(db, project.id);
    await saveProject(db, { ...now, shots: [{ ...now.shots[0]!, plate: { ...plate, sha256: hash('f'), name: 'other.png' } }] }, revision);
    holdBack = false;
    calls.length = 0;
    await open();
    expect(calls).toContain('decode other.png');
    expect(calls.filter((c) => c.startsWith('plate'))).toEqual(['plate ff']);
    expect(useSession.getState().problem).toBeNull();
  });

  test('shows the picture on the shelf until its own is there', async () => {
    const last = bitmap();
    Object.assign(globalThis, {
      createImageBitmap: (blob: Blob) => (blob.size === 5 ? Promise.resolve(last) : Promise.reject(new Error('damaged'))),
    });
    await db.thumbs.put({ shot: shot.id, blob: thumb });
    holdBack = true;
    const opening = open();
    await until(() => useSession.getState().lastPicture !== null);
    decoding[0]!();
    await opening;
    expect(last.close).not.toHaveBeenCalled();
    previews[0]!.part({ plate: bitmap() });
    expect(useSession.getState().lastPicture).toBeNull();
    expect(last.close).toHaveBeenCalledTimes(1);
    // one that cannot be read is none
    await session.close();
    await db.thumbs.put({ shot: shot.id, blob: new Blob(['x']) });
    session = new Session();
    holdBack = false;
    await open();
    await settled();
    expect(useSession.getState()).toMatchObject({ lastPicture: null, problem: null });
  });

  test.each([
    ['a project that is gone', () => session.open('nowhere', shot.id), 'This project is not in this browser.'],
    ['a shot that is gone', () => session.open(project.id, 'nothing'), 'This shot is not in its project any more.'],
  ])('%s is told, with what to do', async (_, run, text) => {
    await run();
    expect(useSession.getState().problem).toMatchObject({ text, hint: expect.stringContaining('list of shots') });
    expect(previews).toHaveLength(0);
  });

  test('a plate that is missing is named', async () => {
    await db.media.clear();
    await open();
    expect(useSession.getState().problem!.text).toBe('p.png is missing from this browser.');
  });

  test('that is closed before its plate has come shows nothing', async () => {
    holdBack = true;
    const opening = open();
    await until(() => decoding.length === 1);
    await session.close();
    decoding[0]!();
    await opening;
    expect(previews).toHaveLength(0);
  });
});

describe('what is asked for', () => {
  beforeEach(open);

  test('is the size on screen, and never more than the output has', async () => {
    previews.at(-1)!.part({});
    await settled();
    session.resize(1000, 500);
    expect(previews.at(-1)!.spec.shot.size).toEqual({ width: 889, height: 500 });
    session.resize(5000, 5000);
    // the state before is still being waited for: the newest follows it
    expect(previews.at(-1)!.spec.shot.size.width).toBe(889);
    previews.at(-1)!.part({});
    await settled();
    expect(previews.at(-1)!.spec.shot.size).toEqual({ width: 1600, height: 900 });
  });

  test('is asked once for each state, and again when anything that shows has changed', async () => {
    const before = previews.length;
    previews.at(-1)!.part({});
    await settled();
    useView.getState().set({ pointer: { x: 0.5, y: 0.5 } });
    expect(previews).toHaveLength(before);
    changeSettings((s) => void (s.calibration.bend = 2));
    expect(previews).toHaveLength(before + 1);
    expect(previews.at(-1)!.spec.has).toBeNull();
    const looks = { plate: 'p', depth: 'd', before: '', width: 800 };
    previews.at(-1)!.part({ plate: bitmap(), fingerprints: looks });
    await settled();
    useView.getState().set({ chapter: 'depth' });
    expect(previews.at(-1)!.spec).toMatchObject({ cleaning: true, has: looks });
  });

  test('while something is dragged waits for the first picture of the state before, then takes the newest', async () => {
    previews.at(-1)!.part({});
    await settled();
    const before = previews.length;
    const gesture = beginGesture();
    const turn = (turnOver: boolean): void => gesture.set((s) => void (s.settings.layers[0]!.values.turnOver = turnOver));
    for (const turnOver of [true, false, true]) turn(turnOver);
    expect(previews).toHaveLength(before + 1);
    turn(false);
    expect(previews).toHaveLength(before + 1);
    previews.at(-1)!.part({ stage: 'quick' });
    await settled();
    expect(previews).toHaveLength(before + 2);
    expect(previews.at(-1)!.spec.shot.settings.layers[0]!.values.turnOver).toBe(false);
    // the document has not changed yet
    expect(useDocument.getState().past).toHaveLength(0);
    gesture.cancel();
  });

  test('that fails is told, and the next change is shown all the same', async () => {
    previews.at(-1)!.fail(new Error('no memory left'));
    await until(() => useNotices.getState().notices.length === 1);
    expect(useNotices.getState().notices[0]).toMatchObject({ kind: 'error', text: 'no memory left' });
    const before = previews.length;
    changeSettings((s) => void (s.calibration.bend = 3));
    expect(previews).toHaveLength(before + 1);
  });

  test('keeps the pictures that were sent before, and frees those that are replaced', async () => {
    const [plate1, finished1, finished2] = [bitmap(), bitmap(), bitmap()];
    previews.at(-1)!.part({ plate: plate1, finished: finished1 });
    previews.at(-1)!.part({ plate: null, finished: finished2 });
    expect(useSession.getState().preview).toMatchObject({ plate: plate1, finished: finished2 });
    expect(finished1.close).toHaveBeenCalledTimes(1);
    expect(plate1.close).not.toHaveBeenCalled();
    await session.close();
    previews.at(-1)!.part({ finished: bitmap() });
    expect(useSession.getState().preview!.finished).toBe(finished2);
  });
});

describe('saving', () => {
  beforeEach(open);

  test('a change is written when the page is left, and a picture for the shelf when the shot is', async () => {
    changeSettings((s) => void (s.calibration.bend = 2));
    expect(useSession.getState().save).toEqual({ is: 'saving' });
    listeners.get('pagehide')!();
    await until(() => useSession.getState().save?.is === 'saved');
    expect((await loadProject(db, project.id)).project.shots[0]!.settings.calibration.bend).toBe(2);
    await session.close();
    expect(await (await db.thumbs.get(shot.id))!.blob.text()).toBe('thumb');
    expect(listeners.has('pagehide')).toBe(false);
  });

  test('what keys did is saved before they have rested, also where the shot is left; what a pointer is doing is not until it is let go', async () => {
    const bend = async (): Promise<number> => (await loadProject(db, project.id)).project.shots[0]!.settings.calibration.bend;
    changeSettings((s) => void (s.calibration.bend += 1), keyGesture('bend'));
    expect(useSession.getState().save).toEqual({ is: 'saving' });
    await until(() => useSession.getState().save?.is === 'saved');
    expect(useDocument.getState().draft).not.toBeNull();
    expect(await bend()).toBe(2);
    changeSettings((s) => void (s.calibration.bend += 1), keyGesture('bend'));
    const pointer = beginGesture();
    changeSettings((s) => void (s.calibration.bend = 9), pointer);
    await session.close();
    expect(await bend()).toBe(3);
  });

  test('where another tab has saved meanwhile, nothing is overwritten and both ways out are offered', async () => {
    await saveProject(db, { ...project, name: 'From the other tab' }, 1);
    changeSettings((s) => void (s.calibration.bend = 2));
    await session.flush();
    const [notice] = useNotices.getState().notices;
    expect(notice).toMatchObject({ kind: 'error', text: 'This project was changed in another tab.' });
    const assign = jest.fn();
    Object.assign(window, { location: { assign, reload: jest.fn() } });
    notice!.actions!.find((a) => a.label === 'Keep as a copy')!.run();
    await until(() => assign.mock.calls.length === 1);
    const rows = await db.projects.toArray();
    expect(rows.map((r) => r.name).sort()).toEqual(['From the other tab', 'Test, copy']);
    const copy = rows.find((r) => r.name === 'Test, copy')!;
    expect(assign).toHaveBeenCalledWith(`/shot?project=${copy.id}&shot=${shot.id}`);
    expect((copy.document as Project).shots[0]!.settings.calibration.bend).toBe(2);
  });
});

describe('plate and map', () => {
  const media = { sha256: hash('b'), name: 'map.png', width: 300, height: 200 };
  beforeEach(async () => {
    shot.settings.layers.push({ ...newLayer('imported', media), id: 'map', content: { channel: 'Y', reading: 'grey' } });
    shot.settings.framing.width = 1600;
    project = await addProject(db, { ...project, id: 'with-map', shots: [shot] });
    await putMedia(db, media.sha256, media.name, new Blob(['map']));
    await open();
  });

  test('are swapped in one step that can be taken back; the picture follows', async () => {
    previews.at(-1)!.part({});
    await swapPlate('map');
    const now = shotOf(useDocument.getState())!;
    expect(now.plate).toMatchObject({ sha256: media.sha256, name: 'map.png', width: 300, height: 200, bits: 16, hfovFromFile: 40 });
    expect(now.settings.framing).toMatchObject({ width: 300, height: 200 });
    expect(now.settings.layers.find((l) => l.id === 'map')).toMatchObject({ name: 'p.png', media: { sha256: plate.sha256 } });
    await until(() => previews.at(-1)!.spec.shot.plate.sha256 === media.sha256);
    previews.at(-1)!.part({});
    useDocument.getState().undo();
    expect(useDocument.getState().past).toHaveLength(0);
    await until(() => previews.at(-1)!.spec.shot.plate.sha256 === plate.sha256);
    expect(calls.filter((c) => c.startsWith('decode')).at(-1)).toBe('decode p.png');
  });

  test('clips that are swapped stay clips, each with its own frames and rate', async () => {
    const colour = { sha256: hash('c'), name: 'colour.mp4', width: 300, height: 200, clip: { frames: 30, fps: 30 } };
    const grey = newShot({ ...plate, sha256: hash('d'), name: 'grey.mp4', clip: { frames: 48, fps: 24 } });
    grey.settings.layers.push({ ...newLayer('imported', colour), id: 'colour' });
    project = await addProject(db, { ...project, id: 'two-clips', shots: [grey] });
    await putMedia(db, colour.sha256, colour.name, new Blob(['colour']));
    await putMedia(db, grey.plate.sha256, 'grey.mp4', new Blob(['grey']));
    await openSession(project.id, grey.id);
    await swapPlate('colour');
    const now = shotOf(useDocument.getState())!;
    expect(now.plate).toMatchObject({ sha256: colour.sha256, clip: { frames: 30, fps: 30, sound: true } });
    expect(now.settings.time).toMatchObject({ length: 30, fps: 30 });
    expect(now.settings.layers.find((l) => l.id === 'colour')!.media).toEqual({
      sha256: grey.plate.sha256,
      name: 'grey.mp4',
      width: plate.width,
      height: plate.height,
      clip: { frames: 48, fps: 24 },
    });
  });

  test('a layer without a file is left as it is, and a map needs an open shot', async () => {
    await swapPlate(shot.settings.layers[0]!.id);
    expect(useDocument.getState().past).toHaveLength(0);
    changeShot((s) => void (s.name = 'Renamed'));
    useDocument.getState().close();
    await expect(session.readMap(new Blob([]), 'm.png', null)).rejects.toThrow('No shot is open.');
  });
});

test('of two shots chosen quickly one after the other the second opens, is edited and is saved; nothing waits for the first one’s picture', async () => {
  const [a, b] = [newShot({ ...plate, name: 'a.png' }), newShot({ ...plate, name: 'b.png' })];
  project = await addProject(db, { ...project, id: 'two', shots: [a, b] });
  let thumbs = 0;
  const slow = fakeEngine.thumbnail;
  fakeEngine.thumbnail = () => {
    thumbs++;
    return new Promise(() => undefined);
  };
  try {
    await openSession(project.id, a.id);
    const quickly = [openSession(project.id, b.id), openSession(project.id, a.id), openSession(project.id, b.id)];
    await Promise.all(quickly);
    expect(thumbs).toBe(1);
    expect(useDocument.getState().shotId).toBe(b.id);
    expect(useSession.getState().problem).toBeNull();
    changeShot((s) => void (s.name = 'Edited'));
    await openOne().flush();
    const { project: now } = await loadProject(db, project.id);
    expect(now.shots.map((s) => s.name)).toEqual(['a', 'Edited']);
  } finally {
    fakeEngine.thumbnail = slow;
    await openOne().close();
  }
});

describe('what fails', () => {
  beforeEach(open);
  const tryAgain = (): void =>
    useNotices
      .getState()
      .notices.at(-1)!
      .actions!.find((a) => a.label === 'Try again')!
      .run();

  test('a preview can be asked for again as it is', async () => {
    previews.at(-1)!.fail(new Error('no memory left'));
    await until(() => useNotices.getState().notices.length === 1);
    const before = previews.length;
    tryAgain();
    expect(previews).toHaveLength(before + 1);
  });

  test('a plate that could not be read, after a swap, is asked for once, and again when it is tried again', async () => {
    previews.at(-1)!.part({});
    const missing = { ...plate, sha256: hash('e'), name: 'other.png' };
    changeShot((s) => void (s.plate = missing));
    await until(() => useNotices.getState().notices.some((n) => n.text === 'other.png is missing from this browser.'));
    changeSettings((s) => void (s.calibration.bend = 2));
    await settled();
    expect(calls).not.toContain('plate ee');
    await putMedia(db, missing.sha256, missing.name, new Blob(['x']));
    tryAgain();
    await until(() => calls.includes('plate ee'));
  });
});

describe('in another tab', () => {
  beforeEach(open);
  const leaving = (): boolean => {
    let warned = false;
    (listeners.get('beforeunload') as unknown as (e: { preventDefault(): void }) => void)({ preventDefault: () => (warned = true) });
    return warned;
  };
  const question = () => useNotices.getState().notices.find((n) => n.stays);

  test('the project was deleted: it is said at once, nothing goes into the bin, and it can be taken back', async () => {
    expect(leaving()).toBe(false);
    await db.projects.update(project.id, { deletedAt: Date.now() });
    await until(() => question() !== undefined);
    expect(question()).toMatchObject({ text: 'This project was deleted in another tab.', stays: true });
    changeSettings((s) => void (s.calibration.bend = 2));
    await session.flush();
    expect(((await db.projects.get(project.id))!.document as Project).shots[0]!.settings.calibration.bend).toBe(1);
    expect(leaving()).toBe(true);
    question()!
      .actions!.find((a) => a.label === 'Take it back')!
      .run();
    await until(() => useSession.getState().save?.is === 'saved');
    expect((await loadProject(db, project.id)).project.shots[0]!.settings.calibration.bend).toBe(2);
    expect(question()).toBeUndefined();
    changeSettings((s) => void (s.calibration.bend = 3));
    await session.flush();
    expect((await loadProject(db, project.id)).project.shots[0]!.settings.calibration.bend).toBe(3);
  });

  test('the project was changed: that stays in sight, and what was not saved becomes a copy where the shot is left undecided', async () => {
    await saveProject(db, { ...project, name: 'From the other tab' }, 1);
    changeSettings((s) => void (s.calibration.bend = 2));
    await session.flush();
    expect(question()!.text).toBe('This project was changed in another tab.');
    changeSettings((s) => void (s.calibration.bend = 5));
    expect(leaving()).toBe(true);
    await session.close();
    expect(question()).toBeUndefined();
    const copy = (await db.projects.toArray()).find((r) => r.name === 'Test, copy')!;
    expect((copy.document as Project).shots[0]!.settings.calibration.bend).toBe(5);
    expect(useNotices.getState().notices.at(-1)!.text).toContain('Test, copy');
  });
});
