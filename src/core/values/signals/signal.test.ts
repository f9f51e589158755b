import { describe, expect, test } from '@jest/globals';
import { copyOf } from '../copy';
import { runSignal, sentenceOf, signalSchema, stepRegistry, type Signal } from './signal';

const signal = (...steps: Signal['steps']): Signal => ({ channels: ['a'], steps });
const step = (kind: string, values: Signal['steps'][number]['values'] = {}): Signal['steps'][number] => ({ kind, values });

/** What becomes of values that come one after the other, so many a second. */
function series(of: Signal, values: readonly number[], rate = 30): (number | null)[] {
  const run = runSignal(of);
  return values.map((v, k) => run.next(new Map([['a', v]]), k / rate));
}

/** A bump: up to a height and down again. */
const bump = (height: number): number[] => Array.from({ length: 21 }, (_, k) => height * Math.sin((Math.PI * k) / 20));
const counted = signal(step('gate', { from: 0.6, to: 1 }), step('count', { wraps: 4 }));

describe('counting through a gate', () => {
  test('a bump of 0.7 counts once, one below the gate never', () => {
    expect(series(counted, bump(0.7)).at(-1)).toBe(1);
    expect(series(counted, bump(0.59))).toEqual(new Array(21).fill(0));
    expect(series(counted, [...bump(0.7), ...bump(0.5), ...bump(0.9)]).at(-1)).toBe(2);
  });

  test('it begins again after so many', () => {
    expect(
      series(
        counted,
        [1, 2, 3, 4, 5].flatMap(() => bump(0.7)),
      ).at(-1),
    ).toBe(1);
  });

  test('what trembles at the end of the gate counts once, and without slack each time', () => {
    const trembling = Array.from({ length: 40 }, (_, k) => (k % 2 ? 0.58 : 0.62));
    expect(series(counted, trembling).at(-1)).toBe(1);
    const bare = signal(step('gate', { from: 0.6, to: 1, slack: 0 }), step('count', { wraps: 100 }));
    expect(series(bare, trembling).at(-1)).toBe(20);
  });

  test('a gate whose ends were set the wrong way round is the same gate', () => {
    expect(series(signal(step('gate', { from: 1, to: 0.6 })), bump(0.7))).toEqual(series(signal(step('gate', { from: 0.6, to: 1 })), bump(0.7)));
  });
});

describe('steps', () => {
  test('a range goes along a line, no farther than its ends unless it may', () => {
    const values = { from: 2, to: 4, low: 10, high: 0 };
    expect(series(signal(step('range', values)), [1, 2, 3, 4, 9])).toEqual([10, 10, 5, 0, 0]);
    expect(series(signal(step('range', { ...values, clamp: false })), [1, 5])).toEqual([15, -5]);
    expect(series(signal(step('range', { from: 2, to: 2 })), [1.9, 2])).toEqual([0, 1]);
  });

  test.each([10, 30, 240])('smoothing leaves 1/e of a jump after its time, at %i samples a second', (rate) => {
    const values = [0, ...new Array<number>(rate).fill(1)];
    const out = series(signal(step('smooth', { seconds: 1 })), values, rate);
    expect(out.at(-1)).toBeCloseTo(1 - Math.exp(-1), 9);
    expect(series(signal(step('smooth', { seconds: 0 })), [0, 1, 0.5])).toEqual([0, 1, 0.5]);
  });

  test('one of so many is a whole number that there is', () => {
    expect(series(signal(step('select', { of: 3 })), [-5, 0.4, 0.6, 1.4, 2, 99])).toEqual([0, 0, 1, 1, 2, 2]);
  });

  test('scaled is times and plus', () => expect(series(signal(step('scale', { by: -2, add: 1 })), [0, 3])).toEqual([1, -5]));
});

describe('a signal', () => {
  test('of several channels is any of them, the largest; those that were not heard say nothing', () => {
    const run = runSignal({ channels: ['left', 'right'], steps: [] });
    expect(run.next(new Map(), 0)).toBeNull();
    expect(run.next(new Map([['left', 0.2]]), 1)).toBe(0.2);
    expect(
      run.next(
        new Map([
          ['left', 0.2],
          ['right', 0.9],
          ['other', 5],
        ]),
        2,
      ),
    ).toBe(0.9);
    // what is no number was not measured
    expect(run.next(new Map([['left', NaN]]), 3)).toBe(0.9);
  });

  test('whose clock jumps back stands still for that while, and goes on', () => {
    const run = runSignal(signal(step('smooth', { seconds: 1 })));
    const at = (v: number, t: number): number | null => run.next(new Map([['a', v]]), t);
    at(0, 100);
    const before = at(1, 101)!;
    expect(at(1, 3)).toBe(before);
    expect(at(1, 102)).toBeCloseTo(1 - Math.exp(-2), 9);
  });

  test('reads like a sentence, and leaves out what is not known here', () => {
    const said: Signal = { channels: ['mouth', 'eyes'], steps: [step('gate', { from: 0.6, to: 1 }), step('guess'), step('count', { wraps: 3 })] };
    expect(sentenceOf(said)).toBe('any of mouth and eyes, on between 0.6 and 1, counted, 3 times round');
    expect(series({ ...said, channels: ['a'] }, bump(0.7)).at(-1)).toBe(1);
    expect(sentenceOf({ channels: [], steps: [] })).toBe('no channel yet');
  });

  test('comes back from a document as it was, every step at its defaults', () => {
    for (const { kind } of stepRegistry.all) {
      const read = signalSchema.parse(copyOf(signal(step(kind))));
      expect(series(read, bump(1))).toEqual(series(signal(step(kind)), bump(1)));
      expect(sentenceOf(read).length).toBeGreaterThan(4);
    }
    expect(signalSchema.safeParse({ channels: [''.padEnd(201)] }).success).toBe(false);
  });
});
