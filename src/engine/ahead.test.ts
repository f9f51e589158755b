import { beforeEach, expect, jest, test } from '@jest/globals';

const running: { hash: string; report(share: number): void }[] = [];
jest.unstable_mockModule('./engine', () => ({
  engine: () => ({
    estimate: (hash: string, _quality: string, report: (share: number) => void) => {
      running.push({ hash, report });
      return { done: Promise.resolve(null), cancel: () => undefined };
    },
  }),
}));
const { estimateAhead, takeAhead } = await import('./ahead');

beforeEach(() => void running.splice(0));

test('a draft that was begun is handed over once, and reports to whoever took it', () => {
  estimateAhead('a');
  running[0]!.report(0.2);
  const shares: number[] = [];
  expect(takeAhead('b', () => undefined)).toBeNull();
  expect(takeAhead('a', (share) => void shares.push(share))).not.toBeNull();
  running[0]!.report(0.6);
  expect(shares).toEqual([0.6]);
  expect(takeAhead('a', () => undefined)).toBeNull();
});

test('only the newest is kept', () => {
  estimateAhead('a');
  estimateAhead('b');
  expect(takeAhead('a', () => undefined)).toBeNull();
  expect(takeAhead('b', () => undefined)).not.toBeNull();
});
