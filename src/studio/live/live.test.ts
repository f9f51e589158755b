import { describe, expect, test } from '@jest/globals';
import { newShot } from '../../core/document/defaults';
import type { Shot } from '../../core/document/schema';
import { signalsOf } from '../../core/document/signals';
import { signalDrive } from '../../core/values/drives/signal';
import { driveValue } from '../../core/values/drive';
import type { Signal } from '../../core/values/signals/signal';
import type { Job } from '../../engine/pool/engine';
import type { PlayedFrame } from '../../engine/messages/protocol';
import type { LiveFrame, LiveSource } from '../../live/definition';
import { settled } from '../../testing/until';
import { liveShot } from '../bringIn/newLive';
import { asArrived, holdsChosen, NOT_LIVE, signalKey, useLive } from '../state/liveStore';
import { takePicture } from './keepPicture';
import { LiveLoop } from './liveLoop';
import { Pace } from './pace';
import { Readers } from './readers';
import { keptChannels, takeOf } from './recording';
import { SignalRunner } from './signalRunner';

const frameOf = (number: number): LiveFrame => ({
  id: number,
  number,
  at: number * 33,
  raster: { width: 4, height: 2, channels: 4, data: new Uint8Array(32) },
  nearness: null,
  channels: {},
});

/** A loop whose pictures are finished by hand. */
function loopOf(hands: number) {
  const making: {
    readonly frame: LiveFrame;
    readonly finish: (made: PlayedFrame | null) => void;
    readonly fail: (error: Error) => void;
    stopped: boolean;
  }[] = [];
  const shown: number[] = [];
  const freed: number[] = [];
  const failed: unknown[] = [];
  const loop = new LiveLoop({
    hands: () => hands,
    make: (frame): Job<PlayedFrame> => {
      let [finish, fail] = [(_: PlayedFrame | null): void => undefined, (_: Error): void => undefined];
      const done = new Promise<PlayedFrame | null>((a, b) => ([finish, fail] = [a, b]));
      const one = { frame, finish, fail, stopped: false };
      making.push(one);
      return { done, cancel: () => (one.stopped = true) };
    },
    show: ({ number }) => void shown.push(number),
    free: ({ number }) => void freed.push(number),
    failed: (error) => void failed.push(error),
  });
  const finish = async (number: number, made: PlayedFrame | null = {}): Promise<void> => {
    making.find((m) => m.frame.number === number)!.finish(made);
    await settled();
  };
  return { loop, making, shown, freed, failed, finish };
}

describe('pictures as they arrive', () => {
  test('at most so many are worked on, one waits, and a newer one takes its place', async () => {
    const { loop, making, freed, finish, shown } = loopOf(2);
    for (let k = 0; k < 6; k++) loop.take(frameOf(k));
    expect(making.map((m) => m.frame.number)).toEqual([0, 1]);
    expect([freed, loop.overtaken]).toEqual([[2, 3, 4], 3]);
    await finish(0);
    expect(making.map((m) => m.frame.number)).toEqual([0, 1, 5]);
    expect(shown).toEqual([0]);
  });

  test('none is shown after a newer one, and the one that is shown stays until another is', async () => {
    const { loop, shown, freed, finish } = loopOf(2);
    loop.take(frameOf(0));
    loop.take(frameOf(1));
    await finish(1);
    await finish(0);
    expect([shown, freed, loop.shown?.number]).toEqual([[1], [0], 1]);
    loop.take(frameOf(2));
    await finish(2);
    expect([shown, freed]).toEqual([
      [1, 2],
      [0, 1],
    ]);
  });

  test('one that fails is said and let go, and the next goes on', async () => {
    const { loop, making, failed, freed, finish, shown } = loopOf(1);
    loop.take(frameOf(0));
    loop.take(frameOf(1));
    making[0]!.fail(new Error('no'));
    await settled();
    expect([failed.length, freed]).toEqual([1, [0]]);
    await finish(1);
    expect(shown).toEqual([1]);
  });

  test('when it ends all are stopped and let go, but the one that is shown', async () => {
    const { loop, making, freed, finish, shown } = loopOf(1);
    loop.take(frameOf(0));
    await finish(0);
    loop.take(frameOf(1));
    loop.take(frameOf(2));
    loop.close();
    expect(making[1]!.stopped).toBe(true);
    await finish(1);
    loop.take(frameOf(3));
    expect([shown, [...freed].sort(), loop.shown?.number]).toEqual([[0], [1, 2, 3], 0]);
  });
});

test('a picture is freed when the last of its readers is done', () => {
  const freed: number[] = [];
  const readers = new Readers(({ number }) => void freed.push(number));
  const frame = frameOf(7);
  readers.take(frame);
  readers.read(frame);
  readers.free(frame);
  expect(freed).toEqual([]);
  readers.free(frame);
  expect(freed).toEqual([7]);
});

describe('the pace', () => {
  /** A pace whose pictures come at a rate and take so long, for a while. */
  function run(pace: Pace, clock: { now: number }, { rate = 30, took = 10, seconds = 3, pixels = 1e5, hands = 2 }) {
    let share = 1;
    for (let k = 0; k < rate * seconds; k++) {
      clock.now += 1000 / rate;
      pace.arrive(k, clock.now);
      share = pace.shareFor(pixels, hands);
      pace.show(took, took * share * share, pixels * share * share);
    }
    return share;
  }

  test('a machine that keeps up shows pictures whole, one that does not makes them smaller, as small as they must be', () => {
    const clock = { now: 0 };
    const pace = new Pace(() => clock.now);
    expect(run(pace, clock, { took: 20 })).toBe(1);
    // 100 ms a whole picture, of two workers at 30 a second: 66 ms are there
    const share = run(pace, clock, { took: 100 });
    expect(share).toBeLessThanOrEqual(Math.sqrt(0.66));
    expect(share).toBeGreaterThanOrEqual(0.625);
    expect(run(pace, clock, { took: 20, seconds: 6 })).toBe(1);
    expect(run(pace, clock, { took: 5000 })).toBe(0.375);
  });

  test('what never arrived is counted, and rates are told', () => {
    const clock = { now: 0 };
    const pace = new Pace(() => clock.now);
    for (const number of [5, 6, 9, 10, 20]) {
      clock.now += 100;
      pace.arrive(number, clock.now);
    }
    expect(pace.figures(3, null)).toMatchObject({ lost: 11, overtaken: 3, rate: 5, shown: 0, age: 0 });
    clock.now += 5000;
    expect(pace.figures(3, null).rate).toBe(0);
  });

  test('how old nine of ten were is told of the last second alone', () => {
    const clock = { now: 0 };
    const pace = new Pace(() => clock.now);
    pace.show(900, 1, 1);
    clock.now = 1500;
    for (let k = 1; k <= 10; k++) pace.show(10 * k, 1, 1);
    expect(pace.figures(0, null).oldest).toBe(90);
    clock.now = 3000;
    expect(pace.figures(0, null)).toMatchObject({ oldest: 0, shown: 0 });
  });

  test('the source’s own rate is told by its numbers and times, whatever is lost, and is one of those in use where it is near', () => {
    const pace = new Pace(() => 0);
    for (const number of [0, 1, 4, 9, 30]) pace.arrive(number, 1000 + (number * 1000) / 30);
    expect(pace.ownRate).toBe(30);
    // a source that begins anew counts from the beginning
    for (const number of [0, 1, 2]) pace.arrive(number, 9000 + number * 80);
    expect(Math.round(pace.ownRate)).toBe(13);
  });
});

test('windows on show keep another shot while the source is gone, and take what comes as soon as it is back', () => {
  const { set } = useLive.getState();
  set({ ...NOT_LIVE, is: 'running', shows: 'Dunes' });
  expect(holdsChosen()).toBe(false);
  set({ is: 'gone' });
  expect(holdsChosen()).toBe(true);
  set({ is: 'waiting' });
  expect(holdsChosen()).toBe(false);
  set({ is: 'gone', shows: '' });
  expect(holdsChosen()).toBe(false);
  set(NOT_LIVE);
});

describe('signals as they run', () => {
  const begun = signalDrive.begin({ set: 2, swing: 3, frame: 0, length: 96 });
  const drive = { ...begun, signal: { channels: ['blink'], steps: begun.signal.steps.slice(0, 1) } };
  const settingsWith = (...drives: object[]): Shot['settings'] => {
    const { settings } = newShot({ sha256: 'a'.repeat(64), name: 'p', width: 8, height: 8, bits: 8, hfovFromFile: null });
    settings.effects[0]!.drives = Object.fromEntries(drives.map((d, k) => [`n${k}`, d])) as never;
    return settings;
  };

  test('what channels give is put into the drives of a request, and the document is as it was', () => {
    const runner = new SignalRunner();
    const settings = settingsWith(drive);
    expect(runner.settings(settings)).toEqual(settings);
    runner.hear({ blink: 0.5 }, 1, signalsOf(settings));
    const now = runner.settings(settings);
    expect(driveValue(now.effects[0]!.drives.n0!, 2, 0)).toBe(3.5);
    expect(driveValue(settings.effects[0]!.drives.n0!, 2, 0)).toBe(2);
    expect(runner.values()).toEqual({ [signalKey(drive)]: 3.5 });
  });

  test('the same signal in two places counts once', () => {
    const steps: Signal['steps'] = [
      { kind: 'gate', values: { from: 0.6, to: 1 } },
      { kind: 'count', values: { wraps: 9 } },
    ];
    const counted = { ...drive, signal: { channels: ['blink'], steps } };
    const runner = new SignalRunner();
    const settings = settingsWith(counted, counted);
    for (const [k, blink] of [0, 0.9, 0, 0.9, 0].entries()) runner.hear({ blink }, k, signalsOf(settings));
    expect(runner.now(counted)).toBe(2);
  });
});

describe('a live shot', () => {
  const source: LiveSource = {
    kind: 'simulated',
    label: 'Simulated camera',
    help: '',
    params: {},
    ends: { near: 1.2, far: 60 },
    hfovDegrees: 60,
    size: { width: 4, height: 2 },
    channels: [],
    open: () => ({ set: () => undefined, free: () => undefined, close: () => undefined }),
  };
  const nearness = { width: 4, height: 2, data: new Float32Array(8) };
  const shot = liveShot(source, { rate: 30 }, { ...frameOf(0), nearness }, 'a'.repeat(64));

  test('has the depth that comes with its picture, between the ends of its source; one without depth is estimated', () => {
    expect(shot.settings.layers.map((l) => [l.kind, l.media?.sha256])).toEqual([['imported', 'a'.repeat(64)]]);
    expect(shot.settings.calibration).toMatchObject({ near: 1.2, far: 60, scaled: true });
    expect(liveShot(source, {}, frameOf(0), 'a'.repeat(64)).settings.layers.map((l) => l.kind)).toEqual(['estimate']);
    expect(liveShot(source, {}, { ...frameOf(0), nearness, ends: { near: 2, far: 9 } }, 'a'.repeat(64)).settings.calibration).toMatchObject({
      near: 2,
      far: 9,
    });
  });

  test('is of each picture that arrives in turn, its layers of the plate too, whatever its size', () => {
    const arrived = asArrived(shot, { key: 'live1-7', width: 20, height: 10 });
    expect([arrived.plate.sha256, arrived.plate.width, arrived.settings.layers[0]!.media]).toMatchObject([
      'live1-7',
      20,
      { sha256: 'live1-7', width: 20, height: 10 },
    ]);
    expect(shot.plate.sha256).toBe('a'.repeat(64));
  });

  test('keeps a picture as its file, in its takes as well', () => {
    const kept = structuredClone(shot);
    kept.takes = [{ id: 't', name: 'T', settings: structuredClone(kept.settings) }];
    takePicture(kept, 'b'.repeat(64), { width: 6, height: 3 });
    expect([kept.plate, kept.settings.layers[0]!.media, kept.takes[0]!.settings.layers[0]!.media]).toMatchObject(
      new Array(3).fill({ sha256: 'b'.repeat(64), width: 6, height: 3 }),
    );
  });

  test('keeps of what was recorded the channels that drive something, and others as long as there is room', () => {
    const driven = structuredClone(shot);
    driven.settings.effects[0]!.drives = { focus: { kind: 'signal', signal: { channels: ['z'], steps: [] } } };
    const channels = { a: [1, 2, 3], b: [1, 2, 3], z: [1, 2, 3] };
    expect(Object.keys(keptChannels(channels, driven, 6))).toEqual(['z', 'a']);
    expect(Object.keys(keptChannels(channels, driven, 1))).toEqual(['z']);
    expect(Object.keys(keptChannels(channels, driven)).sort()).toEqual(['a', 'b', 'z']);
  });

  test('that was recorded is a clip set as it was, whose depth is in the same file', () => {
    const taken = takeOf(shot, { width: 4, height: 2, channels: { blink: [0, 1] } }, { hash: 'c'.repeat(64), name: 'Take', file: 'Take.zip' });
    expect(taken.plate.live).toBeUndefined();
    expect(taken.plate).toMatchObject({ sha256: 'c'.repeat(64), name: 'Take.zip', opaque: true, recorded: { blink: [0, 1] } });
    expect(taken.settings.layers[0]!.media).toMatchObject({ sha256: 'c'.repeat(64) });
    expect(taken.settings.calibration).toEqual(shot.settings.calibration);
    expect(taken.id).not.toBe(shot.id);
  });
});
