import { describe, expect, test } from '@jest/globals';
import { newMove, newShot } from '../../../core/document/defaults';
import { moves } from '../../../core/camera/registry';
import { dragged, pathDrawing, placeInDrawing, WIDTH } from './pathDrawing';

const shot = newShot({ sha256: 'a'.repeat(64), name: 'p.png', width: 160, height: 90, bits: 8, hfovFromFile: 60 });
const drawingOf = (kind: string) => pathDrawing(shot, newMove(kind));

describe.each([true, false])('seen from the side: %s', (side) => {
  test('an end that is dragged lies under the pointer', () => {
    const way = { start: { x: 0.1, y: 0, z: 0.02 }, end: { x: 0.3, y: side ? -0.2 : 0, z: 0.4 }, values: {} };
    const [scale, right, down] = [120, 17, -9];
    const to = dragged(way, side, 1, right / scale, down / scale);
    const before = placeInDrawing(side, scale, way.end);
    const after = placeInDrawing(side, scale, {
      x: side ? way.end.x : way.start.x + to.x,
      y: side ? way.start.y + to.y : way.end.y,
      z: way.start.z + to.z,
    });
    expect(after[0] - before[0]).toBeCloseTo(right, 9);
    expect(after[1] - before[1]).toBeCloseTo(down, 9);
  });
});

test('an end that goes half of every length is dragged twice as far for the same way', () => {
  const way = { start: { x: 0, y: 0, z: 0 }, end: { x: 1, y: 0, z: 0 }, values: {} };
  expect(dragged(way, false, 0.5, 0.1, 0).x).toBeCloseTo(1.2, 9);
});

test.each(moves.map((m) => m.kind))('%s is drawn within its frame, and where the plate was taken nothing is dragged', (kind) => {
  const { places, side, scale, shares, start, end, run } = drawingOf(kind);
  for (const place of places) {
    const [x, y] = placeInDrawing(side, scale, place);
    expect(Number.isFinite(x) && Number.isFinite(y)).toBe(true);
    expect(x).toBeGreaterThan(0);
    expect(x).toBeLessThan(WIDTH);
  }
  // the end that is fixed is the plate's own place
  if (!run) return;
  const fixed = shares.Start === 0 ? start : shares.End === 0 ? end : null;
  if (fixed) expect(Math.hypot(fixed.x, fixed.y, fixed.z)).toBeLessThan(1e-9);
});
