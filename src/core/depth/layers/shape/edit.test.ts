import { expect, test } from '@jest/globals';
import { shapeSchema, type Shape } from './content';
import { boundsOf, cornerAt, insertPoint, moveHandle, nearestOnCurve, placeOnCurve, removePoint, roundPoint, transformShape } from './edit';

const square: Shape = shapeSchema.parse({
  id: 's',
  name: 'Square',
  points: [cornerAt(0.2, 0.2), cornerAt(0.6, 0.2), cornerAt(0.6, 0.6), cornerAt(0.2, 0.6)],
});
const curved = roundPoint(roundPoint(square, 0, true), 1, true);

test('a point added to a curve leaves the curve as it was', () => {
  const t = 0.37;
  const split = insertPoint(curved, 0, t);
  expect(split.points).toHaveLength(5);
  for (let k = 0; k <= 10; k++) {
    const u = k / 10;
    const before = placeOnCurve(curved.points, 0, u);
    const after = u <= t ? placeOnCurve(split.points, 0, u / t) : placeOnCurve(split.points, 1, (u - t) / (1 - t));
    expect(after.x).toBeCloseTo(before.x, 12);
    expect(after.y).toBeCloseTo(before.y, 12);
  }
  // also on the piece that closes the curve
  const last = insertPoint(square, 3, 0.5);
  expect([last.points[4]!.x, last.points[4]!.y]).toEqual([0.2, 0.4]);
});

test('the nearest place on an outline is found on the right piece', () => {
  const found = nearestOnCurve(square.points, { x: 0.5, y: 0.17 }, 1.6);
  expect(found.index).toBe(0);
  expect(found.distance).toBeCloseTo(0.03, 4);
  expect(placeOnCurve(square.points, 0, found.t).x).toBeCloseTo(0.5, 3);
});

test('a triangle keeps its points', () => {
  const triangle = removePoint(square, 1)!;
  expect(triangle.points.map((p) => [p.x, p.y])).toEqual([
    [0.2, 0.2],
    [0.6, 0.6],
    [0.2, 0.6],
  ]);
  expect(removePoint(triangle, 0)).toBeNull();
});

test('handles stay opposite unless moved apart', () => {
  const p = { ...cornerAt(0.5, 0.5), inX: -0.1, outX: 0.05 };
  const turned = moveHandle(p, 'out', 0, 0.2, false, 2);
  expect(turned.inX).toBeCloseTo(0, 12);
  expect(turned.inY).toBeCloseTo(-0.2, 12); // its own length of 0.1 of the width is 0.2 plate heights
  expect(moveHandle(p, 'out', 0, 0.2, true, 2).inX).toBe(-0.1);
});

test('a quarter turn is one in the picture, whatever its sides, and four of them lead back', () => {
  const aspect = 1.5;
  const sloped: Shape = { ...curved, slope: { nearness: 0.1, x0: 0.2, y0: 0.2, x1: 0.6, y1: 0.2 } };
  const about = { x: 0.4, y: 0.4 };
  const quarter = { moveX: 0, moveY: 0, scale: 1, turn: 90 };
  const once = transformShape(sloped, quarter, about, aspect);
  // 0.2 of the height above the middle becomes as much in px to the right of it
  const top = transformShape({ ...sloped, points: [cornerAt(0.4, 0.2), ...square.points] }, quarter, about, aspect).points[0]!;
  expect(top.x).toBeCloseTo(0.4 + 0.2 / aspect, 12);
  expect(top.y).toBeCloseTo(0.4, 12);
  let back = once;
  for (let k = 0; k < 3; k++) back = transformShape(back, quarter, about, aspect);
  back.points.forEach((p, i) => {
    expect(p.x).toBeCloseTo(sloped.points[i]!.x, 10);
    expect(p.outX).toBeCloseTo(sloped.points[i]!.outX, 10);
  });
  expect(back.slope!.x1).toBeCloseTo(0.6, 10);
});

test('scaling by two about the middle doubles the box', () => {
  const b = boundsOf([transformShape(square, { moveX: 0.1, moveY: -0.1, scale: 2, turn: 0 }, { x: 0.4, y: 0.4 }, 1.3)]);
  expect(b.right - b.left).toBeCloseTo(0.8, 12);
  expect((b.right + b.left) / 2).toBeCloseTo(0.5, 12);
  expect((b.bottom + b.top) / 2).toBeCloseTo(0.3, 12);
});
