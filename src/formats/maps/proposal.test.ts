import { describe, expect, test } from '@jest/globals';
import { newPlane, type Plane } from '../../core/picture';
import type { MapFacts } from '../mapFacts';
import { rankCorrelation } from '../../core/estimate/score';
import { proposeMap } from './proposal';

const [W, H] = [80, 60];
const planeOf = (f: (x: number, y: number) => number): Plane => {
  const plane = newPlane(W, H);
  for (let i = 0; i < plane.data.length; i++) plane.data[i] = f(i % W, Math.floor(i / W));
  return plane;
};
const nearness = planeOf((x, y) => y / H / 2 + (x > 30 && x < 50 ? 0.4 : 0));
const facts: MapFacts = {
  format: 'PNG',
  width: W,
  height: H,
  bits: 8,
  float: false,
  channel: 'brightness',
  channels: [],
  low: 0,
  high: 1,
  holes: 0,
  reading: 'grey',
  ends: null,
  smallIsNear: null,
  colourful: false,
};
const plate = { width: 1600, height: 1200 };
const propose = (plane: Plane, change: Partial<MapFacts> = {}, estimate: Plane | null = nearness) =>
  proposeMap({ plane, facts: { ...facts, ...change } }, plate, estimate);

describe('which end is near', () => {
  test('the estimate tells, either way', () => {
    expect(propose(nearness)).toMatchObject({ turnOver: false, because: 'estimate', reading: 'grey' });
    expect(propose(planeOf((x, y) => 1 - nearness.data[y * W + x]!))).toMatchObject({ turnOver: true, because: 'estimate' });
    expect(propose(nearness).agreement).toBeCloseTo(1, 6);
  });
  test('what the file says outweighs the estimate', () => {
    expect(propose(nearness, { smallIsNear: true })).toMatchObject({ turnOver: true, because: 'file' });
  });
  test('where neither tells, white is near', () => {
    expect(propose(planeOf((x) => (x * 7919) % 13))).toMatchObject({ turnOver: false, because: 'custom' });
    expect(propose(nearness, {}, null)).toMatchObject({ turnOver: false, because: 'custom', agreement: null });
  });
  test('large floats that grow away from the camera are distances, and bring their ends', () => {
    const metres = planeOf((x, y) => 1 / (0.05 + nearness.data[y * W + x]!));
    const p = propose(metres, { float: true, low: 1.1, high: 20 });
    expect(p).toMatchObject({ reading: 'distance', turnOver: false });
    expect(p.ends!.near).toBeGreaterThan(1);
    expect(p.ends!.far).toBeLessThan(20.1);
    expect(p.agreement).toBeCloseTo(1, 3);
  });
});

test('a map of another shape covers the plate; one of nearly the same is stretched', () => {
  expect(propose(nearness, { width: 100, height: 100 }).fit).toBe('cover');
  expect(propose(nearness, { width: 81, height: 60 }).fit).toBe('stretch');
});

test('rank correlation is 1 for any rising curve, and leaves out what is no number', () => {
  const bent = planeOf((x, y) => (y === 3 ? NaN : nearness.data[y * W + x]! ** 3));
  expect(rankCorrelation(bent, nearness)).toBeCloseTo(1, 6);
});
