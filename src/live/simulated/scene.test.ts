import { describe, expect, test } from '@jest/globals';
import { until } from '../../testing/until';
import type { Heard } from '../definition';
import { simulatedParams } from './params';
import { channelsAt, KEEPER, LANTERN, lanternAt, SignalHut, spoil } from './scene';
import { SimulatedCamera } from './camera';
import { defaultsOf } from '../../core/values/params';
import { distanceAt, nearnessAt, PX, VIEW } from './view';

const hut = new SignalHut();
const drawn = (t: number): Uint8Array => {
  const out = new Uint8Array(4 * VIEW.width * VIEW.height);
  hut.draw(t, out);
  return out;
};
/** The pixel in which a place, m, is seen. */
const pixelOf = ({ x, y, z }: { x: number; y: number; z: number }): number =>
  4 * (Math.round(VIEW.height / 2 - (y * PX) / z) * VIEW.width + Math.round(VIEW.width / 2 + (x * PX) / z));

describe('the scene of the simulated camera', () => {
  test('tells the distance of what is seen, exact to the eight bits of alpha', () => {
    for (const t of [0, 0.7, 1.9, 5.2]) {
      const middle = lanternAt(channelsAt(t));
      const alpha = drawn(t)[pixelOf(middle) + 3]!;
      // what is seen of a ball is its front
      expect(Math.abs(alpha - 255 * nearnessAt(middle.z - LANTERN.radius))).toBeLessThanOrEqual(1);
    }
    const out = drawn(0);
    // ground that lies 1.6 m below, seen at a row of pixels
    for (const row of [230, 300, 350]) {
      const z = 1.6 / ((row + 0.5 - VIEW.height / 2) / PX);
      expect(Math.abs(out[4 * (row * VIEW.width + 600) + 3]! - 255 * nearnessAt(z))).toBeLessThanOrEqual(0.5);
    }
    expect(out[3 + 4 * 320]).toBe(0);
    expect(distanceAt(nearnessAt(4.2))).toBeCloseTo(4.2, 9);
    expect(distanceAt(0)).toBe(Infinity);
  });

  test('shows in its colours what its channels say', () => {
    const eye = (t: number): number => {
      const sway = 0.07 * Math.sin(0.9 * t);
      // right beside the pupil of the keeper's eye
      const p = pixelOf({ x: KEEPER.x + sway + (0.36 + 0.11) * KEEPER.radius, y: KEEPER.y + 0.12 * KEEPER.radius, z: KEEPER.z - 0.1 });
      return drawn(t)[p + 2]!;
    };
    const shut = 1.2 + 0.12;
    expect(channelsAt(shut).blink).toBeCloseTo(1, 6);
    expect(channelsAt(0.5).blink).toBe(0);
    expect(eye(0.5) - eye(shut)).toBeGreaterThan(60);
  });

  test('its keeper blinks twice in three times, and squints once', () => {
    const most = Array.from({ length: 6 }, (_, k) => Math.max(...Array.from({ length: 300 }, (_, i) => channelsAt(3.1 * k + i / 100).blink)));
    expect(most.map((v) => v > 0.6)).toEqual([true, true, false, true, true, false]);
    expect(most.every((v) => v > 0.4)).toBe(true);
  });

  test('noise has no mean, keeps to its strength and is the same again', () => {
    const flat = new Uint8Array(4 * 40000).fill(128);
    spoil(flat, 0.1, 5);
    const noise = Array.from({ length: 40000 }, (_, i) => flat[4 * i + 3]! - 128);
    expect(Math.abs(noise.reduce((a, b) => a + b, 0) / noise.length)).toBeLessThan(0.3);
    expect(Math.max(...noise.map(Math.abs))).toBeLessThanOrEqual(26);
    expect(new Set(noise).size).toBeGreaterThan(40);
    const again = new Uint8Array(4 * 40000).fill(128);
    spoil(again, 0.1, 5);
    expect(again).toEqual(flat);
    expect(flat[0]).toBe(128);
  });
});

describe('the simulated camera', () => {
  test('sends numbered pictures with what its channels were, at its rate, and stops', async () => {
    const got: { number: number; at: number; channels: Heard; alpha: number }[] = [];
    const camera = new SimulatedCamera({ ...defaultsOf(simulatedParams), rate: 60 }, ({ number, at, channels, raster }) => {
      got.push({ number, at, channels, alpha: raster.data.length });
      return Promise.resolve();
    });
    await until(() => got.length >= 8);
    camera.close();
    const { length } = got;
    // a machine that is busy leaves some out; the time of each is that of its number
    for (const { number, at } of got.slice(1)) expect(at - got[0]!.at).toBeCloseTo(((number - got[0]!.number) * 1000) / 60, 1);
    expect(new Set(got.map((f) => f.number)).size).toBe(length);
    expect(Object.keys(got[0]!.channels)).toEqual(['blink', 'mouth', 'arm', 'swing', 'lamp']);
    expect(got[0]!.alpha).toBe(4 * VIEW.width * VIEW.height);
    await until(() => true);
    expect(got).toHaveLength(length);
  });

  test('loses as many as it is told to, and counts those too', async () => {
    const numbers: number[] = [];
    const camera = new SimulatedCamera({ ...defaultsOf(simulatedParams), rate: 240, lost: 50 }, (frame) =>
      Promise.resolve(void numbers.push(frame.number)),
    );
    await until(() => numbers.length >= 30);
    camera.close();
    const share = numbers.length / (numbers.at(-1)! - numbers[0]! + 1);
    expect(share).toBeGreaterThan(0.2);
    expect(share).toBeLessThan(0.8);
  });
});
