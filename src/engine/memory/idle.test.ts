import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { Idle } from './idle';

beforeEach(() => void jest.useFakeTimers());
afterEach(() => void jest.useRealTimers());

test('a worker rests once nothing has been going on for a while, not between two things, nor while one of two goes on', async () => {
  let rests = 0;
  const idle = new Idle(100, () => rests++);
  let end: () => void = () => undefined;
  const long = idle.during(() => new Promise<string>((done) => (end = () => done('long'))))();
  expect(await idle.during(async (a: number) => a + 1)(1)).toBe(2);
  jest.advanceTimersByTime(500);
  expect(rests).toBe(0);
  end();
  expect(await long).toBe('long');
  jest.advanceTimersByTime(90);
  await expect(
    idle.during(async () => {
      throw new Error('lost');
    })(),
  ).rejects.toThrow('lost');
  jest.advanceTimersByTime(90);
  expect(rests).toBe(0);
  jest.advanceTimersByTime(20);
  expect(rests).toBe(1);
});
