import { expect, test } from '@jest/globals';
import { estimateKey } from './estimateKey';
import type { NetworkUse } from './networkUse';
import { builtIn, downFrom, estimatorOf, estimators, namedQuality, networkOf, OWN_QUALITY, qualities, QUICKEST } from './estimators';

test('each is followed down to the quickest by what is shown until it is done, quicker each time', () => {
  for (const kind of qualities) {
    const down = downFrom(kind);
    expect([down[0], down.at(-1)]).toEqual([kind, QUICKEST]);
    for (const [k, one] of down.entries()) if (k > 0) expect(estimatorOf(one).seconds).toBeLessThan(estimatorOf(down[k - 1]!).seconds);
  }
  expect(new Set(qualities).size).toBe(estimators.length);
});

test('a quality is known by its word, and what is none is refused with those that are', () => {
  for (const { kind } of builtIn()) expect(namedQuality(kind)).toBe(kind);
  // it takes more than a word to ask a network
  expect(() => namedQuality(OWN_QUALITY)).toThrow('is no quality');
  expect(() => namedQuality('best')).toThrow('"best" is no quality.');
});

test('a network is asked where the quality says so, and maps by another network, or asked otherwise, have other addresses', () => {
  const network: NetworkUse = {
    sha256: 'a'.repeat(64),
    name: 'a.onnx',
    input: 'x',
    output: 'y',
    type: 'float32',
    layout: 'planes',
    leading: 1,
    size: { multiple: 14, side: 518 },
    values: 'unit',
    gives: 'nearness',
    fromZero: false,
    sharper: false,
  };
  const by = (change: Partial<NetworkUse> = {}): string => estimateKey('p', { quality: OWN_QUALITY, network: { ...network, ...change } });
  expect(networkOf({ quality: OWN_QUALITY, network })).toBe(network);
  expect(networkOf({ quality: QUICKEST, network })).toBeNull();
  // the draft that is shown first is the draft of all
  expect(estimateKey('p', { quality: QUICKEST, network })).toBe(estimateKey('p', { quality: QUICKEST }));
  const others: Partial<NetworkUse>[] = [
    { sha256: 'b'.repeat(64) },
    { values: 'bytes' },
    { gives: 'distance' },
    { gives: 'distance', fromZero: true },
    { gives: 'metres', ends: { near: 1, far: 2 } },
    { sharper: true },
    { size: { multiple: 32, side: 518 } },
  ];
  expect(new Set([by(), ...others.map(by)]).size).toBe(1 + others.length);
  // but not by what its file is called
  expect(by({ name: 'b.onnx' })).toBe(by());
});
