import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import type { Arrival } from '../arrival';
import { simulatedParams, type SimulatedValues } from './params';
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
  // the clock goes by hand: how long a picture takes on this machine changes nothing
  beforeEach(() => void jest.useFakeTimers());
  afterEach(() => void jest.useRealTimers());

  /** A camera that ran for so long, and what it sent. */
  async function ran(values: Partial<SimulatedValues>, milliseconds: number) {
    const got: Arrival[] = [];
    const camera = new SimulatedCamera({ ...defaultsOf(simulatedParams), ...values }, (frame) => {
      got.push(frame);
      return Promise.resolve();
    });
    await jest.advanceTimersByTimeAsync(milliseconds);
    return { camera, got };
  }

  test('sends numbered pictures with what its channels were, at its rate, and stops', async () => {
    const { camera, got } = await ran({ rate: 20 }, 1000);
    expect(got.map((f) => f.number)).toEqual([...got.keys()]);
    expect(got.length).toBeGreaterThanOrEqual(20);
    expect(got.length).toBeLessThanOrEqual(21);
    for (const { number, at } of got) expect(at - got[0]!.at).toBeCloseTo(number * 50, 1);
    expect(Object.keys(got[0]!.channels)).toEqual(['blink', 'mouth', 'arm', 'swing', 'lamp']);
    expect(got[0]!.raster.data).toHaveLength(4 * VIEW.width * VIEW.height);
    const { length } = got;
    camera.close();
    await jest.advanceTimersByTimeAsync(500);
    expect(got).toHaveLength(length);
  });

  test('loses as many as it is told to, and counts those too', async () => {
    const { camera, got } = await ran({ rate: 30, lost: 50 }, 4000);
    camera.close();
    const share = got.length / (got.at(-1)!.number - got[0]!.number + 1);
    expect(share).toBeGreaterThan(0.35);
    expect(share).toBeLessThan(0.65);
  });

  test('is late by as much as it is told to be, and says when a picture was taken', async () => {
    const { camera, got } = await ran({ rate: 10, latency: 300 }, 299);
    expect(got).toHaveLength(0);
    await jest.advanceTimersByTimeAsync(501);
    camera.close();
    expect(got.map((f) => Math.round(f.at - got[0]!.at))).toEqual([0, 100, 200, 300, 400, 500].slice(0, got.length));
    expect(got.length).toBeGreaterThanOrEqual(5);
    // what is under way when it ends does not come
    const { length } = got;
    await jest.advanceTimersByTimeAsync(1000);
    expect(got).toHaveLength(length);
  });

  test('waits for who reads its pictures: there is room for so many', async () => {
    const sent: number[] = [];
    let free: () => void = () => undefined;
    const held = new Promise<void>((done) => (free = done));
    const camera = new SimulatedCamera({ ...defaultsOf(simulatedParams), rate: 30 }, (frame) => {
      sent.push(frame.number);
      return held;
    });
    await jest.advanceTimersByTimeAsync(2000);
    expect(sent).toHaveLength(12);
    free();
    await jest.advanceTimersByTimeAsync(300);
    camera.close();
    expect(sent.length).toBeGreaterThan(18);
  });
});
