import { describe, expect, test } from '@jest/globals';
import { newPlane, type Plane } from '../../picture';
import { doubled } from '../network/layers';
import { piecesOf } from '../pieces';
import { FACE_POINTS } from './faceMesh';
import { hullOf, insideHull } from './faceRelief';
import type { Found } from './finder';
import { isFirm, personsAmong } from './people';
import type { FaceOnMap, Person } from './person';
import { believedIn, withPeople } from './whole';

const found = (left: number, top: number, right: number, bottom: number, score: number, person = true): Found => ({
  left,
  top,
  right,
  bottom,
  score,
  person,
});
const SIZE = { width: 300, height: 200 };

const planeOf = (width: number, height: number, f: (x: number, y: number) => number): Plane => {
  const plane = newPlane(width, height);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) plane.data[y * width + x] = f(x, y);
  return plane;
};

describe('who counts as a person', () => {
  test('one found twice is one; the surest stays', () => {
    const kept = personsAmong([found(0.1, 0.1, 0.4, 0.9, 0.8), found(0.12, 0.1, 0.41, 0.88, 0.6), found(0.6, 0.1, 0.8, 0.9, 0.5)], SIZE);
    expect(kept.map((f) => f.score)).toEqual([0.8, 0.5]);
  });

  test('an animal in the same place that is surer is none; one beside them takes nobody away', () => {
    const person = found(0.1, 0.1, 0.6, 0.9, 0.5);
    expect(personsAmong([found(0.12, 0.1, 0.6, 0.9, 0.7, false), person], SIZE)).toEqual([]);
    expect(personsAmong([found(0.12, 0.1, 0.6, 0.9, 0.45, false), person], SIZE)).toEqual([person]);
    expect(personsAmong([found(0.6, 0.1, 0.9, 0.9, 0.7, false), person], SIZE)).toEqual([person]);
  });

  test('what is small has to be surer than what fills the picture, and what is tiny is left', () => {
    expect(personsAmong([found(0.1, 0, 0.9, 1, 0.35)], SIZE)).toHaveLength(1);
    expect(personsAmong([found(0.1, 0.1, 0.2, 0.2, 0.35)], SIZE)).toHaveLength(0);
    expect(personsAmong([found(0.1, 0.1, 0.2, 0.2, 0.45)], SIZE)).toHaveLength(1);
    expect(personsAmong([found(0.1, 0.1, 0.13, 0.16, 0.9)], SIZE)).toHaveLength(0);
    expect(personsAmong([found(0.4, 0.1, 0.4, 0.9, 0.9)], SIZE)).toHaveLength(0);
  });

  test('a mask that fills its box, says next to nothing or is of two minds is no person’s', () => {
    const box = found(0.25, 0.25, 0.75, 0.75, 0.9);
    const of = (f: (x: number, y: number) => number): Person => ({ box, mask: planeOf(40, 40, f) });
    const inside = (x: number, y: number, by: number): boolean => x >= 10 + by && x < 30 - by && y >= 10 + by && y < 30 - by;
    expect(isFirm(of((x, y) => (inside(x, y, 4) ? 1 : 0)))).toBe(true);
    expect(isFirm(of((x, y) => (inside(x, y, 0) ? 1 : 0)))).toBe(false);
    expect(isFirm(of((x, y) => (inside(x, y, 9) ? 1 : 0)))).toBe(false);
    expect(isFirm(of((x, y) => (inside(x, y, 4) ? 0.6 : 0)))).toBe(false);
  });
});

// a ground that comes nearer downwards, and somebody who stands on it at row 160 of 200
const [W, H, FEET] = [300, 200, 160];
const ground = (y: number): number => Math.max(0, (y - 60) / 140);
const isBody = (x: number, y: number): boolean => x >= 120 && x < 160 && y >= 40 && y < FEET;
const somebody: Person = { box: found(120 / W, 40 / H, 160 / W, FEET / H, 0.9), mask: planeOf(W, H, (x, y) => (isBody(x, y) ? 1 : 0)) };

describe('a person stands as one thing', () => {
  // the estimate has a hole for a face, and their lower half alone
  const smeared = planeOf(W, H, (x, y) => (isBody(x, y) ? (y < 70 ? 0.05 : y < 110 ? 0.4 : 0.62) : ground(y)));
  const out = withPeople(smeared, [somebody]);
  const at = (x: number, y: number): number => out.data[y * W + x]!;

  test('as near as the ground at the feet, from head to foot', () => {
    for (const y of [45, 60, 80, 120, 150]) expect(Math.abs(at(140, y) - ground(FEET))).toBeLessThan(0.13);
    expect(Math.abs(at(140, 50) - at(140, 150))).toBeLessThan(0.2);
  });

  test('with the outline of the mask, and nothing else is changed', () => {
    expect(at(121, 60) - at(117, 60)).toBeGreaterThan(0.5);
    for (const [x, y] of [
      [20, 100],
      [280, 180],
      [140, 190],
    ] as const)
      expect(at(x, y)).toBeCloseTo(ground(y), 6);
  });

  test('without feet in the picture they are as near as most of them', () => {
    const cut: Person = { box: found(120 / W, 40 / H, 160 / W, 1, 0.9), mask: planeOf(W, H, (x, y) => (x >= 120 && x < 160 && y >= 40 ? 1 : 0)) };
    const map = planeOf(W, H, (x, y) => (x >= 120 && x < 160 && y >= 40 ? (y < 60 ? 0.1 : 0.8) : 0.2));
    const whole = withPeople(map, [cut]);
    expect(whole.data[120 * W + 140]).toBeGreaterThan(0.7);
    expect(whole.data[50 * W + 140]).toBeGreaterThan(0.6);
  });

  test('two who stand at different distances stay apart', () => {
    const other: Person = {
      box: found(160 / W, 60 / H, 190 / W, 120 / H, 0.8),
      mask: planeOf(W, H, (x, y) => (x >= 160 && x < 190 && y >= 60 && y < 120 ? 1 : 0)),
    };
    const map = planeOf(W, H, (x, y) => (isBody(x, y) ? 0.7 : x >= 160 && x < 190 && y >= 60 && y < 120 ? 0.4 : ground(y)));
    const both = withPeople(map, [somebody, other]);
    expect(both.data[90 * W + 150]! - both.data[90 * W + 170]!).toBeGreaterThan(0.2);
  });

  test('what lies beyond the box and much farther is not theirs; what is as near is', () => {
    const wide: Person = { ...somebody, mask: planeOf(W, H, (x, y) => (x >= 120 && x < 172 && y >= 40 && y < FEET ? 1 : 0)) };
    const map = planeOf(W, H, (x, y) => (x < 160 ? 0.8 : y < 100 ? 0.2 : 0.78));
    const [person] = believedIn(map, [wide]);
    expect(person!.mask.data[60 * W + 166]).toBe(0);
    expect(person!.mask.data[120 * W + 166]).toBe(1);
    expect(believedIn(map, [{ ...somebody, mask: newPlane(W, H) }])).toEqual([]);
  });

  test('nobody changes nothing', () => expect(withPeople(smeared, [])).toBe(smeared));
});

test('planes made twice as large lie as they were told', () => {
  const maps = { channels: 1, width: 3, height: 1, data: Float32Array.from([0, 4, 8]) };
  expect([...doubled(maps, false).data].slice(0, 6)).toEqual([0, 2, 4, 6, 8, 8]);
  expect([...doubled(maps, true).data].slice(0, 6)).toEqual([0, 1, 3, 5, 7, 8]);
});

test('pieces hang together by their sides, not by their corners, and not over a step', () => {
  const set = new Set([0, 1, 6, 11]);
  const size = { width: 4, height: 3 };
  const sorted = (pieces: number[][]): number[][] => pieces.map((piece) => [...piece].sort((a, b) => a - b));
  expect(sorted(piecesOf(size, (i) => set.has(i)))).toEqual([[0, 1], [6], [11]]);
  expect(
    sorted(
      piecesOf(
        size,
        (i) => set.has(i),
        (a, b) => a + b !== 1,
      ),
    ),
  ).toEqual([[0], [1], [6], [11]]);
});

describe('a face has its own surface', () => {
  // a bowl of 468 points about a middle: the middle is nearest, the rim farthest
  const places = Array.from({ length: FACE_POINTS }, (_, k) => {
    const [r, a] = [20 * Math.sqrt((k + 0.5) / FACE_POINTS), 2.4 * k];
    return { x: 140 + r * Math.cos(a), y: 70 + r * Math.sin(a), depth: (r * r) / 20 - 10 };
  });
  const face: FaceOnMap = {
    x: Float32Array.from(places, (p) => p.x),
    y: Float32Array.from(places, (p) => p.y),
    depth: Float32Array.from(places, (p) => p.depth),
  };

  test('nearest in its middle, farthest at its rim, at the person’s distance, and nowhere else', () => {
    const map = planeOf(W, H, (x, y) => (isBody(x, y) ? 0.6 : ground(y)));
    const [plain, own] = [withPeople(map, [somebody]), withPeople(map, [{ ...somebody, face }])];
    const at = (plane: Plane, x: number, y: number): number => plane.data[y * W + x]!;
    const focal = W / (2 * Math.tan((25 * Math.PI) / 180));
    // ten px nearer than the middle of the head, as seen by such a lens
    expect(at(own, 140, 70) / at(plain, 140, 70)).toBeCloseTo(1 + 10 / focal, 2);
    expect(at(own, 140, 70)).toBeGreaterThan(at(own, 153, 70));
    for (const [x, y] of [
      [140, 130],
      [30, 30],
      [140, 100],
    ] as const)
      expect(at(own, x, y)).toBeCloseTo(at(plain, x, y), 6);
  });

  test('its hull holds all its points, and tells how deep inside a place lies', () => {
    const hull = hullOf(face.x, face.y);
    for (let k = 0; k < FACE_POINTS; k++) expect(insideHull(hull, face.x, face.y, face.x[k]!, face.y[k]!)).toBeGreaterThan(-1e-3);
    expect(insideHull(hull, face.x, face.y, 140, 70)).toBeGreaterThan(17);
    expect(insideHull(hull, face.x, face.y, 170, 70)).toBeLessThan(-9);
  });
});
