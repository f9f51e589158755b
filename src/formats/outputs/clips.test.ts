import { expect, test } from '@jest/globals';
import sharp from 'sharp';
import { animateWebp } from '../webp/animatedWebp';
import { bitrateFor, clipBytes, clipOutputs, clipSize, frameName, namedClip, piecesOf, type ClipSpec } from './clips';
import { namedOutput } from './registry';

const spec = (kind: string, from: number, to: number, fps = 24): ClipSpec => ({
  kind,
  values: {},
  width: 640,
  height: 360,
  picture: { width: 640, height: 360 },
  fps,
  from,
  to,
});

test('pieces cover the range once, in order, whatever its length', () => {
  for (const { kind } of clipOutputs)
    for (const [from, to] of [
      [0, 0],
      [5, 100],
      [0, 95],
      [10, 33],
    ] as const) {
      const pieces = piecesOf(spec(kind, from, to));
      expect(pieces[0]!.from).toBe(from);
      expect(pieces[pieces.length - 1]!.to).toBe(to);
      for (const [k, p] of pieces.entries()) if (k > 0) expect(p.from).toBe(pieces[k - 1]!.to + 1);
    }
});

test('what is made file by file names an output that there is', () => {
  for (const { making } of clipOutputs) if (making.by === 'files') expect(namedOutput(making.output).extension).toMatch(/png|jpg|exr|glb|ply/);
  expect(() => namedClip('film')).toThrow(/no output "film"/);
});

test('frames have names that sort by number', () => {
  expect(frameName(7, 95, 'png')).toBe('0007.png');
  expect(frameName(7, 123456, 'exr')).toBe('000007.exr');
  // frames of a sequence keep their names
  expect(frameName(7, 95, 'png', { stem: 'walk_', first: 1001, digits: 4 })).toBe('walk_1008.png');
});

test('sides are even for codecs and as they are for files', () => {
  expect(clipSize('clip-mp4', 1601, 901)).toEqual({ width: 1600, height: 900 });
  expect(clipSize('frames-png', 1601, 901)).toEqual({ width: 1601, height: 901 });
});

test('more quality and more pixels are more bits', () => {
  const size = { width: 1920, height: 1080, fps: 24 };
  expect(bitrateFor(93, size)).toBeCloseTo(2 * bitrateFor(75, size), -2);
  expect(clipBytes({ ...spec('clip-mp4', 0, 95), values: { quality: 93 } })).toBeCloseTo(
    2 * clipBytes({ ...spec('clip-mp4', 0, 95), values: { quality: 75 } }),
    3,
  );
  expect(clipBytes(spec('frames-png', 0, 99))).toBeCloseTo(100 * clipBytes(spec('frames-png', 0, 0)), 3);
});

test('stills become an animated WebP that others read: frames, times, size', async () => {
  const still = async (red: number): Promise<Uint8Array> =>
    new Uint8Array(
      await sharp({ create: { width: 20, height: 12, channels: 4, background: { r: red, g: 20, b: 40, alpha: 0.5 } } })
        .webp()
        .toBuffer(),
    );
  const file = animateWebp([await still(10), await still(130), await still(250)], 20, 12, [42, 41, 42]);
  const facts = await sharp(file, { animated: true }).metadata();
  expect([facts.pages, facts.width, facts.pageHeight, facts.delay, facts.loop]).toEqual([3, 20, 12, [42, 41, 42], 0]);
  const { data } = await sharp(file, { page: 1 }).ensureAlpha().raw().toBuffer({ resolveWithObject: true });
  expect(Math.abs(data[0]! - 130)).toBeLessThan(6);
  expect(Math.abs(data[3]! - 128)).toBeLessThan(4);
  expect(() => animateWebp([Uint8Array.of(1, 2, 3)], 2, 2, [40])).toThrow(/Frame 1/);
});
