import { expect, test } from '@jest/globals';
import { Newest } from './newest';

test('only the newest request is the newest, on both sides of shared memory', () => {
  const here = new Newest();
  const there = new Newest(here.words);
  const first = here.next();
  expect(there.is(first)).toBe(true);
  const second = here.next();
  expect(there.is(first)).toBe(false);
  expect(there.is(second)).toBe(true);
});
