import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import * as Comlink from 'comlink';
import { OmbrageError } from '../../core/error';
import type { NetworkAnswer, NetworkRun } from '../../core/estimate/own/runs';
import type { NetworkUse } from '../../core/need/networkUse';
import { errorsCross } from '../messages/errors';
import { NETWORK_STOPPED, type NetworkCall } from '../messages/networkCalls';
import { OwnNetworks, provideNetworkFiles } from './ownNetworks';
import type { Job } from './workers';

errorsCross();

/** The worker's side, as the test plays it. */
const told: string[] = [];
let open: (file: Blob, name: string) => Promise<void>;
let run: (asked: NetworkRun) => Promise<NetworkAnswer>;
const workers: PlayedWorker[] = [];

class PlayedWorker {
  onerror: ((event: object) => void) | null = null;
  ended = false;
  private readonly channel = new MessageChannel();
  constructor() {
    workers.push(this);
    Comlink.expose({ open: (file: Blob, name: string) => open(file, name), run: (asked: NetworkRun) => run(asked) }, this.channel.port2);
    this.channel.port1.start();
  }
  postMessage = (message: unknown, transfer: Transferable[]): void => this.channel.port1.postMessage(message, transfer);
  addEventListener = (name: string, listen: EventListener): void => this.channel.port1.addEventListener(name, listen);
  removeEventListener = (name: string, listen: EventListener): void => this.channel.port1.removeEventListener(name, listen);
  terminate(): void {
    this.ended = true;
    this.channel.port1.close();
    this.channel.port2.close();
  }
}
Object.assign(globalThis, { Worker: PlayedWorker });

const use = (name: string): NetworkUse => ({ sha256: name, name }) as NetworkUse;
const asked = (v: number): NetworkRun => ({ input: 'x', output: 'y', type: 'float32', dims: [1], data: Float32Array.of(v) });

/** A job that asks a network once, and ends with what it answers, or with null where it is stopped. */
const asking =
  (v: number) =>
  (call: NetworkCall): Job<number> => ({
    done: call(asked(v)).then(
      ({ data }) => data[0]!,
      (error: OmbrageError) => {
        if (error.code === NETWORK_STOPPED) return null;
        throw error;
      },
    ),
    cancel: () => undefined,
  });

/** From now on runs do not end; resolves when so many have begun. */
const hanging = (runs: number): Promise<void> =>
  new Promise((done) => {
    run = () => {
      if (--runs === 0) done();
      return new Promise(() => undefined);
    };
  });

let networks: OwnNetworks;
beforeEach(() => {
  told.length = 0;
  workers.length = 0;
  provideNetworkFiles(({ name }) => Promise.resolve(new Blob([name])));
  open = async (file, name) => void told.push(`${name}: ${await file.text()}`);
  run = ({ data }) => Promise.resolve({ dims: [1], data: Float32Array.of(2 * data[0]!) });
  networks = new OwnNetworks();
});
afterEach(() => networks.stop());

test('a network is opened once and asked often; another takes its place', async () => {
  expect(await networks.job(use('a'), asking(1)).done).toBe(2);
  expect(await networks.job(use('a'), asking(3)).done).toBe(6);
  expect(told).toEqual(['a: a']);
  await networks.job(use('b'), asking(1)).done;
  await networks.job(use('a'), asking(1)).done;
  expect(told).toEqual(['a: a', 'b: b', 'a: a']);
  expect(workers.length).toBe(1);
});

test('of two that are asked at once each is answered by its own', async () => {
  let now = '';
  open = (_, name) => Promise.resolve(void (now = name));
  run = ({ data }) => Promise.resolve({ dims: [1], data: Float32Array.of(data[0]! + (now === 'a' ? 100 : 200)) });
  const many = Array.from({ length: 6 }, (_, k) => networks.job(use(k % 2 ? 'a' : 'b'), asking(k)).done);
  expect(await Promise.all(many)).toEqual([200, 101, 202, 103, 204, 105]);
});

test('stopped, its worker ends with its memory, all that waits ends as stopped, and the next begins anew', async () => {
  const begun = hanging(1);
  const [first, second] = [networks.job(use('a'), asking(1)), networks.job(use('a'), asking(2))];
  await begun;
  first.cancel();
  expect(await first.done).toBeNull();
  expect(await second.done).toBeNull();
  expect(workers[0]!.ended).toBe(true);
  run = ({ data }) => Promise.resolve({ dims: [1], data });
  expect(await networks.job(use('a'), asking(4)).done).toBe(4);
  expect(workers.length).toBe(2);
});

test('what fails in it is said as it was, and its memory is given back', async () => {
  run = () => Promise.reject(new OmbrageError('no-memory', 'There is not enough memory for a.', 'Close other programs.'));
  await expect(networks.job(use('a'), asking(1)).done).rejects.toMatchObject({ code: 'no-memory', hint: 'Close other programs.' });
  expect(workers[0]!.ended).toBe(true);
});

test('a file that is not there is said, and looked for again the next time', async () => {
  provideNetworkFiles(() => Promise.reject(new OmbrageError('missing-network', 'The network a is not in this browser.')));
  await expect(networks.job(use('a'), asking(1)).done).rejects.toMatchObject({ code: 'missing-network' });
  provideNetworkFiles(() => Promise.resolve(new Blob(['found'])));
  expect(await networks.job(use('a'), asking(1)).done).toBe(2);
});

test('a worker that ends by itself is said', async () => {
  const begun = hanging(1);
  const { done } = networks.job(use('a'), asking(1));
  await begun;
  workers[0]!.onerror?.({});
  await expect(done).rejects.toMatchObject({ code: 'no-memory' });
  expect(workers[0]!.ended).toBe(true);
});

test('a network that nobody asks for a while gives its memory back', async () => {
  jest.useFakeTimers({ doNotFake: ['queueMicrotask', 'setImmediate', 'nextTick'] });
  try {
    await networks.job(use('a'), asking(1)).done;
    jest.advanceTimersByTime(20_000);
    expect(workers[0]!.ended).toBe(false);
    jest.advanceTimersByTime(20_000);
    expect(workers[0]!.ended).toBe(true);
  } finally {
    jest.useRealTimers();
  }
});
