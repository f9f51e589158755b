import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { settled, until } from '../../testing/until';
import { IDBFactory, IDBKeyRange } from 'fake-indexeddb';
import { newLayer, newShot } from '../../core/document/defaults';
import type { Layer, Shot } from '../../core/document/schema';
import { estimateKey } from '../../core/need/estimateKey';
import { depthSeries, needKey, type EstimateNeed } from '../../core/need/need';
import { newPlane, type Plane } from '../../core/picture';
import { layerMapNeed } from '../../core/shot/needs';
import { Database } from '../../store/database';
import { getMap, putMap, putMedia } from '../../store/media';
import { nothingOpen, useSession } from './sessionStore';
import { useNotices } from '../notices/noticeStore';

/** The engine as the provider sees it: what is asked is written down, estimates end when the test says so. */
const calls: string[] = [];
/** answers to decoding that the test gives, in order; where there is none it is answered at once */
const decoding: Promise<Plane>[] = [];
const held = new Set<string>();
let needed: string[] = [];
/** workers do not hear that an estimate was cancelled */
let deaf = false;
/** what workers answer when they have taken a map: late, where they are busy */
let taken: Promise<void> = Promise.resolve();
const running: { quality: string; end(plane: Plane | null): void; fail(error: Error): void; report(share: number): void }[] = [];
const fakeEngine = {
  hold: (kind: string, name: string) => {
    held.add(name);
    calls.push(kind === 'map' ? `hold ${name}` : `still ${name.slice(0, 4)}`);
    return kind === 'map' ? taken : Promise.resolve();
  },
  holds: (_kind: string, name: string) => held.has(name),
  framesChanged: () => undefined,
  need: (wanted: readonly (readonly [string, string])[]) => void (needed = wanted.map(([kind, name]) => `${kind} ${name}`)),
  decode: (_file: Blob, name: string) =>
    Promise.resolve({ raster: { width: 1, height: 1, channels: 3, data: new Uint8Array(3) }, sha256: name, facts: {} }),
  decodeMap: (_file: Blob, name: string, channel: string | null, reading: string) => {
    calls.push(`decode ${name} ${channel ?? 'first'} ${reading}`);
    return decoding.shift() ?? Promise.resolve(newPlane(2, 2));
  },
  estimate: (_hash: string, { quality }: { quality: string }, report: (share: number) => void) => {
    calls.push(`estimate ${quality}`);
    let end: (plane: Plane | null) => void = () => undefined;
    let fail: (error: Error) => void = () => undefined;
    const done = new Promise<Plane | null>((yes, no) => {
      end = yes;
      fail = no;
    });
    running.push({ quality, end, fail, report });
    return { done, cancel: () => !deaf && end(null) };
  },
};
jest.unstable_mockModule('../../engine/pool/engine', () => ({ engine: () => fakeEngine }));
/** Maps of the frames of clips. */
const frames = {
  kept: new Map<string, Plane>(),
  keptFrame: (series: string, frame: number) => Promise.resolve(frames.kept.get(`${series}@${frame}`) ?? null),
  keepFrame: (series: string, frame: number, plane: Plane) => Promise.resolve(void frames.kept.set(`${series}@${frame}`, plane)),
};
jest.unstable_mockModule('../../media/clipStore', () => frames);
const { draftOf, Provider, shownQuality } = await import('./provider');

const plate = { sha256: 'e'.repeat(64), name: 'p.png', width: 400, height: 300, bits: 8, hfovFromFile: null };
const fine = estimateKey(plate.sha256, { quality: 'fine' });
const draft = estimateKey(plate.sha256, { quality: 'draft' });
/** Waits until so many estimates have been asked for. */
const asked = (estimates: number): Promise<void> => until(() => running.length >= estimates);

let db: Database;
let shot: Shot;
let arrived = 0;
let provider: InstanceType<typeof Provider>;
let count = 0;
beforeEach(() => {
  db = new Database(`provider-${++count}`, { indexedDB: new IDBFactory(), IDBKeyRange });
  calls.length = 0;
  taken = Promise.resolve();
  deaf = false;
  running.length = 0;
  decoding.length = 0;
  held.clear();
  needed = [];
  arrived = 0;
  useSession.getState().set(nothingOpen);
  useNotices.setState({ notices: [] });
  shot = newShot(plate);
  provider = new Provider(db, () => arrived++);
});
afterEach(async () => {
  provider.close();
  await db.delete();
});
const estimateLayer = (): Layer => shot.settings.layers[0]!;
/** The key of what a layer needs, and which quality it shows. */
const keyOf = (layer: Layer): string => needKey(layerMapNeed(layer, plate)!);
const quality = (layer: Layer) => shownQuality(layerMapNeed(layer, plate) as EstimateNeed, useSession.getState().given);

describe('an estimate', () => {
  test('comes as a draft first, then fine; each is held, shown and the fine one kept for the next time', async () => {
    const work = provider.provide(shot);
    await asked(1);
    expect(calls).toEqual(['estimate draft']);
    running[0]!.report(0.5);
    expect(useSession.getState().estimating).toMatchObject({ what: 'Estimating depth, draft', share: 0.5 });
    running[0]!.end(newPlane(3, 2));
    await asked(2);
    expect(quality(estimateLayer())).toBe('draft');
    expect(useSession.getState().given[fine]).toBe(draft);
    running[1]!.end(newPlane(6, 4));
    await work;
    expect(calls).toEqual(['estimate draft', `hold ${draft}`, 'estimate fine', `hold ${fine}`]);
    expect(useSession.getState().estimating).toBeNull();
    expect(quality(estimateLayer())).toBe('fine');
    expect((await getMap(db, fine))?.width).toBe(6);
    expect(arrived).toBe(2);
  });

  test('that is kept is held at once, and read ahead where it is recalled', async () => {
    await putMap(db, fine, newPlane(5, 5));
    provider.recall(shot);
    await provider.provide(shot);
    expect(calls).toEqual([`hold ${fine}`]);
    expect(useSession.getState().given).toEqual({ [fine]: fine });
    // asked again, nothing more is done
    await provider.provide(shot);
    expect(calls).toHaveLength(1);
  });

  test('that is stopped says so, keeps what was there, and can be run again', async () => {
    const work = provider.provide(shot);
    await asked(1);
    running[0]!.end(newPlane(3, 2));
    await asked(2);
    useSession.getState().estimating!.cancel();
    await work;
    const { without, given, estimating } = useSession.getState();
    const { notices } = useNotices.getState();
    expect(without[fine]).toBe('stopped');
    expect(given[fine]).toBe(draft);
    expect(notices.map((n) => n.text)).toEqual(['The fine estimate was stopped.']);
    expect(estimating).toBeNull();
    expect(await getMap(db, fine)).toBeNull();
    const again = provider.estimateAgain(shot, estimateLayer());
    await asked(3);
    expect(useSession.getState().without).toEqual({});
    running[2]!.end(newPlane(6, 4));
    await again;
    expect(useSession.getState().given[fine]).toBe(fine);
  });

  test('that is stopped where its worker cannot hear of it is not shown when it comes', async () => {
    deaf = true;
    const work = provider.provide(shot);
    await asked(1);
    useSession.getState().estimating!.cancel();
    running[0]!.end(newPlane(3, 2));
    await work;
    expect(useSession.getState().given).toEqual({});
    expect(useSession.getState().without[fine]).toBe('stopped');
    expect(await getMap(db, draft)).toBeNull();
  });

  test('that fails is told, and the layer says that it has none', async () => {
    const work = provider.provide(shot);
    await asked(1);
    running[0]!.fail(new Error('no memory left'));
    await expect(work).rejects.toThrow('no memory left');
    expect(useSession.getState().without).toEqual({ [fine]: 'missing' });
    expect(useSession.getState().estimating).toBeNull();
  });

  test('that comes after the shot was closed changes nothing', async () => {
    const work = provider.provide(shot);
    await asked(1);
    provider.close();
    running[0]?.end(newPlane(3, 2));
    await work;
    expect(useSession.getState().given).toEqual({});
    expect(arrived).toBe(0);
  });

  test('to compare with is the best that is kept, or a draft made once', async () => {
    const first = provider.comparison(shot);
    const second = provider.comparison(shot);
    await asked(1);
    running[0]!.end(newPlane(3, 2));
    expect(await first).toBe(draft);
    expect(await second).toBe(draft);
    expect(calls.filter((c) => c.startsWith('estimate'))).toHaveLength(1);
    const later = new Provider(db, () => undefined);
    await putMap(db, fine, newPlane(6, 4));
    expect(await later.comparison(shot)).toBe(fine);
  });
});

describe('a clip', () => {
  const clip = { ...plate, sha256: '9'.repeat(64), name: 'c.mp4', clip: { frames: 40, fps: 24 } };
  const estimateOf = (frame: number, half?: 'left' | 'right') =>
    needKey(draftOf({ ...shot, plate: half ? { ...clip, clip: { ...clip.clip, half } } : clip }, { frame, fps: 24 }));

  test('is compared with an estimate of the frame that is looked at, and of the half that is the picture', async () => {
    const found: (string | null)[] = [];
    for (const [frame, half] of [
      [0, undefined],
      [7, undefined],
      [7, 'left'],
      [7, 'right'],
    ] as const) {
      const of = { ...shot, plate: half ? { ...clip, clip: { ...clip.clip, half } } : clip };
      const coming = provider.comparison(of, { frame, fps: 24 });
      await asked(found.length + 1);
      running.at(-1)!.end(newPlane(3, 2));
      found.push(await coming);
      expect(found.at(-1)).toBe(estimateOf(frame, half));
    }
    expect(new Set(found).size).toBe(4);
    // at twice the rate it is the same frame
    expect(await provider.comparison({ ...shot, plate: clip }, { frame: 14, fps: 48 })).toBe(found[1]);
  });

  test('“Estimate this frame again” goes on whatever is changed meanwhile', async () => {
    const layer = { ...newLayer('estimate'), values: { quality: 'draft', steady: 70 } };
    const ofClip: Shot = { ...shot, plate: clip, settings: { ...shot.settings, layers: [layer] } };
    await frames.keepFrame(depthSeries({ of: clip, quality: 'draft', steady: 70 }), 0, newPlane(3, 2));
    await provider.provide(ofClip, { frame: 0, fps: 24 });
    const again = provider.estimateAgain(ofClip, layer);
    await asked(1);
    await provider.provide({ ...ofClip, settings: { ...ofClip.settings, hfovDegrees: 40 } }, { frame: 0, fps: 24 });
    running[0]!.end(newPlane(3, 2));
    await again;
    expect(frames.kept.has(`${depthSeries({ of: clip, quality: 'draft' })}@0`)).toBe(true);
    expect(useNotices.getState().notices).toEqual([]);
  });
});

describe('a map from a file', () => {
  const media = { sha256: 'f'.repeat(64), name: 'depth.exr', width: 4, height: 3 };
  const imported = (content: object): Layer => ({ ...newLayer('imported', media), content: content });

  test('is read as its layer says, and known by what is in it and how it is read', async () => {
    await putMedia(db, media.sha256, media.name, new Blob(['x']));
    const layer = imported({ channel: 'Z', reading: 'distance' });
    shot.settings.layers = [layer];
    await provider.provide(shot);
    expect(calls).toEqual(['decode depth.exr Z distance', `hold ${keyOf(layer)}`]);
    expect(useSession.getState().given[keyOf(layer)]).toBe(keyOf(layer));
    const other = { ...layer, content: { channel: 'Y', reading: 'grey' } as unknown };
    expect(keyOf(other)).not.toBe(keyOf(layer));
    await provider.provide({ ...shot, settings: { ...shot.settings, layers: [other] } });
    expect(calls[2]).toBe('decode depth.exr Y grey');
  });

  test('comes before estimates, and is shown while a worker is still at one', async () => {
    await putMedia(db, media.sha256, media.name, new Blob(['x']));
    const layer = imported({});
    shot.settings.layers = [estimateLayer(), layer];
    taken = new Promise(() => undefined);
    void provider.provide(shot);
    await asked(1);
    expect(calls).toEqual(['decode depth.exr first grey', `hold ${keyOf(layer)}`, 'estimate draft']);
    expect(useSession.getState().given).toEqual({ [keyOf(layer)]: keyOf(layer) });
    running[0]!.end(newPlane(3, 2));
    await asked(2);
    expect(useSession.getState().given[fine]).toBe(draft);
  });

  test('that is not in this browser is named, and the others come all the same', async () => {
    await putMap(db, fine, newPlane(5, 5));
    const layer = imported({});
    shot.settings.layers = [layer, estimateLayer()];
    await expect(provider.provide(shot)).rejects.toMatchObject({ code: 'missing-media', message: expect.stringContaining('depth.exr') });
    await settled();
    expect(useSession.getState().without).toEqual({ [keyOf(layer)]: 'missing' });
    expect(Object.values(useSession.getState().given)).toEqual([fine]);
  });
});

test('stills that flats show are held once each', async () => {
  const still = { sha256: 'a1'.repeat(32), name: 'sign.png', width: 2, height: 2 };
  await putMedia(db, still.sha256, still.name, new Blob(['x']));
  const flats = newLayer('flats');
  const flat = (id: string) => ({ id, name: id, media: still });
  flats.content = { flats: [flat('a'), flat('b')] };
  shot.settings.layers = [flats];
  await provider.provide(shot);
  await provider.provide(shot);
  expect(calls.filter((c) => c.startsWith('still'))).toEqual(['still a1a1']);
  expect(useSession.getState().given).toEqual({ [still.sha256]: still.sha256 });
});

describe('what is not wanted any more', () => {
  const media = { sha256: 'f'.repeat(64), name: 'depth.exr', width: 4, height: 3 };
  const layerOf = (channel: string): Layer => ({ ...newLayer('imported', media), id: 'map', content: { channel, reading: 'grey' } });
  const withLayer = (layer: Layer): Shot => ({ ...shot, settings: { ...shot.settings, layers: [layer] } });

  test('a slower, older map does not win over a newer one', async () => {
    await putMedia(db, media.sha256, media.name, new Blob(['x']));
    let late: (plane: Plane) => void = () => undefined;
    decoding.push(new Promise((done) => (late = done)), Promise.resolve(newPlane(2, 2)));
    const first = provider.provide(withLayer(layerOf('Z')));
    await settled();
    await provider.provide(withLayer(layerOf('Y')));
    late(newPlane(9, 9));
    await first;
    expect(useSession.getState().given).toEqual({ [keyOf(layerOf('Y'))]: keyOf(layerOf('Y')) });
    expect(calls.filter((c) => c.startsWith('hold'))).toEqual([`hold ${keyOf(layerOf('Y'))}`]);
  });

  test('a fine estimate that comes late does not take the place of the draft that was chosen meanwhile', async () => {
    deaf = true;
    const work = provider.provide(shot);
    await asked(1);
    running[0]!.end(newPlane(3, 2));
    await asked(2);
    const layer = { ...estimateLayer(), values: { ...estimateLayer().values, quality: 'draft' } };
    await provider.provide(withLayer(layer));
    running[1]!.end(newPlane(6, 4));
    await work;
    expect(useSession.getState().given).toMatchObject({ [draft]: draft });
    expect(Object.values(useSession.getState().given)).not.toContain(fine);
    expect(quality(layer)).toBe('draft');
    expect(useSession.getState()).toMatchObject({ without: {}, estimating: null });
  });

  test('the estimate of a layer that was deleted is stopped without a word, and made again when the layer is back', async () => {
    const work = provider.provide(shot);
    await asked(1);
    await provider.provide({ ...shot, settings: { ...shot.settings, layers: [] } });
    await work;
    expect(useSession.getState()).toMatchObject({ given: {}, without: {} });
    expect(useNotices.getState().notices).toEqual([]);
    void provider.provide(shot);
    await asked(2);
    expect(running).toHaveLength(2);
  });

  test('what the shot works with is told, so that it is not let go; a map that was let go is fetched again', async () => {
    await putMap(db, fine, newPlane(5, 5));
    await provider.provide(shot);
    await provider.provide(shot);
    expect(needed).toEqual([`raster ${plate.sha256}`, `map ${fine}`]);
    held.clear();
    calls.length = 0;
    await provider.provide(shot);
    expect(calls).toEqual([`hold ${fine}`]);
  });

  test('a map that failed is not asked for at every change, and is when it is tried again', async () => {
    const layer = layerOf('Z');
    await expect(provider.provide(withLayer(layer))).rejects.toMatchObject({ code: 'missing-media' });
    await provider.provide(withLayer(layer));
    expect(useSession.getState().without).toEqual({ [keyOf(layer)]: 'missing' });
    await putMedia(db, media.sha256, media.name, new Blob(['x']));
    provider.forgive();
    await provider.provide(withLayer(layer));
    expect(useSession.getState()).toMatchObject({ given: { [keyOf(layer)]: keyOf(layer) }, without: {} });
  });

  test('an estimate to compare with that failed can be tried again', async () => {
    const failing = provider.comparison(shot);
    await asked(1);
    running[0]!.fail(new Error('no memory left'));
    await expect(failing).rejects.toThrow('no memory left');
    const again = provider.comparison(shot);
    await asked(2);
    running[1]!.end(newPlane(3, 2));
    expect(await again).toBe(draft);
  });
});
