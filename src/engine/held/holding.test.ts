import { afterEach, expect, jest, test } from '@jest/globals';
import type { StageCache } from '../../core/shot/stage';
import { withClipCache } from './holding';

afterEach(() => {
  jest.useRealTimers();
});

test('what the frames of a clip have in common is kept while its pieces are made, however long one takes, and some time after', async () => {
  jest.useFakeTimers();
  const clip = { width: 8, height: 8 };
  const value = { data: new Float32Array(4) };
  let first: StageCache | null = null;
  let end: () => void = () => undefined;
  const long = withClipCache(clip, (cache) => {
    first = cache;
    cache.set('a', value);
    return new Promise<void>((done) => (end = done));
  });
  jest.advanceTimersByTime(60_000);
  const beside = withClipCache(clip, (cache) => Promise.resolve(cache.get('a')));
  expect(await beside).toBe(value);
  jest.advanceTimersByTime(60_000);
  end();
  await long;
  jest.advanceTimersByTime(19_000);
  expect(await withClipCache(clip, (cache) => Promise.resolve(cache === first))).toBe(true);
  jest.advanceTimersByTime(21_000);
  expect(await withClipCache(clip, (cache) => Promise.resolve(cache.get('a')))).toBeUndefined();
  await expect(withClipCache(clip, () => Promise.reject(new Error('stopped')))).rejects.toThrow('stopped');
  jest.runAllTimers();
});
