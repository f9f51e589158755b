import { expect, test } from '@jest/globals';
import type { EncodedPacket, InputVideoTrack, VideoSample } from 'mediabunny';
import { settled, until } from '../testing/until';
import { FrameFeed, type FeedParts } from './frameFeed';

const RATE = 10;
const track = {} as InputVideoTrack;

/** A clip whose packets come as the decoder needs them, with frames shown in another order, and a decoder that holds some back. */
function clipOf(order: readonly number[], held: number, broken = -1) {
  const state = { decoded: 0, most: 0, open: new Set<number>(), closed: false, packetsEnded: false };
  const parts: FeedParts = {
    packets: async () => {
      const list = async function* (): AsyncGenerator<EncodedPacket, void> {
        try {
          for (const k of order) yield { timestamp: k / RATE } as EncodedPacket;
        } finally {
          state.packetsEnded = true;
        }
      };
      return list();
    },
    decoding: async (onFrame, onError) => {
      const waiting: number[] = [];
      let queue = 0;
      const show = (k: number): void => {
        state.open.add(k);
        state.most = Math.max(state.most, state.open.size);
        onFrame({ timestamp: k / RATE, close: () => void state.open.delete(k) } as VideoSample);
      };
      return {
        getDecodeQueueSize: () => queue,
        decode: ({ timestamp }) => {
          queue++;
          setTimeout(() => {
            queue--;
            const k = Math.round(timestamp * RATE);
            if (k === broken) {
              onError(new Error('a packet is broken'));
              return;
            }
            state.decoded++;
            waiting.push(k);
            waiting.sort((a, b) => a - b);
            if (waiting.length > held) show(waiting.shift()!);
          });
        },
        flush: async () => {
          await until(() => queue === 0);
          for (const k of waiting.splice(0)) show(k);
        },
        close: () => void (state.closed = true),
      };
    },
  };
  return { state, parts };
}

/** 0 4 2 1 3 8 6 5 7 …: as a pyramid of frames that look both ways is decoded. */
const pyramid = (frames: number): readonly number[] => {
  const order = [0];
  for (let k = 4; k < frames; k += 4) order.push(k, k - 2, k - 3, k - 1);
  return order;
};

const numberOf = (frame: VideoSample | null): number | null => frame && Math.round(frame.timestamp * RATE);

test('frames come in the order in which they are shown, from the one that is wanted to the last, whatever the decoder holds back', async () => {
  for (const held of [0, 3, 16]) {
    const { state, parts } = clipOf(pyramid(33), Math.max(held, 3));
    const feed = new FrameFeed(track, 0.6, parts);
    const seen: (number | null)[] = [];
    for (let frame = await feed.next(); frame; frame = await feed.next()) {
      seen.push(numberOf(frame));
      frame.close();
    }
    expect(seen).toEqual(Array.from({ length: 27 }, (_, k) => k + 6));
    expect(state.open.size).toBe(0);
    expect(await feed.next()).toBeNull();
  }
});

test('while nothing is asked for the decoder runs a few frames ahead, not through the clip', async () => {
  const { state, parts } = clipOf(
    Array.from({ length: 200 }, (_, k) => k),
    0,
  );
  const feed = new FrameFeed(track, 0, parts);
  for (let k = 0; k < 20; k++) {
    const frame = await feed.next();
    expect(numberOf(frame)).toBe(k);
    // whoever works with a frame takes its time
    for (let i = 0; i < 8; i++) await settled();
    expect(state.open.size).toBeLessThanOrEqual(4);
    frame!.close();
  }
  expect(state.decoded).toBeLessThanOrEqual(24);
  expect(state.decoded).toBeGreaterThan(20);
});

test('what is stopped lets go of its frames, its packets and its decoder, and has no more', async () => {
  const { state, parts } = clipOf(pyramid(33), 3);
  const feed = new FrameFeed(track, 0, parts);
  (await feed.next())!.close();
  feed.stop();
  await until(() => state.open.size === 0 && state.closed);
  expect([state.closed, state.packetsEnded]).toEqual([true, true]);
  expect(await feed.next()).toBeNull();
});

test('a packet that cannot be decoded is told to whoever waits for its frame', async () => {
  const { parts } = clipOf([0, 1, 2, 3, 4, 5, 6, 7, 8, 9], 0, 6);
  const feed = new FrameFeed(track, 0, parts);
  const all = async (): Promise<void> => {
    for (let frame = await feed.next(); frame; frame = await feed.next()) frame.close();
  };
  await expect(all()).rejects.toThrow('a packet is broken');
});
