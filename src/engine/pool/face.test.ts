import { afterAll, beforeEach, expect, test } from '@jest/globals';
import * as Comlink from 'comlink';
import type { FoundFace } from '../../core/estimate/face/faces';
import type { Rgb8 } from '../../core/estimate/face/tensors';
import { findFace } from './face';

/** A worker whose other side the test plays. */
let ended = 0;
type Report = (share: number) => void;
let find: (picture: Rgb8, report: Report) => Promise<FoundFace | null>;
const lent: Report[] = [];
let raise: (message: string) => void;
class PlayedWorker {
  onerror: ((event: { message: string }) => void) | null = null;
  private readonly channel = new MessageChannel();
  constructor() {
    Comlink.expose(
      {
        find: (picture: Rgb8, report: Report) => {
          lent.push(report);
          return find(picture, report);
        },
      },
      this.channel.port2,
    );
    raise = (message) => this.onerror?.({ message });
    this.channel.port1.start();
  }
  postMessage = (message: unknown, transfer: Transferable[]): void => this.channel.port1.postMessage(message, transfer);
  addEventListener = (name: string, run: EventListener): void => this.channel.port1.addEventListener(name, run);
  removeEventListener = (name: string, run: EventListener): void => this.channel.port1.removeEventListener(name, run);
  terminate(): void {
    ended++;
    this.channel.port1.close();
    this.channel.port2.close();
  }
}
Object.assign(globalThis, { Worker: PlayedWorker });

const picture = { width: 2, height: 1, rgb: Uint8Array.of(1, 2, 3, 4, 5, 6) };
beforeEach(() => {
  ended = 0;
});

// a way to report holds the process open until it is given back
afterAll(() => lent.forEach((report) => (report as Comlink.Remote<Report>)[Comlink.releaseProxy]()));

test('the picture goes to the worker, its points come back, and the worker ends', async () => {
  const reports: number[] = [];
  let seen: Rgb8 | null = null;
  find = async (given, report) => {
    seen = given;
    await report(0.5);
    return { faces: 2, others: [], points: [{ x: 0.25, y: 0.5 }] };
  };
  const { done } = findFace(Promise.resolve(picture), (share) => reports.push(share));
  expect(await done).toEqual({ faces: 2, others: [], points: [{ x: 0.25, y: 0.5 }] });
  expect(seen).toEqual(picture);
  expect(reports).toEqual([0.5]);
  expect(ended).toBe(1);
});

test('no face is null', async () => {
  find = () => Promise.resolve(null);
  expect(await findFace(Promise.resolve(picture), () => undefined).done).toBeNull();
});

test('stopped, it answers at once and ends the worker in the middle of its work', async () => {
  find = () => new Promise(() => undefined);
  const { done, cancel } = findFace(Promise.resolve(picture), () => undefined);
  cancel();
  expect(await done).toBeNull();
  expect(ended).toBe(1);
});

test.each([
  ['out of memory', 'out of memory'],
  ['', 'the face model could not be started'],
])('a worker that fails (%s) is told', async (message, told) => {
  find = () => new Promise(() => undefined);
  const { done } = findFace(Promise.resolve(picture), () => undefined);
  raise(message);
  await expect(done).rejects.toThrow(told);
  expect(ended).toBe(1);
});

test('a plate that cannot be read is told, and the worker ends', async () => {
  const { done } = findFace(Promise.reject(new Error('no plate')), () => undefined);
  await expect(done).rejects.toThrow('no plate');
  expect(ended).toBe(1);
});
