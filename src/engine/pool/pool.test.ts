import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { settled, until } from '../../testing/until';
import type { EventEmitter } from 'node:events';
import * as Comlink from 'comlink';
import { OmbrageError } from '../../core/error';
import { newShot } from '../../core/document/defaults';
import { stillNeed } from '../../core/need/need';
import { newPlane, type Plane, type Raster } from '../../core/picture';
import type { ShotRequest } from '../../core/shot/stage';
import { START } from '../../core/values/moment';
import { Engine } from './engine';
import { Newest } from '../messages/newest';
import type { PreviewPart, PreviewSpec } from '../messages/protocol';

/** A worker that answers in this thread: what it was asked is written down, what it does is said by the test. */
interface Asked {
  readonly worker: number;
  readonly what: string;
  readonly with: readonly unknown[];
}

const asked: Asked[] = [];
let answers: Record<string, (...args: never[]) => unknown> = {};
const ports: MessagePort[] = [];
const Channel = globalThis.MessageChannel;

/** Every way between two sides is kept, so that all can be closed. */
class KeptChannel extends Channel {
  constructor() {
    super();
    ports.push(this.port1, this.port2);
  }
}

class FakeWorker {
  static made = 0;
  static ends: { terminated: boolean; fail(): void }[] = [];
  constructor() {
    const worker = FakeWorker.made++;
    const { port1, port2 } = new MessageChannel();
    const end = { terminated: false, fail: () => (port1 as unknown as { onerror(event: object): void }).onerror({}) };
    FakeWorker.ends.push(end);
    Object.assign(port1, {
      terminate: () => {
        end.terminated = true;
        port1.close();
      },
    });
    const api = new Proxy(
      {},
      {
        get:
          (_, what: string) =>
          (...args: unknown[]) => {
            asked.push({ worker, what, with: args });
            return answers[what]?.(...(args as never[]));
          },
      },
    );
    Comlink.expose(api, port2);
    return port1;
  }
}

const shot = newShot({ sha256: 'd'.repeat(64), name: 'p.png', width: 400, height: 300, bits: 8, hfovFromFile: null });
const request: ShotRequest = { plate: shot.plate, settings: shot.settings, at: START, size: { width: 40, height: 30 } };
const spec = { shot: request, given: {}, quick: null } as unknown as PreviewSpec;

let engine: Engine;
const engines: Engine[] = [];
/** Every engine is ended with its test. */
const begin = (): Engine => {
  const made = new Engine();
  engines.push(made);
  return made;
};
beforeEach(() => {
  Object.assign(globalThis, { Worker: FakeWorker, MessageChannel: KeptChannel });
  Object.defineProperty(globalThis, 'navigator', { value: { hardwareConcurrency: 4 }, configurable: true });
  FakeWorker.made = 0;
  FakeWorker.ends = [];
  asked.length = 0;
  answers = {};
  engine = begin();
});
afterEach(() => {
  for (const one of engines.splice(0)) one.close();
  for (const port of ports.splice(0)) port.close();
});

const of = (what: string): Asked[] => asked.filter((a) => a.what === what);

const plateOf = (sha256: string) => stillNeed({ sha256, name: 'plate.png', width: 8, height: 8 });

describe('the pool', () => {
  test('has one worker for the picture and the others for what takes its time', async () => {
    await until(() => of('meetHelpers').length === 1);
    expect(FakeWorker.made).toBe(3);
    expect(of('meetHelpers')[0]!.worker).toBe(0);
    expect((of('meetHelpers')[0]!.with[0] as unknown[]).length).toBe(2);
    expect(of('serveHelper').map((a) => a.worker)).toEqual([1, 2]);
  });

  test('gives long work to a worker that is free, and never to the viewer', async () => {
    const open: (() => void)[] = [];
    answers.plateThumbnail = () => new Promise<string>((done) => open.push(() => done('small')));
    const work = [engine.plateThumbnail('a', 10), engine.plateThumbnail('b', 10)];
    await until(() => of('plateThumbnail').length === 2);
    expect(
      of('plateThumbnail')
        .map((a) => a.worker)
        .sort(),
    ).toEqual([1, 2]);
    open.splice(0).forEach((go) => go());
    expect(await Promise.all(work)).toEqual(['small', 'small']);
    // the first is free again
    const third = engine.plateThumbnail('c', 10);
    await until(() => open.length === 1);
    open[0]!();
    await third;
    expect(of('plateThumbnail')[2]!.worker).toBe(2);
  });

  test('keeps one worker for errands: what is long waits for the others, a file is read meanwhile', async () => {
    const open: (() => void)[] = [];
    answers.estimate = () => new Promise((done) => open.push(() => done(null)));
    answers.decode = () => ({ sha256: 'read' });
    const jobs = ['a', 'b'].map((hash) => engine.estimate(plateOf(hash), { quality: 'fine' }, () => undefined));
    await until(() => of('estimate').length === 2);
    expect(of('estimate').map((a) => a.worker)).toEqual([1, 1]);
    expect(await engine.decode(new Blob([]), 'p.png')).toEqual({ sha256: 'read' });
    expect(of('decode').map((a) => a.worker)).toEqual([2]);
    open.forEach((go) => go());
    await Promise.all(jobs.map((job) => job.done));
  });

  test('readies for an estimate the worker that will make it', async () => {
    await engine.readyEstimate();
    await engine.estimate(plateOf('a'), { quality: 'draft' }, () => undefined).done;
    expect([...of('readyEstimate'), ...of('estimate')].map((a) => a.worker)).toEqual([1, 1]);
  });

  test('has one for errands on the smallest machine, and begins one for what is long with the first such work', async () => {
    for (const hardwareConcurrency of [1, 2]) {
      Object.defineProperty(globalThis, 'navigator', { value: { hardwareConcurrency }, configurable: true });
      FakeWorker.made = 0;
      asked.length = 0;
      engine = begin();
      await engine.hold('map', 'm', newPlane(2, 2));
      expect(FakeWorker.made).toBe(2);
      answers.plateThumbnail = () => 'small';
      await engine.plateThumbnail('a', 10);
      expect(FakeWorker.made).toBe(2);
      await engine.estimate(plateOf('a'), { quality: 'draft' }, () => undefined).done;
      await engine.estimate(plateOf('a'), { quality: 'draft' }, () => undefined).done;
      expect(FakeWorker.made).toBe(3);
      // it holds what the others hold before it works, and lends a hand like them
      const begun = asked.filter((a) => a.worker === 2).map((a) => a.what);
      expect(begun.indexOf('hold')).toBeGreaterThanOrEqual(0);
      expect(begun.indexOf('hold')).toBeLessThan(begun.indexOf('estimate'));
      const known = of('meetHelpers').map((a) => (a.with[0] as unknown[]).filter(Boolean).length);
      expect(known.slice(-2)).toEqual([1, 2]);
    }
  });

  test('a worker lends no hand until everything it was given is done', async () => {
    await until(() => of('meetHelpers').length === 1);
    const busy = of('meetHelpers')[0]!.with[1] as Int32Array;
    const open: (() => void)[] = [];
    answers.plateThumbnail = () => new Promise<string>((done) => open.push(() => done('small')));
    const work = ['a', 'b', 'c'].map((hash) => engine.plateThumbnail(hash, 10));
    expect(Array.from(busy)).toEqual([1, 2]);
    await until(() => open.length === 3);
    const order = of('plateThumbnail').map((a) => a.worker);
    // one of the last worker's two is done: it still has the other
    open[order.indexOf(2)]!();
    await Promise.race(work);
    expect(Array.from(busy)).toEqual([1, 1]);
    open.forEach((go) => go());
    await Promise.all(work);
    expect(Array.from(busy)).toEqual([0, 0]);
  });

  test('a plate and a map go to every worker, before anything that is asked of it afterwards', async () => {
    const raster: Raster = { width: 2, height: 1, channels: 3, data: new Uint8Array(6) };
    answers.preview = () => true;
    void engine.hold('raster', 'x', raster);
    void engine.hold('map', 'm', newPlane(2, 2));
    await engine.preview(
      spec,
      () => undefined,
      () => undefined,
    );
    await until(() => of('hold').length === 6);
    for (const kind of ['raster', 'map'])
      expect(
        of('hold')
          .filter((a) => a.with[0] === kind)
          .map((a) => a.worker)
          .sort(),
      ).toEqual([0, 1, 2]);
    const viewer = asked.filter((a) => a.worker === 0).map((a) => a.what);
    expect(viewer.lastIndexOf('hold')).toBeLessThan(viewer.indexOf('preview'));
  });

  test('an error crosses with its code and what to do', async () => {
    answers.decode = () => {
      throw new OmbrageError('empty-file', 'p.png is empty.', 'Choose another.');
    };
    const failed = await engine.decode(new Blob([]), 'p.png').catch((e: unknown) => e);
    expect(failed).toBeInstanceOf(OmbrageError);
    expect(failed).toMatchObject({ code: 'empty-file', message: 'p.png is empty.', hint: 'Choose another.' });
    answers.decode = () => Promise.reject(new Error('out of memory'));
    const other = await engine.decode(new Blob([]), 'p.png').catch((e: unknown) => e);
    expect(other).not.toBeInstanceOf(OmbrageError);
    // a worker whose work failed is free again
    answers.decode = () => ({ sha256: 'ok' });
    expect(await engine.decode(new Blob([]), 'p.png')).toEqual({ sha256: 'ok' });
  });
});

describe('the newest preview', () => {
  test('wins: an older one sees that it is out of date, and what it still sends is dropped', async () => {
    const seen: string[] = [];
    const sends: ((part: PreviewPart) => Promise<void>)[] = [];
    const ids: [number, Int32Array][] = [];
    const open: ((done: boolean) => void)[] = [];
    answers.preview = (_spec: unknown, id: number, words: Int32Array, onPart: (part: PreviewPart) => Promise<void>) => {
      ids.push([id, words]);
      sends.push(onPart);
      return new Promise<boolean>((done) => open.push(done));
    };
    const first = engine.preview(
      spec,
      () => void seen.push('first'),
      () => undefined,
    );
    await until(() => ids.length === 1);
    expect(new Newest(ids[0]![1]).is(ids[0]![0])).toBe(true);
    const second = engine.preview(
      spec,
      () => void seen.push('second'),
      () => undefined,
    );
    await until(() => ids.length === 2);
    expect(new Newest(ids[1]![1]).is(ids[0]![0])).toBe(false);
    expect(new Newest(ids[1]![1]).is(ids[1]![0])).toBe(true);
    // what comes too late is let go of
    const { port1: watched, port2: picture } = new MessageChannel();
    const closed = new Promise((done) => (watched as unknown as EventEmitter).on('close', () => done(true)));
    await sends[0]!(Comlink.transfer({ stage: 'full', plate: null, depth: picture } as unknown as PreviewPart, [picture]));
    expect(await closed).toBe(true);
    await sends[1]!({ stage: 'full' } as PreviewPart);
    open[0]!(false);
    open[1]!(true);
    expect(await Promise.all([first, second])).toEqual([false, true]);
    expect(seen).toEqual(['second']);
  });

  test('what is prepared gives way to it', async () => {
    const ids: [number, Int32Array][] = [];
    answers.prepare = (_shot: unknown, _sizes: unknown, id: number, words: Int32Array) => void ids.push([id, words]);
    answers.preview = () => true;
    await engine.prepare(request, [{ width: 20, height: 15 }, request.size]);
    expect(of('prepare')[0]!.with[1]).toEqual([{ width: 20, height: 15 }, request.size]);
    expect(new Newest(ids[0]![1]).is(ids[0]![0])).toBe(true);
    await engine.preview(
      spec,
      () => undefined,
      () => undefined,
    );
    expect(new Newest(ids[0]![1]).is(ids[0]![0])).toBe(false);
  });
});

test('a job tells how far it is, and stops when it is cancelled', async () => {
  const shares: number[] = [];
  answers.estimate = async (_hash: string, _quality: string, id: number, words: Int32Array, report: (share: number) => Promise<void>) => {
    const newest = new Newest(words);
    for (let k = 0; k < 400; k++) {
      await report(k / 400);
      if (!newest.is(id)) return null;
      await settled();
    }
    return newPlane(1, 1);
  };
  const job = engine.estimate(plateOf('x'), { quality: 'fine' }, (share) => void shares.push(share));
  await until(() => shares.length > 3);
  job.cancel();
  const done: Plane | null = await job.done;
  expect(done).toBeNull();
  expect(shares).toEqual([...shares].sort((a, b) => a - b));
  expect(shares.length).toBeLessThan(400);
});

test('requests are numbered without shared memory as well', () => {
  const kept = globalThis.SharedArrayBuffer;
  try {
    Reflect.deleteProperty(globalThis, 'SharedArrayBuffer');
    const words = new Newest();
    expect(words.words.buffer).toBeInstanceOf(ArrayBuffer);
    const id = words.next();
    expect(words.is(id)).toBe(true);
  } finally {
    Object.assign(globalThis, { SharedArrayBuffer: kept });
  }
});

describe('a worker that ends', () => {
  test('is replaced, given what the others hold, and its work is asked for once more', async () => {
    await engine.hold('map', 'm', newPlane(2, 2));
    answers.plateThumbnail = () => new Promise(() => undefined);
    const work = engine.plateThumbnail('a', 10);
    await until(() => of('plateThumbnail').length === 1);
    const lost = of('plateThumbnail')[0]!.worker;
    answers.plateThumbnail = () => 'small';
    FakeWorker.ends[lost]!.fail();
    expect(await work).toBe('small');
    expect(FakeWorker.ends[lost]!.terminated).toBe(true);
    expect(FakeWorker.made).toBe(4);
    const fresh = asked.filter((a) => a.worker === 3).map((a) => a.what);
    expect(fresh.indexOf('hold')).toBeGreaterThanOrEqual(0);
    expect(fresh.indexOf('hold')).toBeLessThan(fresh.indexOf('plateThumbnail'));
    // the viewer is told who lends a hand now
    await until(() => of('meetHelpers').length === 2);
  });

  test('twice at the same work is said, and the next thing works', async () => {
    answers.preview = () => new Promise(() => undefined);
    const failed = engine
      .preview(
        spec,
        () => undefined,
        () => undefined,
      )
      .catch((e: unknown) => e);
    for (const nth of [1, 2]) {
      await until(() => of('preview').length === nth);
      FakeWorker.ends[of('preview')[nth - 1]!.worker]!.fail();
    }
    expect(await failed).toMatchObject({ code: 'worker-lost' });
    answers.preview = () => true;
    expect(
      await engine.preview(
        spec,
        () => undefined,
        () => undefined,
      ),
    ).toBe(true);
  });

  test('before it ever answered is not begun again for ever', async () => {
    answers.live = () => new Promise(() => undefined);
    FakeWorker.made = 0;
    FakeWorker.ends = [];
    engine = begin();
    for (let k = 0; k < 40; k++) FakeWorker.ends[k]?.fail();
    expect(FakeWorker.made).toBeLessThan(12);
    await expect(
      engine.preview(
        spec,
        () => undefined,
        () => undefined,
      ),
    ).rejects.toMatchObject({ code: 'worker-lost' });
  });

  test('a cancelled job is over for whoever waits, whatever its worker does', async () => {
    answers.output = () => new Promise(() => undefined);
    const job = engine.output(request, {}, { kind: 'depth-pfm', values: {}, name: 'shot' }, () => undefined);
    await until(() => of('output').length === 1);
    job.cancel();
    expect(await job.done).toBeNull();
  });
});

test('while some pixels are lit only the newest that was asked for meanwhile follows', async () => {
  const open: ((bitmap: string) => void)[] = [];
  answers.highlight = () => new Promise((done) => open.push(done));
  const asks = [1, 2, 3, 4].map((from) => engine.highlight(from, 9));
  await until(() => open.length === 1);
  open[0]!('first');
  await until(() => open.length === 2);
  open[1]!('last');
  expect(await Promise.all(asks)).toEqual(['first', null, null, 'last']);
  expect(of('highlight').map((a) => a.with[0])).toEqual([1, 4]);
});
