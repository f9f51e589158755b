import { expect, test } from '@jest/globals';
import { newPlane } from '../../core/picture';
import { Holdings } from './holdings';

/** A map of so many bytes. */
const bytes = (count: number) => newPlane(count / 4, 1);
const begin = (spare: number) => {
  const gone: string[] = [];
  return { gone, held: new Holdings((kind, name) => void gone.push(`${kind} ${name}`), spare) };
};

test('what is not needed is bounded, the oldest goes first, and the workers are told', () => {
  const { gone, held } = begin(1000);
  for (const name of ['a', 'b', 'c']) held.put('map', name, bytes(400));
  expect(gone).toEqual(['map a']);
  expect([held.has('map', 'a'), held.has('map', 'b'), held.bytes]).toEqual([false, true, 800]);
});

test('what the open shot needs is never let go, however much it is', () => {
  const { gone, held } = begin(1000);
  held.need([
    ['map', 'a'],
    ['map', 'b'],
  ]);
  for (const name of ['a', 'b', 'c', 'd']) held.put('map', name, bytes(800));
  expect(gone).toEqual(['map c']);
  held.need([['map', 'b']]);
  // of what is spare now the one used longest ago is gone
  expect(gone).toEqual(['map c', 'map a']);
  expect(held.all().map((h) => h.name)).toEqual(['d', 'b']);
});

test('one thing larger than all that is spare stays until something else comes', () => {
  const { gone, held } = begin(100);
  held.put('raster', 'large', { width: 500, height: 1, channels: 1, data: new Uint8Array(500) });
  expect(gone).toEqual([]);
  held.put('map', 'next', bytes(40));
  expect(gone).toEqual(['raster large']);
});

test('the same thing under two kinds is two things, and put again it is counted once', () => {
  const { held } = begin(1000);
  held.put('map', 'x', bytes(200));
  held.put('map', 'x', bytes(400));
  held.put('raster', 'x', { width: 8, height: 1, channels: 1, data: new Uint8Array(8) });
  expect(held.bytes).toBe(408);
});
