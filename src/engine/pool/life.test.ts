import { afterEach, expect, jest, test } from '@jest/globals';
import * as Comlink from 'comlink';
import { LivingWorker, WorkerLost } from './life';

const ports: MessagePort[] = [];
let terminated = 0;

/** A worker in this thread. `mute`: it takes messages and answers none. */
function worker(api: object, mute = false): Worker {
  const { port1, port2 } = new MessageChannel();
  ports.push(port1, port2);
  if (!mute) Comlink.expose(api, port2);
  return Object.assign(port1, { terminate: () => terminated++ }) as unknown as Worker;
}

afterEach(() => {
  jest.useRealTimers();
  for (const port of ports.splice(0)) port.close();
  terminated = 0;
});

const never = (): Promise<never> => new Promise(() => undefined);
/** Passes seconds of the faked clock one by one, letting what waits go on in between. */
async function pass(seconds: number): Promise<void> {
  for (let k = 0; k < seconds; k++) {
    jest.advanceTimersByTime(1000);
    for (let turn = 0; turn < 5; turn++) await new Promise((go) => setImmediate(go));
  }
}
const fake = (): void => void jest.useFakeTimers({ doNotFake: ['setImmediate', 'queueMicrotask', 'nextTick'] });

test('one that answers no ping and counts no looks while it is waited for is given up', async () => {
  fake();
  const lost = jest.fn();
  const living = new LivingWorker(() => worker({}, true), { seconds: 5 }, lost);
  const asked = living.ask(never).catch((e: unknown) => e);
  await pass(4);
  expect(lost).not.toHaveBeenCalled();
  await pass(2);
  expect(await asked).toBeInstanceOf(WorkerLost);
  expect([lost.mock.calls.length, terminated]).toEqual([1, 1]);
  await expect(living.ask(never)).rejects.toBeInstanceOf(WorkerLost);
});

test('one that is busy and looks up now and then lives, and so does one that answers pings', async () => {
  fake();
  let beats: Int32Array | null = null;
  const lost = jest.fn();
  const busy = new LivingWorker(
    () => {
      const made = worker({}, true);
      const send = made.postMessage.bind(made);
      // its first message brings the counter
      made.postMessage = ((message: { argumentList?: { value: unknown }[] }, ...rest: never[]) => {
        beats ??= (message.argumentList?.find((a) => a.value instanceof Int32Array)?.value as Int32Array) ?? null;
        send(message, ...rest);
      }) as typeof made.postMessage;
      return made;
    },
    { seconds: 5 },
    lost,
  );
  void busy.ask(never).catch(() => undefined);
  for (let k = 0; k < 10; k++) {
    await pass(3);
    Atomics.add(beats!, 0, 1);
  }
  expect(lost).not.toHaveBeenCalled();
  const quiet = jest.fn();
  const idle = new LivingWorker(() => worker({ live: () => false, ping: () => undefined }), { seconds: 5 }, quiet);
  void idle.ask(never).catch(() => undefined);
  await pass(12);
  expect(quiet).not.toHaveBeenCalled();
  busy.lose();
  idle.lose();
});

test('a page that slept says nothing of its workers', async () => {
  fake();
  const lost = jest.fn();
  const living = new LivingWorker(() => worker({}, true), { seconds: 5 }, lost);
  void living.ask(never).catch(() => undefined);
  const clock = jest.spyOn(performance, 'now');
  for (let k = 1; k <= 8; k++) {
    clock.mockReturnValue(performance.now() + 60000 * k);
    await pass(1);
  }
  clock.mockRestore();
  expect(lost).not.toHaveBeenCalled();
  living.lose();
});

test('the lock of a worker that ended is free at once', async () => {
  let free: () => void = () => undefined;
  Object.defineProperty(globalThis, 'navigator', {
    value: { locks: { request: (_name: string, _options: object, then: () => void) => new Promise<void>((go) => (free = () => go(then()))) } },
    configurable: true,
  });
  const lost = jest.fn();
  const living = new LivingWorker(() => worker({ live: () => true }), { seconds: 100 }, lost);
  const asked = living.ask(never).catch((e: unknown) => e);
  await new Promise((go) => setTimeout(go, 30));
  free();
  expect(await asked).toBeInstanceOf(WorkerLost);
  expect(lost).toHaveBeenCalledTimes(1);
  Reflect.deleteProperty(globalThis, 'navigator');
});
