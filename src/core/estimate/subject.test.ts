import { expect, test } from '@jest/globals';
import { newPlane, type Plane } from '../picture';
import { findSubject } from './subject';

const [W, H] = [320, 200];
/** A ground that comes nearer towards the lower border, with things on it. */
function scene(things: readonly { x: number; y: number; w: number; h: number; nearness: number }[]): Plane {
  const plane = newPlane(W, H);
  for (let i = 0; i < plane.data.length; i++) {
    const [x, y] = [i % W, Math.floor(i / W)];
    plane.data[i] = Math.max(0, (y - 80) / 120);
    for (const t of things) if (Math.abs(x - t.x) < t.w / 2 && Math.abs(y - t.y) < t.h / 2) plane.data[i] = t.nearness;
  }
  return plane;
}

test('the nearest large thing is found, not the ground before it, which is nearer still', () => {
  const subject = findSubject(
    scene([
      { x: 150, y: 100, w: 60, h: 90, nearness: 0.6 },
      { x: 250, y: 70, w: 30, h: 40, nearness: 0.3 },
    ]),
  );
  expect(subject.nearness).toBeCloseTo(0.6, 2);
  expect(subject.x).toBeCloseTo(150 / W, 1);
});

test('something small before it does not win', () => {
  const subject = findSubject(
    scene([
      { x: 150, y: 100, w: 60, h: 90, nearness: 0.6 },
      { x: 20, y: 60, w: 14, h: 14, nearness: 0.95 },
    ]),
  );
  expect(subject.nearness).toBeCloseTo(0.6, 2);
});

test('two things that touch in the picture but not in depth are two', () => {
  const subject = findSubject(
    scene([
      { x: 130, y: 90, w: 60, h: 100, nearness: 0.45 },
      { x: 190, y: 90, w: 60, h: 100, nearness: 0.8 },
    ]),
  );
  expect(subject.nearness).toBeCloseTo(0.8, 2);
});

test('where nothing stands out it is what is nearer in the middle; holes do no harm', () => {
  const flat = newPlane(W, H);
  flat.data.fill(0.4);
  expect(findSubject(flat).nearness).toBeCloseTo(0.4, 6);
  const holes = scene([{ x: 150, y: 100, w: 60, h: 90, nearness: 0.6 }]);
  for (let i = 0; i < holes.data.length; i += 7) holes.data[i] = NaN;
  expect(Number.isFinite(findSubject(holes).nearness)).toBe(true);
  expect(Number.isFinite(findSubject({ width: 1, height: 1, data: Float32Array.of(0.3) }).nearness)).toBe(true);
});
