import type { Half } from '../core/need/fileRef';
import { describe, expect, test } from '@jest/globals';
import { addressOfFile, clipFrameOf, needKey } from '../core/need/need';
import { seededRandom } from '../core/random';
import type { Raster } from '../core/picture';
import type { ClipReader } from './clip';
import { halfChannel, halfNamed, halfOf, halved, mapIn, splitOf } from './halves';

const [W, H] = [160, 90];
const frame = (width: number, height: number, at: (x: number, y: number) => readonly [number, number, number]): Raster => {
  const data = new Uint8Array(width * height * 3);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) data.set(at(x, y), (y * width + x) * 3);
  return { width, height, channels: 3, data };
};
/** A coloured scene of a disc before a wall, and how near its places are. */
const near = (x: number, y: number): boolean => Math.hypot(x - 70, y - 45) < 28;
const scene = (x: number, y: number): readonly [number, number, number] => (near(x, y) ? [200, 90, 60] : [60, 90 + (y >> 1), 140]);
const depth = (x: number, y: number): readonly [number, number, number] => {
  const v = near(x, y) ? 210 : 60 + (y >> 2);
  return [v, v, v];
};

describe('a frame that is a picture and its depth', () => {
  test('is told, whichever way they lie', () => {
    expect(splitOf(frame(2 * W, H, (x, y) => (x < W ? scene(x, y) : depth(x - W, y))))).toEqual({ picture: 'left', depth: 'right' });
    expect(splitOf(frame(2 * W, H, (x, y) => (x < W ? depth(x, y) : scene(x - W, y))))).toEqual({ picture: 'right', depth: 'left' });
    expect(splitOf(frame(W, 2 * H, (x, y) => (y < H ? scene(x, y) : depth(x, y - H))))).toEqual({ picture: 'upper', depth: 'lower' });
    expect(splitOf(frame(W, 2 * H, (x, y) => (y < H ? depth(x, y) : scene(x, y - H))))).toEqual({ picture: 'lower', depth: 'upper' });
  });

  test('is not seen in one picture, two eyes, a grey one, or a grey half of another thing', () => {
    const random = seededRandom(4);
    expect(splitOf(frame(W, H, scene))).toBeNull();
    expect(splitOf(frame(2 * W, H, (x, y) => scene(x % W, y)))).toBeNull();
    expect(splitOf(frame(2 * W, H, (x, y) => depth(x % W, y)))).toBeNull();
    const noise = (): readonly [number, number, number] => {
      const v = 255 * random();
      return [v, v, v];
    };
    expect(splitOf(frame(2 * W, H, (x, y) => (x < W ? scene(x, y) : noise())))).toBeNull();
    // dark grey ground under a coloured sky has its edges elsewhere
    expect(
      splitOf(frame(W, 2 * H, (x, y) => (y < H ? scene(x, y) : [30 + 20 * ((x >> 4) % 2), 30 + 20 * ((x >> 4) % 2), 30 + 20 * ((x >> 4) % 2)]))),
    ).toBeNull();
  });
});

describe('halves', () => {
  const whole = frame(4, 2, (x, y) => [10 * x, y, 7]);
  test('are cut out exactly', () => {
    const at = (half: Half, i: number): number[] => [...halfOf(whole, half).data.subarray(i * 3, i * 3 + 2)];
    expect([at('left', 0), at('left', 3)]).toEqual([
      [0, 0],
      [10, 1],
    ]);
    expect([at('right', 0), at('right', 3)]).toEqual([
      [20, 0],
      [30, 1],
    ]);
    expect(halfOf(whole, 'lower')).toMatchObject({ width: 4, height: 1 });
    expect(at('lower', 3)).toEqual([30, 1]);
  });

  test('of a clip are read frame by frame, and as maps by their names', async () => {
    const facts = { frames: 3 } as ClipReader['facts'];
    let closed = 0;
    const clip: ClipReader = { facts, frame: () => Promise.resolve(whole), close: () => void closed++ };
    const right = halved(clip, 'right');
    expect(right.facts).toBe(facts);
    expect(right.file).toBeUndefined();
    expect((await right.frame(5)).data[0]).toBe(20);
    right.close();
    expect(closed).toBe(1);
    expect(halved(clip, undefined)).toBe(clip);
    const pair = frame(2 * W, H, (x, y) => (x < W ? scene(x, y) : depth(x - W, y)));
    // a numbered picture has a file of its own; half of it is read from its pixels
    const files = { frame: () => Promise.resolve(pair), file: () => Promise.reject(new Error('the whole file')) };
    const map = await mapIn(files, 0, 'right half', () => Promise.reject(new Error('the whole file')));
    expect(map.facts).toMatchObject({ width: W, height: H, channel: 'right half', channels: ['right half'], colourful: false });
    for (const half of ['left', 'right', 'upper', 'lower'] as const) expect(halfNamed(halfChannel(half))).toBe(half);
    expect(halfNamed('alpha')).toBeNull();
  });

  test('are other pictures than the whole, and than each other', () => {
    const ref = (half?: Half) => ({
      sha256: 'a'.repeat(64),
      name: 'c.mp4',
      width: 2,
      height: 2,
      clip: { frames: 3, fps: 24, ...(half && { half }) },
    });
    const keys = [undefined, 'left' as const, 'right' as const].map((half) => needKey({ is: 'raster', ref: ref(half), frame: clipFrameOf(1) }));
    expect(new Set(keys).size).toBe(3);
    expect(addressOfFile(ref())).toBe('a'.repeat(64));
  });
});
