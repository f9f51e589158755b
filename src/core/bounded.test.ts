import { expect, test } from '@jest/globals';
import { Bounded } from './bounded';

/** Numbers that take what they are. */
const begin = (limit: number, least = 0) => {
  const gone: string[] = [];
  return { gone, kept: new Bounded<number>({ limit, least, cost: (v) => v, onGone: (v, key) => void gone.push(`${key} ${v}`) }) };
};

test('what was used last stays, within the bound, and what goes is told', () => {
  const { gone, kept } = begin(10);
  kept.set('a', 4);
  kept.set('b', 4);
  expect(kept.get('a')).toBe(4);
  kept.set('c', 4);
  expect([kept.get('b'), kept.get('a'), kept.taken, gone]).toEqual([undefined, 4, 8, ['b 4']]);
});

test('one larger than the whole is not kept, and takes nobody\u2019s place; what takes the place of another is counted once', () => {
  const { gone, kept } = begin(10);
  kept.set('small', 3);
  kept.set('large', 11);
  expect([kept.has('large'), kept.get('small'), gone]).toEqual([false, 3, ['large 11']]);
  for (let k = 0; k < 50; k++) kept.set('again', 5);
  expect(kept.taken).toBe(8);
  kept.delete('again');
  expect([kept.taken, kept.size]).toEqual([3, 1]);
});

test('bounded anew it lets go of what was used longest ago; cleared it holds nothing', () => {
  const { kept } = begin(10);
  for (const key of ['a', 'b']) kept.set(key, 4);
  kept.get('a');
  kept.bound(6);
  expect([kept.has('a'), kept.has('b'), kept.taken]).toEqual([true, false, 4]);
  kept.clear();
  expect([kept.has('a'), kept.taken]).toEqual([false, 0]);
});

test('what work uses stays until the last work is over, however much it is', () => {
  const { kept } = begin(10, 1);
  kept.set('before', 6);
  const [one, two] = [kept.begin(), kept.begin()];
  for (const key of ['a', 'b', 'c', 'd']) kept.set(key, 6);
  // nobody used it
  expect(kept.has('before')).toBe(false);
  expect(['a', 'b', 'c', 'd'].every((key) => kept.has(key))).toBe(true);
  one();
  expect(kept.size).toBe(4);
  two();
  expect([kept.keys(), kept.get('d')]).toEqual([['d'], 6]);
  // so many stay whatever they take
  kept.set('e', 100);
  expect(kept.keys()).toEqual(['e']);
});

test('what is said to stay does, until something else is said', () => {
  const { gone, kept } = begin(10);
  kept.keep(new Set(['a', 'b']));
  for (const key of ['a', 'b', 'c', 'd']) kept.set(key, 8);
  expect(kept.keys()).toEqual(['b', 'a']);
  kept.keep(new Set(['b']));
  expect([kept.keys(), gone]).toEqual([['b'], ['c 8', 'd 8', 'a 8']]);
  kept.forget((key) => key === 'b');
  expect(kept.size).toBe(0);
});
