import { beforeEach, expect, jest, test } from '@jest/globals';
import type { RasterNeed } from '../../core/need/need';

const running: { hash: string; report(share: number): void }[] = [];
jest.unstable_mockModule('./engine', () => ({
  engine: () => ({
    estimate: ({ ref: { sha256: hash } }: RasterNeed, _quality: string, report: (share: number) => void) => {
      running.push({ hash, report });
      return { done: Promise.resolve(null), cancel: () => undefined };
    },
  }),
}));
const { estimateAhead, takeAhead } = await import('./ahead');

const plate = (sha256: string) => ({ sha256, name: 'plate.png', width: 8, height: 8 });

beforeEach(() => void running.splice(0));

test('a draft that was begun is handed over once, and reports to whoever took it', () => {
  void estimateAhead(plate('a'));
  running[0]!.report(0.2);
  const shares: number[] = [];
  expect(takeAhead('b', () => undefined)).toBeNull();
  expect(takeAhead('a', (share) => void shares.push(share))).not.toBeNull();
  running[0]!.report(0.6);
  expect(shares).toEqual([0.6]);
  expect(takeAhead('a', () => undefined)).toBeNull();
});

test('only the newest is kept', () => {
  void estimateAhead(plate('a'));
  void estimateAhead(plate('b'));
  expect(takeAhead('a', () => undefined)).toBeNull();
  expect(takeAhead('b', () => undefined)).not.toBeNull();
});
