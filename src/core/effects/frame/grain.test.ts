import { expect, test } from '@jest/globals';
import { newPicture } from '../../raster/picture';
import { runAlone } from '../../run';
import { defaultsOf } from '../../values/params';
import { grain, grainPlane, withGrain } from './grain';

const [W, H] = [96, 64];
const even = newPicture(W, H);
for (let i = 0; i < W * H; i++) even.data.set([0.2, 0.2, 0.2, i % W < 10 ? 0.5 : 1], i * 4);

test('grain has unit variance and grows with its size', () => {
  const roughness = (size: number): number => {
    const g = grainPlane(200, 200, size, 4);
    let variance = 0;
    let step = 0;
    for (let i = 0; i < g.data.length - 1; i++) {
      variance += g.data[i]! ** 2;
      step += (g.data[i + 1]! - g.data[i]!) ** 2;
    }
    expect(variance / g.data.length).toBeCloseTo(1, 1);
    return step;
  };
  expect(roughness(4)).toBeLessThan(roughness(1) / 3);
});

test('grain of one px is distributed as a normal variable is', () => {
  const { data } = grainPlane(500, 400, 1, 9);
  const share = (from: number): number => data.filter((v) => v > from).length / data.length;
  for (const [deviations, expected] of [
    [-1, 0.8413],
    [0, 0.5],
    [1, 0.1587],
    [2, 0.02275],
  ] as const)
    expect(Math.abs(share(deviations) - expected)).toBeLessThan(4 * Math.sqrt((expected * (1 - expected)) / data.length));
});

test('grain keeps the mean of the picture and its coverage, and is grey where monochrome', () => {
  const out = withGrain(even, { amount: 0.03, size: 1.5, monochrome: true }, 2);
  let sum = 0;
  for (let i = 0; i < out.data.length; i += 4) {
    sum += out.data[i]!;
    expect(out.data[i]).toBe(out.data[i + 1]);
    expect(out.data[i + 3]).toBe(even.data[i + 3]);
  }
  expect(sum / (W * H)).toBeCloseTo(0.2, 2);
});

test('it is new with every frame, and reads the time only while there is some', () => {
  const at = (frame: number) => withGrain(even, { amount: 0.05, size: 1.5, monochrome: false }, frame).data;
  expect(at(3)).toEqual(at(3));
  expect(at(3)).not.toEqual(at(4));
  const values = defaultsOf(grain.params);
  expect(grain.needs(values)).toEqual(['time']);
  expect(grain.needs({ ...values, amount: 0 })).toEqual([]);
  const none = { picture: even, params: { ...values, amount: 0 }, pxScale: 1, run: runAlone() };
  expect(grain.apply(none as never)).toBe(even);
});
