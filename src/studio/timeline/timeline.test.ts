import { expect, test } from '@jest/globals';
import { framesOfCuts, framesOn, runsOf } from './ClipTrack';
import { curvePath, timeScale } from './scale';
import { shareOfStretch } from './StretchTrack';

test('what is known of a clip’s frames stands where on the timeline they are shown', () => {
  const twice = [0, 0, 1, 1, 2, 2];
  expect(framesOn(twice, [0, 2])).toEqual([0, 1, 4, 5]);
  expect(framesOfCuts(twice, [1])).toEqual([2]);
  const loop = [0, 1, 2, 0, 1, 2];
  expect(framesOn(loop, [1])).toEqual([1, 4]);
  expect(framesOfCuts(loop, [2])).toEqual([2, 5]);
  // every second frame is left out: a cut before one of them shows at the next
  expect(framesOfCuts([0, 2, 4], [1, 4])).toEqual([1, 2]);
  expect(runsOf([0, 1, 4, 5])).toEqual([
    [0, 1],
    [4, 5],
  ]);
});

test('a move that leaves the scene behind draws to the top of its track, and nothing that is no number', () => {
  const share = shareOfStretch([1, 4, Infinity, Infinity], 2);
  expect([share(0), share(Infinity)]).toEqual([0, 1]);
  expect(share(4)).toBe(1);
  expect(share(2)).toBeCloseTo(0.5, 9);
  const path = curvePath(timeScale(4, 400), 0, 22, (f) => share([1, 4, Infinity, Infinity][f]!));
  expect(path).not.toMatch(/NaN|Infinity/);
  expect(shareOfStretch([], 0)(Infinity)).toBe(1);
});
