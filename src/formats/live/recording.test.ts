import { describe, expect, test } from '@jest/globals';
import { decode } from 'fast-png';
import { seededRandom } from '../../core/random';
import { quickPng } from '../png/quickPng';
import { applyDelta, deltaOf } from './delta';

const random = seededRandom(4);
const noise = (length: number): Uint8Array => Uint8Array.from({ length }, () => 256 * random());

describe('frames as what differs from the one before', () => {
  test('come back as they were, whatever differs', () => {
    const frames = [noise(400), noise(400), new Uint8Array(400), noise(400)];
    frames.push(
      Uint8Array.from(frames[3]!, (v, i) => (i > 100 && i < 140 ? v ^ 9 : v)),
      frames[3]!,
    );
    let before: Uint8Array | null = null;
    const made = new Uint8Array(400);
    for (const frame of frames) {
      applyDelta(made, deltaOf(before, frame));
      expect([...made]).toEqual([...frame]);
      before = frame;
    }
  });

  test('take as much as what moved', () => {
    const still = noise(40000);
    const moved = Uint8Array.from(still);
    moved.fill(7, 1000, 1400);
    expect(deltaOf(still, moved).length).toBeLessThan(500);
    expect(deltaOf(still, still).length).toBeLessThanOrEqual(8);
    expect(deltaOf(null, still).length).toBeLessThan(1.01 * still.length + 16);
  });

  test('that are damaged are refused, and write nothing beyond the frame', () => {
    const delta = deltaOf(null, noise(400));
    for (const cut of [5, 44, 90]) expect(() => applyDelta(new Uint8Array(400), delta.subarray(0, cut * 4))).toThrow('damaged');
    for (let k = 0; k < 300; k++) {
      const frame = new Uint8Array(400);
      try {
        applyDelta(frame, noise(4 * Math.ceil(20 * random())));
      } catch (error) {
        expect((error as Error).message).toBe('A recording is damaged.');
      }
    }
  });
});

test('a quick PNG holds colour and alpha as they are', async () => {
  const data = noise(4 * 31 * 17);
  const blob = await quickPng({ width: 31, height: 17, data });
  const read = decode(new Uint8Array(await blob.arrayBuffer()), { checkCrc: true });
  expect([read.width, read.height, read.channels, read.depth]).toEqual([31, 17, 4, 8]);
  expect([...read.data]).toEqual([...data]);
});
