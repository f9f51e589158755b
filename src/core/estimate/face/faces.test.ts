/** @jest-environment node */
import '../../../../headless/kernels';
import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, test } from '@jest/globals';
import sharp, { type Sharp } from 'sharp';
import { findFaces } from './detector';
import { largestFace } from './faces';
import { readWeights, squareOf, type Rgb8, type Weights } from './tensors';

const weightsOf = (name: string): Weights =>
  readWeights(JSON.parse(readFileSync(`training/faces/${name}.json`, 'utf8')), new Uint8Array(readFileSync(`training/faces/${name}.bin`)));
const weights = { detector: weightsOf('detector'), landmarks: weightsOf('landmarks') };

async function demoPicture(name: string, change: (s: Sharp) => Sharp = (s) => s): Promise<Rgb8> {
  const small = sharp(`public/demo/${name}.jpg`).resize(800, 800, { fit: 'inside' });
  const { data, info } = await change(sharp(await small.png().toBuffer()))
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, rgb: new Uint8Array(data) };
}
const ignore = (): void => undefined;

/** Points of the demo's face as other software finds them with the same nets: jaw, nose, eyes, mouth; shares of the picture. */
const KNOWN: readonly (readonly [number, number, number])[] = [
  [0, 0.2704, 0.3583],
  [8, 0.3779, 0.576],
  [16, 0.4284, 0.3561],
  [30, 0.3934, 0.4236],
  [36, 0.3334, 0.3522],
  [45, 0.4146, 0.3491],
  [48, 0.3513, 0.4783],
  [54, 0.4032, 0.4807],
];

describe('the face of the demo', () => {
  let picture: Rgb8;
  beforeAll(async () => {
    picture = await demoPicture('figurehead');
  });
  test('has its points where other software finds them, to within 3 px', () => {
    const found = largestFace(picture, weights, ignore)!;
    expect(found.points).toHaveLength(68);
    for (const [k, x, y] of KNOWN) {
      const point = found.points[k]!;
      expect(Math.hypot((point.x - x) * picture.width, (point.y - y) * picture.height)).toBeLessThan(3);
    }
  });
  test('moves with the picture', async () => {
    const moved = await demoPicture('figurehead', (s) => s.extend({ left: 120, top: 60, background: '#40444c' }));
    const [before, after] = [largestFace(picture, weights, ignore)!, largestFace(moved, weights, ignore)!];
    const away = before.points.map((p, k) =>
      Math.hypot(p.x * picture.width + 120 - after.points[k]!.x * moved.width, p.y * picture.height + 60 - after.points[k]!.y * moved.height),
    );
    expect(away.reduce((a, b) => a + b, 0) / 68).toBeLessThan(12);
  });
  test('and a smaller one beside it are both told: the larger by its points, the other by places within it', async () => {
    const [left, wide] = [Math.round(0.15 * picture.width), Math.round(0.4 * picture.width)];
    const { height } = picture;
    const head = sharp(Buffer.from(picture.rgb), { raw: { width: picture.width, height, channels: 3 } }).extract({
      left,
      top: 0,
      width: wide,
      height,
    });
    const whole = await head.raw().toBuffer();
    const small = await sharp(whole, { raw: { width: wide, height, channels: 3 } })
      .resize(Math.round(wide * 0.8))
      .raw()
      .toBuffer({ resolveWithObject: true });
    const width = wide + small.info.width;
    const both: Rgb8 = { width, height, rgb: new Uint8Array(width * height * 3).fill(90) };
    for (let y = 0; y < height; y++) {
      both.rgb.set(whole.subarray(y * wide * 3, (y + 1) * wide * 3), y * width * 3);
      if (y < small.info.height) both.rgb.set(small.data.subarray(y * small.info.width * 3, (y + 1) * small.info.width * 3), (y * width + wide) * 3);
    }
    const found = largestFace(both, weights, ignore)!;
    expect([found.faces, found.others.length]).toEqual([2, 1]);
    for (const { x } of found.points) expect(x * width).toBeLessThan(wide);
    // between its jaw's ends, and above its chin
    for (const { x, y } of found.others[0]!) {
      expect(x * width).toBeGreaterThan(wide + 0.8 * (0.27 * picture.width - left));
      expect(x * width).toBeLessThan(wide + 0.8 * (0.43 * picture.width - left));
      expect(y).toBeGreaterThan(0.8 * 0.28);
      expect(y).toBeLessThan(0.8 * 0.576);
    }
  });
  test('is found once', () => {
    expect(findFaces(picture, weights.detector, 320, 0.35)).toHaveLength(1);
  });
});

test('a picture without a face has none, and the work is told to its end', async () => {
  const shares: number[] = [];
  expect(largestFace(await demoPicture('dunes'), weights, (s) => shares.push(s))).toBeNull();
  expect(shares).toEqual([...shares].sort((a, b) => a - b));
});

test('a square of one colour keeps it, and is empty beside the picture', () => {
  const grey: Rgb8 = { width: 40, height: 20, rgb: new Uint8Array(40 * 20 * 3).fill(200) };
  const { data, width } = squareOf(grey, { x: 0, y: 0, width: 40, height: 20 }, { x: 0, y: 0 }, 16, [0, 0, 0]);
  expect(width).toBe(16);
  expect(data[0]).toBeCloseTo(data[16 * 4]!, 5);
  expect(data[0]).not.toBeCloseTo(data[16 * 15]!, 1);
});

test('weights that end too early are refused by name', () => {
  expect(() => readWeights([['conv0/bias', [4], 1, 0]], new Uint8Array(3))).toThrow('conv0/bias');
  expect([...readWeights([['a', [2], 0.5, -1]], new Uint8Array([0, 4])).get('a')!.data]).toEqual([-1, 1]);
});
