import { describe, expect, test } from '@jest/globals';
import { opennessOf } from './face';
import { levelOf } from './microphone';
import { midiHeard } from './midi';
import { nearestOf } from './nearest';

describe('how near the nearest thing is', () => {
  const plane = (data: number[]) => ({ width: data.length, height: 1, data: Float32Array.from(data) });
  const scene = (near: number, share: number): number[] =>
    Array.from({ length: 70_000 }, (_, i) => ((i * 7919) % 70_000 < share * 70_000 ? near : 0.2));

  test('is told by what makes out more than half a per cent of the picture', () => {
    expect(nearestOf(plane(scene(0.8, 0.05)))).toBeCloseTo(0.8, 2);
    expect(nearestOf(plane(scene(0.8, 0.001)))).toBeCloseTo(0.2, 2);
  });

  test('is not told where nothing is known', () => {
    expect(nearestOf(plane(new Array<number>(700).fill(NaN)))).toBeNull();
    expect(nearestOf(plane(new Array<number>(700).fill(1)))).toBeCloseTo(1, 2);
  });
});

describe('how loud it is', () => {
  test('full scale is 1, a tenth of it 20 dB less, silence 0', () => {
    const tone = (height: number): Float32Array => Float32Array.from({ length: 1000 }, () => height);
    expect(levelOf(tone(1))).toBe(1);
    expect(levelOf(tone(0.1))).toBeCloseTo(1 - 20 / 60, 6);
    expect(levelOf(tone(0))).toBe(0);
    expect(levelOf(tone(1e-6))).toBe(0);
  });
});

test('MIDI: notes, controls and the bend as shares; other messages say nothing', () => {
  expect(midiHeard(Uint8Array.from([0x91, 60, 127]))).toEqual({ 'note 60': 1 });
  expect(midiHeard(Uint8Array.from([0x81, 60, 64]))).toEqual({ 'note 60': 0 });
  expect(midiHeard(Uint8Array.from([0xb0, 7, 0]))).toEqual({ 'control 7': 0 });
  expect(midiHeard(Uint8Array.from([0xe0, 127, 127]))).toEqual({ bend: 1 });
  expect(midiHeard(Uint8Array.from([0xf8]))).toEqual({});
  expect(midiHeard(new Uint8Array(0))).toEqual({});
});

describe('the openness of a face', () => {
  /** The 68 points of a face whose eyes and mouth are so high, as shares of their widths; in a picture twice as wide as high. */
  function points(eye: number, mouth: number) {
    const all = Array.from({ length: 68 }, () => ({ x: 0, y: 0 }));
    const aspect = 2;
    const put = (k: number, x: number, y: number): void => void (all[k] = { x, y: y * aspect });
    for (const [first, x] of [
      [36, 0.3],
      [42, 0.5],
    ] as const) {
      put(first, x, 0.2);
      put(first + 3, x + 0.1, 0.2);
      for (const [k, along] of [
        [1, 0.03],
        [2, 0.07],
      ] as const) {
        put(first + k, x + along, 0.2 - (eye * 0.1) / 2);
        put(first + 6 - k, x + along, 0.2 + (eye * 0.1) / 2);
      }
    }
    put(60, 0.4, 0.4);
    put(64, 0.5, 0.4);
    put(62, 0.45, 0.4 - (mouth * 0.1) / 2);
    put(66, 0.45, 0.4 + (mouth * 0.1) / 2);
    return { all, aspect };
  }
  const told = (eye: number, mouth: number) => {
    const { all, aspect } = points(eye, mouth);
    return opennessOf(all, aspect);
  };

  test('is told by heights as shares of widths, whatever the shape of the picture', () => {
    expect(told(0.28, 0)['eyes shut']).toBeCloseTo(0, 9);
    expect(told(0.2, 0)['eyes shut']).toBeCloseTo(0.5, 9);
    expect(told(0.05, 0)['eyes shut']).toBe(1);
    expect(told(0.3, 0.3)['mouth open']).toBeCloseTo(0.5, 9);
    expect(told(0.3, 2)['mouth open']).toBe(1);
  });
});
