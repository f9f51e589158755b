import { beforeEach, expect, jest, test } from '@jest/globals';
import type { Chosen, Shot } from '../../core/document/schema';
import type { ShotRequest } from '../../core/shot/stage';
import type { PlayedFrame } from '../../engine/messages/protocol';
import { settled } from '../../testing/until';

/** Pictures that are being made, finished by hand, and those that were closed. */
const making: ((made: PlayedFrame) => void)[] = [];
const closed: string[] = [];
const asked: ShotRequest[] = [];
const pictureOf = (name: string): PlayedFrame => ({ picture: { width: 1, height: 1, close: () => void closed.push(name) } });
jest.unstable_mockModule('../../engine/pool/engine', () => ({
  engine: () => ({
    frame: (request: ShotRequest) => {
      asked.push(request);
      return { done: new Promise<PlayedFrame>((done) => making.push(done)), cancel: () => undefined };
    },
  }),
}));
/** Shots that are brought to the workers; each is ready when it is said to be. */
const brought: { readonly shot: Shot; readonly other: { ready: boolean; closed: boolean }; arrive(): void }[] = [];
jest.unstable_mockModule('./otherShot', () => ({
  OtherShot: class {
    given = {};
    ready = false;
    closed = false;
    constructor(_: string, shot: Shot, onReady: () => void) {
      const arrive = (): void => {
        this.ready = true;
        onReady();
      };
      brought.push({ shot, other: this, arrive });
    }
    close(): void {
      this.closed = true;
    }
  },
}));
const { newMove, newShot } = await import('../../core/document/defaults');
const { ANY_PLATE } = await import('../../testing/anySettings');
const { Chooser, nameOf } = await import('./chooser');
const { freeMade, showLive } = await import('../state/liveStore');

const live = { ...newShot(ANY_PLATE), name: 'Live' };
const dunes = { ...newShot({ ...ANY_PLATE, sha256: 'd'.repeat(64) }), name: 'Dunes' };
const chosen: Chosen = {
  among: [
    { shot: null, take: null },
    { shot: dunes.id, take: null },
  ],
  signal: { channels: ['blink'], steps: [] },
};
const view = { parts: ['picture'], colours: 'grey', hues: null } as never;

function chooserOf(shots: readonly Shot[] = [live, dunes]) {
  const size = { width: 64, height: 36 };
  const chooser = new Chooser({
    live: () => live,
    shots: () => shots,
    size: () => size,
    view: () => view,
    heard: (settings) => settings,
    share: () => 0.5,
  });
  chooser.set(chosen);
  return { chooser, size };
}

beforeEach(() => {
  showLive(null);
  for (const list of [making, closed, brought, asked]) list.length = 0;
});

test('another shot is shown once it is ready, made ahead, and since the moment it was chosen', () => {
  const { chooser } = chooserOf();
  expect(chooser.now(() => 1, 3)).toBeNull();
  expect(asked).toEqual([]);
  brought[0]!.arrive();
  expect(asked.map((r) => r.plate.sha256)).toEqual([dunes.plate.sha256]);
  expect(chooser.now(() => 1, 4)).toMatchObject({ shot: dunes, own: false, place: 1, since: 3 });
  expect(chooser.now(() => 0, 5)).toMatchObject({ shot: live, own: true, place: 0, since: 5 });
  expect(chooser.now(() => null, 6)).toMatchObject({ place: 0, since: 5 });
  expect(chooser.now(() => 1, 7)).toMatchObject({ place: 1, since: 7 });
});

test('the picture of a shot that rests is made once, whatever the time, and stays while others are shown', async () => {
  const { chooser } = chooserOf();
  brought[0]!.arrive();
  making[0]!(pictureOf('dunes'));
  await settled();
  const now = chooser.now(() => 1, 2)!;
  expect(nameOf(now)).toBe('Dunes');
  const made = (await chooser.make(now, 5.3).job.done)!;
  expect(await chooser.make(now, 9.9).job.done).toBe(made);
  expect(making).toHaveLength(1);
  showLive(made);
  showLive(pictureOf('live'));
  freeMade(made);
  expect(closed).toEqual([]);
  showLive(made);
  expect(closed).toEqual(['live']);
});

test('one that is seen at another size is made anew, and the old one goes when it is not on screen any more', async () => {
  const { chooser, size } = chooserOf();
  brought[0]!.arrive();
  const now = chooser.now(() => 1, 0)!;
  making[0]!(pictureOf('first'));
  await settled();
  showLive(await chooser.make(now, 0).job.done);
  size.width = 128;
  const next = chooser.make(now, 0);
  making[1]!(pictureOf('second'));
  const second = await next.job.done;
  expect(closed).toEqual([]);
  showLive(second);
  expect(closed).toEqual(['first']);
});

test('what moves goes by its own time since it is shown, round and round, as small as the machine wants it', () => {
  const moving = { ...dunes, settings: { ...dunes.settings, camera: { ...dunes.settings.camera, moves: [newMove('push-in')] } } };
  moving.settings.time = { length: 48, fps: 24, from: 12, to: 35 };
  const { chooser } = chooserOf([live, moving]);
  brought[0]!.arrive();
  expect(asked).toEqual([]);
  const now = chooser.now(() => 1, 10)!;
  const made = [10, 10.5, 11.25].map((seconds) => chooser.make(now, seconds));
  expect(asked.map((r) => [r.at.frame, r.size])).toEqual([12, 24, 18].map((frame) => [frame, { width: 32, height: 18 }]));
  expect(made.map((m) => m.pixels)).toEqual([576, 576, 576]);
});

test('a signal that is set otherwise leaves what is there; another list begins anew', async () => {
  const { chooser } = chooserOf();
  brought[0]!.arrive();
  making[0]!(pictureOf('dunes'));
  await settled();
  const made = await chooser.make(
    chooser.now(() => 1, 2)!,
    2,
  ).job.done;
  chooser.set({ ...chosen, signal: { channels: ['mouth'], steps: [] } });
  expect(chooser.now(() => 1, 3)).toMatchObject({ since: 2 });
  expect(
    await chooser.make(
      chooser.now(() => 1, 3)!,
      3,
    ).job.done,
  ).toBe(made);
  expect(chooser.drives()[0]!.signal.channels).toEqual(['mouth']);
  expect(making).toHaveLength(1);
  chooser.set({ ...chosen, among: [...chosen.among].reverse() });
  expect(closed).toEqual(['dunes']);
  expect(chooser.now(() => 1, 4)).toMatchObject({ own: true, since: 4 });
});

test('what is taken out of the list is let go of, and what is still being made for it is not kept', async () => {
  const { chooser } = chooserOf();
  brought[0]!.arrive();
  const { job } = chooser.make(
    chooser.now(() => 1, 0)!,
    0,
  );
  chooser.set({ ...chosen, among: [chosen.among[0]!] });
  expect(brought[0]!.other.closed).toBe(true);
  making.at(-1)!(pictureOf('late'));
  const late = (await job.done)!;
  await settled();
  freeMade(late);
  expect(closed).toEqual(['late']);
  expect(chooser.drives()).toHaveLength(1);
  chooser.close();
  expect(chooser.drives()).toEqual([]);
  expect(chooser.now(() => 1, 9)).toBeNull();
});
