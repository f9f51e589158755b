import { beforeEach, expect, jest, test } from '@jest/globals';
import type { Chosen, Shot } from '../../core/document/schema';
import type { PlayedFrame } from '../../engine/messages/protocol';
import { settled } from '../../testing/until';

/** Pictures that are being made, finished by hand, and those that were closed. */
const making: ((made: PlayedFrame) => void)[] = [];
const closed: string[] = [];
const pictureOf = (name: string): PlayedFrame => ({ picture: { width: 1, height: 1, close: () => void closed.push(name) } });
jest.unstable_mockModule('../../engine/pool/engine', () => ({
  engine: () => ({
    frame: () => ({ done: new Promise<PlayedFrame>((done) => making.push(done)), cancel: () => undefined }),
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
const { newShot } = await import('../../core/document/defaults');
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
const request = { at: 1 } as never;

function chooserOf() {
  const ready: string[] = [];
  const chooser = new Chooser({ live: () => live, shots: () => [live, dunes], ready: (now) => void ready.push(nameOf(now)) });
  chooser.set(chosen);
  return { chooser, ready };
}

beforeEach(() => {
  showLive(null);
  for (const list of [making, closed, brought]) list.length = 0;
});

test('another shot is shown once it is ready, made ahead, and since the moment it was chosen', () => {
  const { chooser, ready } = chooserOf();
  expect(chooser.now(() => 1, 3)).toBeNull();
  expect(ready).toEqual([]);
  brought[0]!.arrive();
  expect(ready).toEqual(['Dunes']);
  expect(chooser.now(() => 1, 4)).toMatchObject({ shot: dunes, own: false, place: 1, since: 3 });
  expect(chooser.now(() => 0, 5)).toMatchObject({ shot: live, own: true, place: 0, since: 5 });
  expect(chooser.now(() => null, 6)).toMatchObject({ place: 0, since: 5 });
  expect(chooser.now(() => 1, 7)).toMatchObject({ place: 1, since: 7 });
});

test('the picture of a shot that rests is made once and stays while others are shown', async () => {
  const { chooser } = chooserOf();
  brought[0]!.arrive();
  const now = chooser.now(() => 1, 0)!;
  const first = chooser.make(now, request, view);
  making[0]!(pictureOf('dunes'));
  const made = (await first.done)!;
  const again = await chooser.make(now, request, view).done;
  expect(again).toBe(made);
  expect(making).toHaveLength(1);
  showLive(made);
  showLive(pictureOf('live'));
  freeMade(made);
  expect(closed).toEqual([]);
  showLive(made);
  expect(closed).toEqual(['live']);
});

test('one that is seen otherwise is made anew, and the old one goes when it is not on screen any more', async () => {
  const { chooser } = chooserOf();
  brought[0]!.arrive();
  const now = chooser.now(() => 1, 0)!;
  const jobs = [chooser.make(now, request, view), chooser.make(now, { at: 2 } as never, view)];
  making[0]!(pictureOf('first'));
  showLive(await jobs[0]!.done);
  making[1]!(pictureOf('second'));
  const second = await jobs[1]!.done;
  expect(closed).toEqual([]);
  showLive(second);
  expect(closed).toEqual(['first']);
});

test('what is taken out of the list is let go of, and what is still being made for it is not kept', async () => {
  const { chooser } = chooserOf();
  brought[0]!.arrive();
  const job = chooser.make(
    chooser.now(() => 1, 0)!,
    request,
    view,
  );
  chooser.set({ ...chosen, among: [chosen.among[0]!] });
  expect(brought[0]!.other.closed).toBe(true);
  making[0]!(pictureOf('late'));
  const late = (await job.done)!;
  await settled();
  freeMade(late);
  expect(closed).toEqual(['late']);
  expect(chooser.drives()).toHaveLength(1);
  chooser.close();
  expect(chooser.drives()).toEqual([]);
  expect(chooser.now(() => 1, 9)).toBeNull();
});
