import { describe, expect, test } from '@jest/globals';
import { frameAt, needKey, pictureNeed } from '../core/need/need';
import { mapFrameAt } from '../core/motion/clipSpec';
import { turned } from './clip';
import { clipKind } from './clipKind';
import { placed, timesOf } from './frameTimes';
import { findSequence, numberedAs } from './sequenceNames';

const bytes = (text: string): Uint8Array => Uint8Array.from(text, (c) => c.charCodeAt(0));

test('what a file is, is told by its first bytes', () => {
  expect(clipKind(bytes('\0\0\0\x18ftypisom'))).toBe('container');
  expect(clipKind(bytes('\0\0\0\x18ftypqt  '))).toBe('container');
  expect(clipKind(bytes('\0\0\0\x18ftypavif'))).toBeNull();
  expect(clipKind(bytes('\0\0\0\x18ftypavis'))).toBe('animation');
  expect(clipKind(bytes('\x1a\x45\xdf\xa3'))).toBe('container');
  expect(clipKind(bytes('GIF89a'))).toBe('animation');
  expect(clipKind(bytes('RIFF\0\0\0\0WEBPVP8X\0\0\0\0\x02'))).toBe('animation');
  expect(clipKind(bytes('RIFF\0\0\0\0WEBPVP8X\0\0\0\0\x10'))).toBeNull();
  expect(clipKind(bytes('\x89PNG\r\n\x1a\n....IHDR....acTL'))).toBe('animation');
  expect(clipKind(bytes('\x89PNG\r\n\x1a\n....IHDR'))).toBeNull();
  expect(clipKind(bytes('PK\x03\x04'))).toBe('pictures');
  expect(clipKind(new Uint8Array(0))).toBeNull();
});

describe('sequences', () => {
  test('are in the order of their numbers, strangers and gaps told', () => {
    const found = findSequence(['b_10.png', 'b_9.png', 'notes.txt', '.hidden_3.png', 'b_12.png', 'other_1.jpg'])!;
    expect(found.names).toEqual(['b_9.png', 'b_10.png', 'b_12.png']);
    expect(found.strangers).toEqual(['notes.txt', 'other_1.jpg']);
    expect(found.missing).toEqual([11]);
  });
  test('need two of a name', () => {
    expect(findSequence(['a1.png', 'b2.png', 'c.png'])).toBeNull();
    expect(numberedAs('takes/walk_v2.0998.png')).toEqual({ stem: 'walk_v2.', first: 998, digits: 4 });
    expect(findSequence([])).toBeNull();
  });
});

test('pixels turn by quarters, clockwise', () => {
  const data = Uint8Array.of(1, 2, 3, 4, 5, 6);
  const raster = { width: 3, height: 2, channels: 1 as const, data };
  expect(turned(raster, 1)).toEqual({ width: 2, height: 3, channels: 1, data: Uint8Array.of(4, 1, 5, 2, 6, 3) });
  expect(turned(raster, 2)).toEqual({ width: 3, height: 2, channels: 1, data: Uint8Array.of(6, 5, 4, 3, 2, 1) });
  expect(turned(raster, 3)).toEqual({ width: 2, height: 3, channels: 1, data: Uint8Array.of(3, 6, 2, 5, 1, 4) });
  expect(turned(raster, 4).data).toEqual(data);
});

describe('frames by time', () => {
  const clip = (frames: number, fps: number, beyond?: 'hold' | 'loop') => ({
    sha256: 'c',
    name: 'clip.mp4',
    width: 8,
    height: 8,
    clip: { frames, fps, ...(beyond && { beyond }) },
  });
  test('each frame of a shot at a clip’s own rate is that of the clip', () => {
    for (const fps of [23.976, 24, 25, 29.97, 59.94, 12.345])
      for (let frame = 0; frame < 3000; frame += 7) if (frameAt(clip(3000, fps), { frame, fps }) !== frame) throw new Error(`${fps}: frame ${frame}`);
  });
  test('at half the rate each stands for two; beyond the end it is held, or begins again', () => {
    const at = (frame: number, beyond?: 'loop') => frameAt(clip(10, 12, beyond), { frame, fps: 24 });
    expect([0, 1, 2, 3, 18, 19, 20, 95].map((f) => at(f))).toEqual([0, 0, 1, 1, 9, 9, 9, 9]);
    expect([19, 20, 22, 45].map((f) => at(f, 'loop'))).toEqual([9, 0, 1, 2]);
    expect(frameAt({}, { frame: 9, fps: 24 })).toBe(0);
  });
  test('a clip of maps is matched by time, and moved', () => {
    const plate = clip(96, 24);
    expect(mapFrameAt(clip(48, 12), 0, plate, 41)).toBe(20);
    expect(mapFrameAt(clip(96, 24), 10, plate, 30)).toBe(20);
    expect(mapFrameAt(clip(96, 24), 10, plate, 3)).toBe(0);
  });
  test('frames have addresses of their own; a still and a first frame have that of their file', () => {
    expect(needKey(pictureNeed(clip(9, 24), { frame: 4, fps: 24 }))).toBe('c@4');
    expect(needKey(pictureNeed(clip(9, 24), { frame: 0, fps: 24 }))).toBe('c');
  });
});

test('frames of a clip that runs unevenly keep their times in a range of it', () => {
  const times = [0, 0.04, 0.1, 0.5, 0.52];
  const found = timesOf(times, { from: 1, to: 3 })!;
  expect(found.begins).toBe(0.04);
  found.shown.forEach((t, k) => expect(t).toBeCloseTo([0, 0.06, 0.46, 0.48][k]!, 9));
  // after the last frame of all comes what the others last on the mean
  expect(timesOf(times, { from: 4, to: 4 })!.shown).toEqual([0, expect.closeTo(0.13, 9)]);
  expect(timesOf(times, { from: 0, to: 5 })).toBeUndefined();
  expect(timesOf(undefined, { from: 0, to: 1 })).toBeUndefined();
  // packets come at even times, in the order in which they are decoded
  const packet = placed(2 / 24, 1 / 24, 24, found.shown);
  expect([packet.timestamp, packet.duration]).toEqual([expect.closeTo(0.46, 9), expect.closeTo(0.02, 9)]);
  expect(placed(2 / 24, 1 / 24, 24)).toEqual({ timestamp: 2 / 24, duration: 1 / 24 });
});
