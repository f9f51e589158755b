import { beforeEach, expect, jest, test } from '@jest/globals';
import { newShot } from '../../core/document/defaults';
import type { Shot } from '../../core/document/schema';
import type { ViewSpec, PlayedFrame } from '../../engine/messages/protocol';
import { settled, until } from '../../testing/until';

/** The engine as the player sees it: one run of frames at a time, whose next frame is made when the test says so. */
interface FramesRun {
  make(): number | null;
  readonly urgent: boolean;
  stopped: boolean;
  /** its last frame is made */
  end(): void;
}
const runs: FramesRun[] = [];
let closed = 0;
const views: ViewSpec[] = [];
const fakeEngine = {
  frames: (wanted: () => { frame: number; view: ViewSpec } | null, onFrame: (frame: number, made: PlayedFrame) => void, urgent: boolean) => {
    const run: FramesRun = {
      urgent,
      stopped: false,
      end: () => undefined,
      make: () => {
        const next = run.stopped ? null : wanted();
        if (next) views.push(next.view);
        if (next) onFrame(next.frame, Object.fromEntries(next.view.parts.map((part) => [part, { close: () => void closed++ } as ImageBitmap])));
        return next?.frame ?? null;
      },
    };
    runs.push(run);
    return { done: new Promise<null>((done) => void (run.end = () => done(null))), cancel: () => void (run.stopped = true) };
  },
};
jest.unstable_mockModule('../../engine/pool/engine', () => ({ engine: () => fakeEngine }));
const { Player } = await import('./player');

const plate = { sha256: 'c'.repeat(64), name: 'walk.mp4', width: 320, height: 180, bits: 8, hfovFromFile: null, clip: { frames: 6, fps: 24 } };
const size = { width: 32, height: 18 };
const clipShot = (): Shot => {
  const shot = newShot(plate);
  shot.settings.time = { ...shot.settings.time, length: 6, fps: 24 };
  return shot;
};

beforeEach(() => {
  runs.length = 0;
  views.length = 0;
});

test('frames are made ahead once nothing has changed for a while', async () => {
  const player = new Player(() => 2, 0);
  player.update(clipShot(), {}, size);
  await until(() => runs.length === 1);
  expect([0, 1, 2].map(() => runs[0]!.make())).toEqual([2, 3, 4]);
  expect(player.store.getState()).toMatchObject({ ready: 3, of: 6 });
});

test('none are made while the whole clip is worked on, and they go on after it', async () => {
  const player = new Player(() => 0, 0);
  player.wait(true);
  player.update(clipShot(), {}, size);
  await settled();
  expect(runs).toHaveLength(0);
  player.wait(false);
  await until(() => runs.length === 1);
  runs[0]!.make();
  // what is being made is broken off, what is finished stays
  player.wait(true);
  expect(runs[0]!.stopped).toBe(true);
  expect(player.has(0)).toBe(true);
  player.wait(false);
  await until(() => runs.length === 2);
  expect(runs[1]!.make()).toBe(1);
});

test('all frames of a shot fit, whatever their size: none is made again and again', async () => {
  const shot = clipShot();
  shot.settings.time = { ...shot.settings.time, length: 96 };
  shot.plate.clip!.frames = 96;
  // 96 frames of these would be more than may be kept: they are made smaller
  const player = new Player(() => 50, 0, 96);
  player.update(shot, {}, { width: 820, height: 461 });
  await until(() => runs.length === 1);
  for (let k = 0; k < 96; k++) expect(runs[0]!.make()).toBe((50 + k) % 96);
  expect(runs[0]!.make()).toBeNull();
  expect(player.store.getState()).toMatchObject({ ready: 96, of: 96 });
});

test('the next frames are made soon, the others once nothing has changed for longer; whoever plays gets all at once', async () => {
  jest.useFakeTimers();
  try {
    const player = new Player(() => 1, 500, 2);
    player.update(clipShot(), {}, size);
    await jest.advanceTimersByTimeAsync(500);
    expect([0, 1, 2].map(() => runs[0]!.make())).toEqual([1, 2, null]);
    runs[0]!.end();
    await jest.advanceTimersByTimeAsync(3900);
    expect(runs).toHaveLength(1);
    await jest.advanceTimersByTimeAsync(200);
    expect([0, 1, 2, 3, 4].map(() => runs[1]!.make())).toEqual([3, 4, 5, 0, null]);
    const other = new Player(() => 1, 500, 2);
    other.update(clipShot(), {}, size);
    other.hurry();
    expect([0, 1, 2].map(() => runs[2]!.make())).toEqual([1, 2, 3]);
  } finally {
    jest.useRealTimers();
  }
});

test('frames are made as they are looked at; what was made of another view is let go', async () => {
  const player = new Player(() => 0, 0);
  const shot = clipShot();
  player.update(shot, {}, size);
  await until(() => runs.length === 1);
  runs[0]!.make();
  expect(Object.keys(player.at(0)!)).toEqual(['picture']);
  closed = 0;
  const overlay: ViewSpec = { parts: ['picture', 'depth'], colours: 'distance', hues: null };
  player.update(shot, {}, size, 0, overlay);
  expect([closed, player.at(0)]).toEqual([1, null]);
  await until(() => runs.length === 2);
  runs[1]!.make();
  expect(Object.keys(player.at(0)!)).toEqual(['picture', 'depth']);
  // once it is known how hues lie, they lie so over all frames
  const hues = (name: string) => ({ ...overlay, hues: { name } as unknown as ViewSpec['hues'] });
  player.update(shot, {}, size, 0, hues('first'));
  expect(player.has(0)).toBe(false);
  await until(() => runs.length === 3);
  runs[2]!.make();
  player.update(shot, {}, size, 0, hues('later'));
  expect(player.has(0)).toBe(true);
  runs[2]!.make();
  expect(views.map((look) => look.hues)).toEqual([null, null, ...[1, 2].map(() => ({ name: 'first' }))]);
});

test('whoever waits for frames gets them meanwhile', async () => {
  const player = new Player(() => 0, 0);
  player.wait(true);
  player.update(clipShot(), {}, size);
  player.hurry();
  expect(runs.map((run) => run.urgent)).toEqual([true]);
  // work that begins does not take them away
  player.wait(false);
  player.wait(true);
  expect(runs[0]!.stopped).toBe(false);
  await settled();
  expect(runs).toHaveLength(1);
});
