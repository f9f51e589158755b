import { expect, test } from '@jest/globals';
import { liesThere } from './arrowTarget';

const card = (column: number, row: number, aside = 0) => ({ left: 250 * column + aside, top: 190 * row, width: 240, height: 180 });
const KEYS = ['ArrowRight', 'ArrowLeft', 'ArrowDown', 'ArrowUp'];

test('a card lies where a key points, and not in the next row for being a fraction of a pixel aside', () => {
  const from = card(1, 1);
  const where = (to: ReturnType<typeof card>): readonly string[] => KEYS.filter((key) => liesThere(key, from, to));
  expect(where(card(2, 1))).toEqual(['ArrowRight']);
  expect(where(card(0, 1))).toEqual(['ArrowLeft']);
  for (const aside of [-0.4, 0, 0.4, 20]) expect(where(card(1, 2, aside))).toEqual(['ArrowDown']);
  expect(where(card(1, 0, 3))).toEqual(['ArrowUp']);
  expect(where(card(2, 2))).toEqual(['ArrowRight', 'ArrowDown']);
  expect(where(from)).toEqual([]);
  expect(liesThere('KeyA', from, card(2, 1))).toBe(false);
});
