import { describe, expect, test } from '@jest/globals';
import { plainCache, stageOf, type Stage } from './stage';
import { readsOf, sized, stepAddress, stepOf } from './stepOf';

const plane = (name: string, value: number): Stage<{ data: Float32Array }> =>
  stageOf({ fingerprint: name, key: `${name} small` }, () => ({ data: Float32Array.of(value) }));

describe('a step', () => {
  test('is named by every input: another stage, another value, another name', () => {
    const of = (from: string, bend: number, name = 'bent'): string => stepAddress(name, { from: plane(from, 1), bend }).key;
    expect(new Set([of('a', 1), of('b', 1), of('a', 2), of('a', 1, 'clean')]).size).toBe(4);
    expect(of('a', 1)).toBe(of('a', 1));
  });

  test('shows the same at another size, and is kept apart from it', () => {
    const at = (px: number, key: string) => stepAddress('clean', { from: { fingerprint: 'map', key }, px: sized(px) });
    expect(at(1, 'map 1').fingerprint).toBe(at(2, 'map 2').fingerprint);
    expect(at(1, 'map 1').key).not.toBe(at(2, 'map 1').key);
    expect(at(1, 'map 1').key).not.toBe(at(1, 'map 2').key);
  });

  test('reads pixels of stages, values, and values of a size', () => {
    const read = readsOf('sum', { from: plane('a', 3), times: 2, px: sized(0.5), none: null });
    expect([read.from.data[0], read.times, read.px, read.none]).toEqual([3, 2, 0.5, null]);
  });

  test('cannot read what its address does not know', () => {
    const read: Partial<Record<'from' | 'calibration', unknown>> = readsOf('sum', { from: plane('a', 3) });
    expect(() => read.calibration).toThrow('the step sum reads calibration, which is none of its inputs');
  });

  test('is made once, when it is read, and makes only what it reads', () => {
    const cache = plainCache();
    const made: string[] = [];
    const from = stageOf({ fingerprint: 'a', key: 'a' }, () => (made.push('from'), { data: Float32Array.of(4) }));
    const other = stageOf({ fingerprint: 'b', key: 'b' }, () => (made.push('other'), { data: Float32Array.of(5) }));
    const double = () =>
      stepOf(cache, 'double', { from, other, quick: true }, (read) => (made.push('double'), { data: read.from.data.map((v) => 2 * v) }));
    const [one, two] = [double(), double()];
    expect(made).toEqual([]);
    expect([one.value.data[0], two.value.data[0]]).toEqual([8, 8]);
    expect(made).toEqual(['double', 'from']);
  });
});
