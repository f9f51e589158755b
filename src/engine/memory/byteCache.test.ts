import { describe, expect, test } from '@jest/globals';
import { ByteCache } from './byteCache';
import { Newest } from '../messages/newest';

describe('byte cache', () => {
  const floats = (n: number) => ({ data: new Float32Array(n) });
  test('keeps what was used last, within its bytes', () => {
    const cache = new ByteCache(100);
    cache.set('a', floats(10));
    cache.set('b', floats(10));
    cache.get('a');
    cache.set('c', floats(10));
    expect(cache.get('b')).toBeUndefined();
    expect(cache.get('a')).toBeDefined();
    expect(cache.bytes).toBe(80);
  });
  test('one larger than the whole is not kept, and replacing does not leak', () => {
    const cache = new ByteCache(100);
    cache.set('a', floats(100));
    expect(cache.get('a')).toBeUndefined();
    for (let i = 0; i < 50; i++) cache.set('b', floats(5));
    expect(cache.bytes).toBe(20);
    cache.delete('b');
    expect(cache.bytes).toBe(0);
  });
});

test('only the newest request is the newest, on both sides of shared memory', () => {
  const here = new Newest();
  const there = new Newest(here.words);
  const first = here.next();
  expect(there.is(first)).toBe(true);
  const second = here.next();
  expect(there.is(first)).toBe(false);
  expect(there.is(second)).toBe(true);
});
