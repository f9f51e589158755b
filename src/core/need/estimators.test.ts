import { expect, test } from '@jest/globals';
import { downFrom, estimatorOf, estimators, namedQuality, qualities, QUICKEST } from './estimators';

test('each is followed down to the quickest by what is shown until it is done, quicker each time', () => {
  for (const kind of qualities) {
    const down = downFrom(kind);
    expect([down[0], down.at(-1)]).toEqual([kind, QUICKEST]);
    for (const [k, one] of down.entries()) if (k > 0) expect(estimatorOf(one).seconds).toBeLessThan(estimatorOf(down[k - 1]!).seconds);
  }
  expect(new Set(qualities).size).toBe(estimators.length);
});

test('a quality is known by its word, and what is none is refused with those that are', () => {
  for (const kind of qualities) expect(namedQuality(kind)).toBe(kind);
  expect(() => namedQuality('best')).toThrow('"best" is no quality.');
});
