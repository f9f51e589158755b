import { describe, expect, test } from '@jest/globals';
import { newPlane, type Plane } from '../picture';
import { breakBeyond } from './breaks';
import { survey } from './relief';

const [W, H] = [160, 90];
const scene = (at: (x: number, y: number) => number): Plane => {
  const out = newPlane(W, H);
  for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) out.data[y * W + x] = at(x / W, y / H);
  return out;
};
const within = (x: number, y: number, x0: number, y0: number, x1: number, y1: number): boolean => x > x0 && x < x1 && y > y0 && y < y1;
const cut = (z: Plane, subject: number): number | null => breakBeyond(survey(z), subject);

describe('where a scene is cut behind its subject', () => {
  test('between a deep subject and a wall, not through the subject', () => {
    // a body that leans away from 1.5 to 2.4 m before a wall at 6 m
    const z = scene((x, y) => (within(x, y, 0.3, 0.2, 0.7, 1) ? 1.5 + 0.9 * y : 6));
    const found = cut(z, 1.6)!;
    expect(found).toBeGreaterThan(2.4);
    expect(found).toBeLessThan(6);
  });
  test('behind the thing that is in focus, where several stand one behind the other', () => {
    const z = scene((x, y) => (within(x, y, 0, 0.3, 0.3, 1) ? 2 : within(x, y, 0.4, 0.2, 0.75, 1) ? 5 : 20));
    const near = cut(z, 2)!;
    expect(near).toBeGreaterThan(2);
    expect(near).toBeLessThan(5);
    const farther = cut(z, 5)!;
    expect(farther).toBeGreaterThan(5);
    expect(farther).toBeLessThan(20);
  });
  test('before the sky, over ground that no cut can leave whole', () => {
    const z = scene((x, y) => (within(x, y, 0.4, 0.1, 0.6, 0.8) ? 4 : y > 0.5 ? 1.6 / (y - 0.48) : Infinity));
    const found = cut(z, 4)!;
    expect(found).toBeGreaterThan(4);
    expect(Number.isFinite(found)).toBe(true);
  });
  test('nowhere in a wall, or where nothing lies behind', () => {
    expect(
      cut(
        scene(() => 3),
        3,
      ),
    ).toBeNull();
    expect(
      cut(
        scene((x) => (x < 0.5 ? 2 : 4)),
        8,
      ),
    ).toBeNull();
  });
});
