import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { newShot } from '../../core/document/defaults';
import type { PreviewPart } from '../../engine/messages/protocol';

const asked: { part(): void; end(): void }[] = [];
const fakeEngine = {
  preview: (spec: { shot: { size: object } }, onPart: (part: PreviewPart) => void) =>
    new Promise<boolean>((done) =>
      asked.push({
        part: () => onPart({ stage: 'full', size: spec.shot.size, milliseconds: 1, fingerprints: {} } as PreviewPart),
        end: () => done(false),
      }),
    ),
};
Object.assign(globalThis, { window: { devicePixelRatio: 1 } });
jest.unstable_mockModule('../../engine/pool/engine', () => ({ engine: () => fakeEngine }));
const { PreviewLoop } = await import('./previewLoop');

const shot = newShot({ sha256: 'a'.repeat(64), name: 'p.png', width: 64, height: 36, bits: 8, hfovFromFile: 60 });
const state = (bend: number) => ({ ...shot, settings: { ...shot.settings, calibration: { ...shot.settings.calibration, bend } } });
let loop: InstanceType<typeof PreviewLoop>;
let newest = 1;
const show = (bend: number): void => {
  newest = bend;
  loop.show(state(bend), null, () => loop.show(state(newest), null, () => undefined));
};
beforeEach(() => {
  jest.useFakeTimers({ doNotFake: ['queueMicrotask'] });
  asked.length = 0;
  loop = new PreviewLoop({ rested: () => undefined, failed: () => undefined });
});
afterEach(() => {
  loop.close();
  jest.useRealTimers();
});

test('a newer state waits for the first picture of the one before, but no longer than 700 ms', () => {
  show(1);
  show(2);
  jest.advanceTimersByTime(690);
  expect(asked).toHaveLength(1);
  jest.advanceTimersByTime(20);
  expect(asked).toHaveLength(2);
});

test('an answer to an older request says nothing of the newer one, which has its own time', async () => {
  show(1);
  show(2);
  jest.advanceTimersByTime(701);
  expect(asked).toHaveLength(2);
  show(3);
  asked[0]!.end();
  await Promise.resolve();
  await Promise.resolve();
  await Promise.resolve();
  expect(asked).toHaveLength(2);
  asked[1]!.part();
  await Promise.resolve();
  await Promise.resolve();
  expect(asked).toHaveLength(3);
});
