import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { calibrateMap } from '../../core/depth/calibrate';
import { nearnessColour } from '../../core/raster/colour';
import { newPicture, newPlane } from '../../core/picture';
import { depthBitmap, histogram, HISTOGRAM_BINS, maskBitmap, pictureBitmap } from './paint';

interface Painted {
  width: number;
  height: number;
  data: Uint8ClampedArray;
}

// the browser's own bitmaps are not to be had here: what would be made into one is looked at instead
const globals = globalThis as unknown as Record<string, unknown>;
const kept = { ImageData: globals.ImageData, createImageBitmap: globals.createImageBitmap };
beforeAll(() => {
  globals.ImageData = class {
    constructor(
      readonly data: Uint8ClampedArray,
      readonly width: number,
      readonly height: number,
    ) {}
  };
  globals.createImageBitmap = (image: unknown) => Promise.resolve(image);
});
afterAll(() => void Object.assign(globals, kept));

const painted = async (bitmap: Promise<ImageBitmap>): Promise<Painted> => (await bitmap) as unknown as Painted;
const calibration = { low: 0, high: 1, turnOver: false, bend: 1, near: 1, far: 100, spacing: 'perspective' as const };

describe('bitmaps', () => {
  test('a picture is encoded as sRGB', async () => {
    const picture = newPicture(1, 1);
    picture.data.set([1, 0.21404, 0, 1]);
    expect([...(await painted(pictureBitmap(picture))).data]).toEqual([255, 128, 0, 255]);
  });
  test('depth in grey is nearness', async () => {
    const raw = newPlane(3, 1);
    raw.data.set([0, 0.5, 1]);
    const { data } = await painted(depthBitmap(raw, calibration, 'grey'));
    expect([data[0], data[4], data[8]]).toEqual([0, 128, 255]);
    const turned = await painted(depthBitmap(raw, { ...calibration, turnOver: true }, 'grey'));
    expect([turned.data[0], turned.data[8]]).toEqual([255, 0]);
  });
  test('depth in colour runs with the logarithm of distance, ember to slate', async () => {
    const raw = newPlane(3, 1);
    // 1 m, 10 m and 100 m: the middle of the hues lies at 10 m
    raw.data.set([1, (1 / 10 - 1 / 100) / (1 - 1 / 100), 0]);
    const { data } = await painted(depthBitmap(raw, calibration, 'distance'));
    for (const [i, nearness] of [1, 0.5, 0].entries())
      for (let k = 0; k < 3; k++) expect(Math.abs(data[i * 4 + k]! - 255 * nearnessColour(nearness)[k]!)).toBeLessThan(2);
  });
  test('a mask is paper white where it marks and see-through elsewhere', async () => {
    const { data } = await painted(maskBitmap(2, 1, (i) => i * 0.5));
    expect(data[3]).toBe(0);
    expect([...data.subarray(4)]).toEqual([239, 233, 220, 128]);
  });
});

describe('histogram', () => {
  const ruler = { near: 1, far: 100, spacing: 'log' as const };
  test('shares add up to one and lie where the distances are', () => {
    const distance = newPlane(100, 1);
    for (let i = 0; i < 100; i++) distance.data[i] = i < 75 ? 1.0001 : 10;
    const bins = histogram(distance, ruler);
    expect(bins).toHaveLength(HISTOGRAM_BINS);
    expect(bins.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 5);
    expect(bins[0]).toBeCloseTo(0.75, 5);
    expect(bins[HISTOGRAM_BINS / 2 - 1]! + bins[HISTOGRAM_BINS / 2]!).toBeCloseTo(0.25, 5);
  });
  test('infinity and what lies outside the ends is gathered at them', () => {
    const distance = newPlane(2, 1);
    distance.data.set([Infinity, 0.1]);
    const bins = histogram(distance, ruler);
    expect(bins[0]).toBeCloseTo(0.5, 6);
    expect(bins[HISTOGRAM_BINS - 1]).toBeCloseTo(0.5, 6);
  });
  test('on the map’s own perspective ruler a map even in grey is an even histogram', () => {
    const raw = newPlane(1600, 1);
    for (let i = 0; i < 1600; i++) raw.data[i] = (i + 0.5) / 1600;
    const bins = histogram(calibrateMap(raw, calibration), { ...ruler, spacing: 'perspective' });
    for (const b of bins) expect(Math.abs(b - 1 / HISTOGRAM_BINS)).toBeLessThan(1.1 / 1600);
  });
});
