import { describe, expect, test } from '@jest/globals';
import { rulerOf } from '../../core/depth/ruler';
import { laneRows, LEFT, railScale } from './railLayout';

describe('lanes under the ruler', () => {
  const axis = 52;
  const overlap = (rows: readonly { y: number; height: number }[]): boolean =>
    rows.some((a, i) => rows.slice(i + 1).some((b) => a.y < b.y + b.height && b.y < a.y + a.height));

  test.each([
    [1, 0],
    [1, 1],
    [1, 3],
    [2, 6],
    [0, 4],
    [1, 40],
  ])('%d in hand and %d others lie one under the other, folded or not', (inHand, others) => {
    const folded = laneRows(inHand, others, false, axis);
    const open = laneRows(inHand, others, true, axis);
    for (const { rows, fold, height } of [folded, open]) {
      expect(rows).toHaveLength(inHand + others);
      expect(overlap(rows)).toBe(false);
      for (const r of rows) {
        expect(r.y).toBeGreaterThan(axis + 18);
        expect(r.y + r.height).toBeLessThanOrEqual(height);
        expect(r.height).toBeGreaterThan(0);
      }
      expect(fold !== null).toBe(others > 0);
    }
    expect(folded.rows.filter((r) => r.folded)).toHaveLength(others);
    expect(open.rows.filter((r) => r.folded)).toHaveLength(0);
    if (others > 0) expect(folded.height).toBeLessThan(open.height);
  });

  test('with nothing that acts by distance there is room to say so', () => {
    expect(laneRows(0, 0, false, axis).height).toBeGreaterThan(axis + 36);
  });
});

test('px and distances of the rail are each other’s inverse', () => {
  const scale = railScale(rulerOf({ near: 1, far: 100 }, 'log'), 680, 52, () => '#fff');
  expect(scale.x(1)).toBeCloseTo(LEFT, 6);
  expect(scale.x(100)).toBeCloseTo(LEFT + 680, 6);
  expect(scale.moved(10, 680 / 2)).toBeCloseTo(100, 6);
  for (const z of [1.5, 7, 42]) expect(scale.moved(1, scale.x(z) - LEFT)).toBeCloseTo(z, 6);
});
