import { expect, test } from '@jest/globals';
import { pacing } from './pace';

const usual = { slow: 26, quick: 17, least: 0.35 };

test('slow frames take fewer pixels down to the least, quick ones more again, and rest all of them', () => {
  const pace = pacing(usual);
  let now = 0;
  expect(pace(true, now)).toBe(1);
  const shares = Array.from({ length: 10 }, () => pace(true, (now += 40)));
  expect(shares[0]).toBeCloseTo(0.8, 9);
  expect(shares.at(-1)).toBe(0.35);
  expect(pace(false, (now += 40))).toBe(1);
  const after = Array.from({ length: 60 }, () => pace(true, (now += 10)));
  expect(after[0]).toBeCloseTo(0.35 * 1.05, 9);
  expect(after.at(-1)).toBe(1);
});

test('a pause is no slow frame, and a frame between slow and quick changes nothing', () => {
  const pace = pacing(usual);
  pace(true, 0);
  expect(pace(true, 5000)).toBe(1);
  expect(pace(true, 5020)).toBe(1);
});
