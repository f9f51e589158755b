import { expect, test } from '@jest/globals';
import { constantPlane, newPlane, type Plane } from '../../../picture';
import { contactLight } from './contact';

const [W, H] = [160, 120];
/** A card 30 px wide and 60 px high, 4 m away. */
const cover: Plane = newPlane(W, H);
for (let y = 30; y < 90; y++) for (let x = 65; x < 95; x++) cover.data[y * W + x] = 1;
const card = { cover, distance: 4, height: 60 };
const light = (z: number | Plane, strength = 1): Float32Array => contactLight(card, typeof z === 'number' ? constantPlane(W, H, z) : z, W, strength);
const at = (data: Float32Array, x: number, y: number): number => data[y * W + x]!;

test('a wall that the card touches is dark right at its edge, alike on both sides, and as light as ever away from it', () => {
  const near = light(4.02);
  expect(at(near, 95, 60)).toBeLessThan(0.75);
  expect(at(near, 64, 60)).toBeCloseTo(at(near, 95, 60), 3);
  expect(at(near, 103, 60)).toBeGreaterThan(0.99);
  expect(at(near, 140, 60)).toBeGreaterThan(0.99);
  expect(at(near, 80, 20)).toBeGreaterThan(0.97);
});

test('the farther the wall the softer and the fainter it is; one far behind keeps its light', () => {
  const beside = [4.3, 5, 7, 40].map((z) => at(light(z), 96, 60));
  for (let k = 1; k < beside.length; k++) expect(beside[k]).toBeGreaterThan(beside[k - 1]!);
  expect(beside[3]).toBeGreaterThan(0.98);
  expect(light(Infinity).every((v) => v === 1)).toBe(true);
  // its border: a wall at some distance is still dimmed where one that touches is not
  expect(at(light(4.3), 104, 60)).toBeLessThan(at(light(4.02), 104, 60));
});

test('on the ground it lies at the foot: there the ground is as far as the card', () => {
  const ground = newPlane(W, H);
  // as far as the card in the row of its foot
  for (let i = 0; i < ground.data.length; i++) ground.data[i] = 4 * (90 / Math.max(1, Math.floor(i / W)));
  const out = light(ground);
  expect(at(out, 80, 90)).toBeLessThan(0.75);
  expect(at(out, 80, 112)).toBeGreaterThan(0.97);
  expect(at(out, 20, 91)).toBeGreaterThan(0.99);
});

test('by its strength, and none for none', () => {
  const [half, whole] = [light(4.02, 0.5), light(4.02)];
  expect(1 - at(half, 95, 60)).toBeCloseTo((1 - at(whole, 95, 60)) / 2, 5);
  expect(light(4.02, 0).every((v) => v === 1)).toBe(true);
});
