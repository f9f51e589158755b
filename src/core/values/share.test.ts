import { expect, test } from '@jest/globals';
import { contentKey } from '../key';
import { shareParts } from './share';
import { writeJson } from './endless';

const copy = <T>(v: T): T => JSON.parse(writeJson(v)) as T;
const first = {
  layers: [
    { id: 'a', points: [1, 2, 3] },
    { id: 'b', points: [4, 5] },
  ],
  on: true,
  gone: null,
};

test('what did not change keeps its identity, what did is new', () => {
  const before = shareParts(null, copy(first));
  const changed = copy(first);
  changed.layers[1]!.points.push(6);
  const after = shareParts(before, changed);
  expect(after).toEqual(changed);
  expect(after).not.toBe(before);
  expect(after.layers[0]).toBe(before.layers[0]);
  expect(after.layers[1]).not.toBe(before.layers[1]);
  expect(shareParts(before, copy(first))).toBe(before);
  expect(Object.isFrozen(after.layers[1]!.points)).toBe(true);
});

test('a shorter list, a missing key and another kind are changes', () => {
  const before = shareParts(null, copy(first));
  expect(shareParts(before, { ...copy(first), layers: [copy(first.layers[0]!)] }).layers).toEqual([first.layers[0]]);
  const { gone: _, ...rest } = copy(first);
  expect(shareParts(before, rest)).toEqual(rest);
  expect(shareParts({ a: [1] }, { a: { 0: 1 } })).toEqual({ a: { 0: 1 } });
});

test('the key of a frozen value is the key of its copy', () => {
  const long = { points: Array.from({ length: 300 }, (_, i) => i / 7), name: 'x'.repeat(300) };
  const frozen = shareParts(null, copy(long));
  const key = contentKey('k', frozen);
  expect(contentKey('k', copy(long))).toBe(key);
  expect(contentKey('k', frozen)).toBe(key);
  expect(contentKey('k', { ...copy(long), name: 'y' })).not.toBe(key);
});

test('what stands in two places of a copy, as structured clones leave it, is shared in both', () => {
  const drawn = { points: [1, 2] };
  const before = shareParts(null, structuredClone({ content: drawn, keyed: [{ content: drawn }] }));
  const moved = { points: [1, 5] };
  const next = shareParts(before, structuredClone({ content: moved, keyed: [{ content: drawn }, { content: moved }] }));
  expect(next).toEqual({ content: moved, keyed: [{ content: drawn }, { content: moved }] });
  expect(next.content).toBe(next.keyed[1]!.content);
});
