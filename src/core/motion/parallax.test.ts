import { describe, expect, test } from '@jest/globals';
import { seededRandom } from '../random';
import type { Plane } from '../picture';
import { egoMotion, inverseDepth, isTrusted, type Vector } from './egoMotion';
import type { Link, Links } from './links';
import { withParallax } from './parallax';

const [W, H] = [240, 136];
const FOCAL = 260;
/** A slope of ground with a wall behind it and a post before it, m. */
const distance = (x: number, y: number): number => (x > 90 && x < 120 && y > 30 ? 3 : y > 70 ? 500 / (y - 20) : 10);
/** Something that goes its own way. */
const moving = (x: number, y: number): boolean => x > 170 && x < 200 && y > 40 && y < 100;

/** Flow of a scene under a camera's way (m a frame) and turn (rad), with noise of the flow. */
function linkOf(way: Vector, turn: Vector, noise = 0.04, mover: readonly [number, number] = [0, 0]): Link {
  const random = seededRandom(7);
  const u = new Float32Array(W * H);
  const v = new Float32Array(W * H);
  for (let row = 0, i = 0; row < H; row++)
    for (let column = 0; column < W; column++, i++) {
      const [x, y] = [(column + 0.5 - W / 2) / FOCAL, (row + 0.5 - H / 2) / FOCAL];
      const rho = 1 / distance(column, row);
      const own = moving(column, row) ? mover : [0, 0];
      u[i] = FOCAL * (rho * (x * way[2] - way[0]) + turn[0] * x * y - turn[1] * (1 + x * x) + turn[2] * y) + own[0] + noise * (random() - 0.5);
      v[i] = FOCAL * (rho * (y * way[2] - way[1]) + turn[0] * (1 + y * y) - turn[1] * x * y - turn[2] * x) + own[1] + noise * (random() - 0.5);
    }
  return { flow: { width: W, height: H, u, v }, seen: new Uint8Array(W * H).fill(1) };
}
const back = ({ flow, seen }: Link): Link => ({ flow: { ...flow, u: flow.u.map((a) => -a), v: flow.v.map((a) => -a) }, seen });

describe('how a camera moved', () => {
  test.each([
    ['aside and turning', [0.1, 0, 0], [0.002, 0.004, -0.003]],
    ['forward', [0.01, -0.02, 0.12], [0, 0.001, 0]],
    ['backward', [0.02, 0.01, -0.12], [0.001, 0, 0.002]],
  ] as [string, Vector, Vector][])('%s: its direction, its turn, and what is how far', (_, way, turn) => {
    const link = linkOf(way, turn);
    const found = egoMotion(link, FOCAL);
    expect(isTrusted(found)).toBe(true);
    const length = Math.hypot(...way);
    const cosine = way.reduce((sum, a, k) => sum + (a / length) * found.way[k]!, 0);
    expect(Math.acos(Math.min(1, cosine)) * (180 / Math.PI)).toBeLessThan(2.5);
    for (const k of [0, 1, 2] as const) expect(found.turn[k]).toBeCloseTo(turn[k], 3);
    const { value, spread } = inverseDepth(link, found, FOCAL);
    const at = (x: number, y: number): number => value[y * W + x]!;
    expect(spread[60 * W + 105]).toBeLessThan(Infinity);
    // the post against the wall beside it, which stand at 3 and 10 m
    expect(at(105, 60) / at(60, 60)).toBeGreaterThan(2.7);
    expect(at(105, 60) / at(60, 60)).toBeLessThan(4.2);
  });

  test('one that stands still, and one that only turns, tell nothing', () => {
    expect(isTrusted(egoMotion(linkOf([0, 0, 0], [0, 0, 0], 0.3), FOCAL))).toBe(false);
    expect(isTrusted(egoMotion(linkOf([0, 0, 0], [0.004, 0.03, 0.002], 0.3), FOCAL))).toBe(false);
  });

  test('what goes its own way is told apart', () => {
    const link = linkOf([0.1, 0, 0], [0, 0, 0], 0.04, [0, 4]);
    const { moves, spread } = inverseDepth(link, egoMotion(link, FOCAL), FOCAL);
    expect([moves[70 * W + 185], spread[70 * W + 185]]).toEqual([1, Infinity]);
    expect([moves[70 * W + 60], moves[20 * W + 220]]).toEqual([0, 0]);
  });
});

describe('maps corrected by parallax', () => {
  const random = seededRandom(3);
  const luma: Plane = {
    width: W,
    height: H,
    data: Float32Array.from({ length: W * H }, (_, i) => 100 + 60 / distance(i % W, Math.floor(i / W)) + 4 * random()),
  };
  /** An estimate that takes the post for a part of the wall. */
  const wrong: Plane = {
    width: W,
    height: H,
    data: Float32Array.from({ length: W * H }, (_, i) => (Math.floor(i / W) > 70 ? (Math.floor(i / W) - 20) / 500 : 0.1) * 2),
  };
  const linked = (link: Link): Links => ({ next: [link, link, null], before: [null, back(link), back(link)] });
  const nearnessAt = ({ data }: Plane, x: number, y: number): number => data[y * W + x]!;

  test('stand out where they must', () => {
    const { maps, believed } = withParallax([wrong, wrong, wrong], [luma, luma, luma], linked(linkOf([0.1, 0, 0], [0, 0.002, 0])), FOCAL / W);
    expect(believed).toBeGreaterThan(2);
    expect(nearnessAt(wrong, 105, 50)).toBeCloseTo(nearnessAt(wrong, 60, 50), 6);
    // 1/3 against 1/10, in the scale of the estimate
    expect(nearnessAt(maps[1]!, 105, 50)).toBeGreaterThan(nearnessAt(maps[1]!, 60, 50) + 0.15);
  });
  test('are left as they are, to the bit, where the camera only turns', () => {
    const { maps, believed } = withParallax([wrong, wrong, wrong], [luma, luma, luma], linked(linkOf([0, 0, 0], [0, 0.03, 0], 0.3)), FOCAL / W);
    expect(believed).toBe(0);
    expect(maps[1]).toBe(wrong);
  });
  test('keep what was estimated of a thing that goes its own way', () => {
    const { maps } = withParallax([wrong, wrong, wrong], [luma, luma, luma], linked(linkOf([0.1, 0, 0], [0, 0, 0], 0.04, [0, 4])), FOCAL / W);
    for (const y of [50, 60, 85]) expect(nearnessAt(maps[1]!, 185, y)).toBeCloseTo(nearnessAt(wrong, 185, y), 2);
  });
});
