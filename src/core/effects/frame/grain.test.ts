import { expect, test } from '@jest/globals';
import { newPicture } from '../../picture';
import { runAlone } from '../../run';
import { defaultsOf } from '../../values/params';
import { grain, grainPlane, withGrain } from './grain';
import { grainPlaneTwin, grainTwin } from './grainTwin';

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
  const out = withGrain(even, { amount: 0.03, size: 1.5, monochrome: true }, 2, runAlone());
  let sum = 0;
  for (let i = 0; i < out.data.length; i += 4) {
    sum += out.data[i]!;
    expect(out.data[i]).toBe(out.data[i + 1]);
    expect(out.data[i + 3]).toBe(even.data[i + 3]);
  }
  expect(sum / (W * H)).toBeCloseTo(0.2, 2);
});

test('it is new with every frame, and reads the time only while there is some', () => {
  const at = (frame: number) => withGrain(even, { amount: 0.05, size: 1.5, monochrome: false }, frame, runAlone()).data;
  expect(at(3)).toEqual(at(3));
  expect(at(3)).not.toEqual(at(4));
  const values = defaultsOf(grain.params);
  expect(grain.needs(values)).toEqual(['time']);
  expect(grain.needs({ ...values, amount: 0 })).toEqual([]);
  const none = { picture: even, params: { ...values, amount: 0 }, pxScale: 1, run: runAlone() };
  expect(grain.apply(none as never)).toBe(even);
});

test.each([
  [96, 64, 1],
  [61, 37, 1.5],
  [40, 30, 7],
  [5, 1, 2],
])('the kernels make the noise of their twin, %i x %i, grains of %f px', (width, height, size) => {
  const [made, twin] = [grainPlane(width, height, size, 77).data, grainPlaneTwin(width, height, size, 77).data];
  made.forEach((v, i) => expect(v).toBeCloseTo(twin[i]!, 6));
  expect(made.filter((v, i) => v !== twin[i]).length).toBeLessThan(made.length / 50);
});

test('grain lies in the encoded picture, in what is brighter than white and in black too', () => {
  // what is brighter than white is worked in single precision
  const lights = [0, 0.0004, 0.003, 0.18, 0.7, 1, 1.4, 6];
  const picture = newPicture(lights.length, 1);
  lights.forEach((v, i) => picture.data.set([v, v, v, 1], i * 4));
  const out = withGrain(picture, { amount: 0.08, size: 1, monochrome: false }, 5, runAlone());
  for (const k of [0, 1, 2]) {
    const noise = grainPlaneTwin(lights.length, 1, 1, 5 * 31 + k + 1).data;
    lights.forEach((_, i) => expect(out.data[i * 4 + k]).toBeCloseTo(grainTwin(picture.data[i * 4 + k]!, 0.08 * noise[i]!), lights[i]! < 1 ? 6 : 5));
  }
});
