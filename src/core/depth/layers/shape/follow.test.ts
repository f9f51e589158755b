import { expect, test } from '@jest/globals';
import { shapesSchema, type ShapesContent } from './content';
import { drawingsOf, followSeries, regionOf, spansOf } from './follow';

const square = (x: number, size = 0.2) => ({
  id: 's',
  name: 'Shape',
  points: [
    { x, y: 0.3 },
    { x: x + size, y: 0.3 },
    { x: x + size, y: 0.3 + size },
    { x, y: 0.3 + size },
  ],
});
const content = (at: number, x: number, earlier: readonly [number, number][] = []): ShapesContent =>
  shapesSchema.parse({ shapes: [square(x)], follow: { at, earlier: earlier.map(([frame, from]) => ({ frame, shapes: [square(from)] })) } });

test('drawings are in order of their frames; drawn twice on one the last holds', () => {
  const drawn = drawingsOf(
    content(20, 0.5, [
      [60, 0.1],
      [20, 0.9],
    ]),
  );
  expect(drawn.map((d) => [d.frame, d.shapes[0]!.points[0]!.x])).toEqual([
    [20, 0.5],
    [60, 0.1],
  ]);
  expect(drawingsOf(shapesSchema.parse({ shapes: [square(0)] }))).toEqual([]);
});

test('every frame is carried from the nearest drawing', () => {
  const spans = spansOf(
    drawingsOf(
      content(20, 0.5, [
        [60, 0.1],
        [90, 0.2],
      ]),
    ),
    0,
    95,
  );
  expect(spans.map((s) => [s.from, s.drawing.frame, s.to])).toEqual([
    [0, 20, 40],
    [41, 60, 75],
    [76, 90, 95],
  ]);
});

test('what is carried is told by outlines, frames and plate alone', () => {
  const one = followSeries('plate', content(20, 0.5));
  expect(followSeries('plate', content(21, 0.5))).not.toBe(one);
  expect(followSeries('plate', content(20, 0.51))).not.toBe(one);
  expect(followSeries('other', content(20, 0.5))).not.toBe(one);
  const nearer = content(20, 0.5);
  nearer.shapes[0]!.nearness = 0.1;
  expect(followSeries('plate', nearer)).toBe(one);
  expect(followSeries('plate', { ...nearer, follow: null })).toBeNull();
});

test('the region covers exactly what the shapes do', () => {
  const [drawing] = drawingsOf(content(0, 0.25));
  const region = regionOf(drawing!, { width: 40, height: 30 }, { width: 400, height: 300 });
  const covered = region.data.reduce((a, b) => a + b, 0);
  expect(covered).toBeCloseTo(0.2 * 40 * 0.2 * 30, 3);
  expect(region.data[12 * 40 + 14]).toBe(1);
  expect(region.data[12 * 40 + 30]).toBe(0);
});
