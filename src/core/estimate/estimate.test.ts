import { describe, expect, test } from '@jest/globals';
import { seededRandom } from '../random';
import type { Plane, Raster } from '../picture';
import { barrierDistance } from './barrier';
import { enlargeEstimate, estimateDepth } from './estimate';
import { orderScore, spearman } from './score';
import { loadNetwork } from '../../../headless/network';
import { patchEdges, patchMeans, superpixels } from './superpixels';

loadNetwork();

const planeOf = (width: number, height: number, f: (x: number, y: number) => number): Plane => ({
  width,
  height,
  data: Float32Array.from({ length: width * height }, (_, i) => f(i % width, Math.floor(i / width))),
});

describe('scores', () => {
  const distance = planeOf(64, 64, (x, y) => 1 + 0.1 * y + 0.003 * x);
  test('the truth orders every pair, its reverse none, a constant half', () => {
    const inverse = planeOf(64, 64, (x, y) => 1 / distance.data[y * 64 + x]!);
    expect(orderScore(inverse, distance)).toBe(1);
    expect(
      orderScore(
        planeOf(64, 64, (x, y) => -inverse.data[y * 64 + x]!),
        distance,
      ),
    ).toBe(0);
    expect(
      orderScore(
        planeOf(64, 64, () => 0.5),
        distance,
      ),
    ).toBe(0.5);
    expect(spearman(inverse, distance)).toBeCloseTo(1, 3);
    expect(
      spearman(
        planeOf(64, 64, () => 0.5),
        distance,
      ),
    ).toBe(0);
  });
  test('pairs that are both at infinity do not count', () => {
    const sky = planeOf(64, 64, (_, y) => (y < 32 ? Infinity : 100 - y));
    const flat = planeOf(64, 64, (_, y) => (y < 32 ? 0 : 1 / (100 - y)));
    expect(orderScore(flat, sky)).toBe(1);
  });
});

describe('barrier distance', () => {
  test('is the climb of the easiest path from the seeds', () => {
    const walled = planeOf(30, 30, (x, y) =>
      x >= 10 && x < 20 && y >= 10 && y < 20 ? (x === 10 || x === 19 || y === 10 || y === 19 ? 0.8 : 0.2) : 0,
    );
    const d = barrierDistance([walled], (_, y) => y === 0);
    expect(d.data[25 * 30 + 5]).toBe(0);
    expect(d.data[15 * 30 + 15]).toBeCloseTo(0.8, 6);
  });
});

describe('superpixels', () => {
  const picture = planeOf(90, 60, (x) => (x < 37 ? 0.2 : 0.8));
  const none = planeOf(90, 60, () => 0);
  const patches = superpixels([picture, none, none], 60);
  test('cover the picture and keep to its edge', () => {
    expect(patches.size.reduce((a, b) => a + b, 0)).toBe(90 * 60);
    const means = patchMeans(patches, picture);
    for (const m of means) expect(Math.min(Math.abs(m - 0.2), Math.abs(m - 0.8))).toBeLessThan(0.02);
  });
  test('every patch is one connected piece that touches others', () => {
    const touched = new Set(patchEdges(patches, none).flatMap((e) => [e.from, e.to]));
    expect(touched.size).toBe(patches.count);
  });
});

/** A grey cobbled ground under a plain sky, with coloured posts standing on it. */
function scene(posts: { x: number; width: number; foot: number; top: number; colour: [number, number, number] }[]): {
  raster: Raster;
  distance: Plane;
} {
  const [w, h, horizon] = [480, 320, 130];
  const random = seededRandom(11);
  const data = new Uint8Array(w * h * 3);
  const distance = planeOf(w, h, (_, y) => (y <= horizon ? 1e5 : 300 / (y - horizon)));
  for (let i = 0; i < w * h; i++) {
    const [x, y] = [i % w, Math.floor(i / w)];
    const texture = 18 * (random() - 0.5);
    let c: [number, number, number] = y < horizon ? [150, 180, 225] : [120 + texture, 112 + texture, 100 + texture];
    for (const p of posts)
      if (Math.abs(x - p.x) < p.width / 2 && y < p.foot && y > p.top) {
        c = p.colour.map((v) => v + 6 * (random() - 0.5)) as [number, number, number];
        distance.data[i] = 300 / (p.foot - horizon);
      }
    data.set(c, i * 3);
  }
  return { raster: { width: w, height: h, channels: 3, data }, distance };
}

describe('estimate', () => {
  const posts = [
    { x: 110, width: 46, foot: 290, top: 40, colour: [150, 40, 30] as [number, number, number] },
    { x: 330, width: 30, foot: 190, top: 70, colour: [30, 90, 60] as [number, number, number] },
  ];
  const { raster, distance } = scene(posts);

  test.each(['draft', 'fine'] as const)('orders a plain scene better than a ramp: %s', (quality) => {
    const map = estimateDepth(raster, quality)!;
    const ramp = planeOf(48, 32, (_, y) => y);
    expect(orderScore(map, distance)).toBeGreaterThan(orderScore(ramp, distance) + 0.03);
    expect(map.data.every((v) => v >= 0 && v <= 1)).toBe(true);
  });

  test('things stand as things: a post is one depth up to its top, with the picture’s own edges', () => {
    const map = enlargeEstimate(estimateDepth(raster, 'fine')!, raster);
    const at = (x: number, y: number): number => map.data[y * 480 + x]!;
    expect(Math.abs(at(110, 60) - at(110, 240))).toBeLessThan(0.2);
    expect(at(110, 100) - at(200, 100)).toBeGreaterThan(0.4);
    expect(at(110, 100)).toBeGreaterThan(at(330, 100) + 0.15);
    // the step at the post's side lies within a few px of the picture's edge
    expect(at(110 + 23 - 5, 90) - at(110 + 23 + 5, 90)).toBeGreaterThan(0.3);
  });

  test.each(['draft', 'fine'] as const)('what is sharp before a blurred background is nearer, wherever in the picture it is: %s', (quality) => {
    const [w, h] = [480, 320];
    const random = seededRandom(5);
    const cells = Float32Array.from({ length: 160 * 107 }, () => random());
    for (const [cx, cy] of [
      [240, 150],
      [150, 120],
    ] as const) {
      const inside = (x: number, y: number): boolean => ((x - cx) / 80) ** 2 + ((y - cy) / 95) ** 2 < 1;
      const data = new Uint8Array(w * h * 3);
      for (let i = 0; i < w * h; i++) {
        const [x, y] = [i % w, Math.floor(i / w)];
        const soft = 90 + 40 * Math.sin(x / 37) * Math.cos(y / 29 + x / 90);
        const fur = 40 + 160 * cells[Math.floor(y / 3) * 160 + Math.floor(x / 3)]!;
        data.set(inside(x, y) ? [fur, 0.75 * fur, 0.5 * fur] : [0.7 * soft, soft, 0.6 * soft], i * 3);
      }
      const map = estimateDepth({ width: w, height: h, channels: 3, data }, quality)!;
      const mean = (x: number, y: number): number => {
        let sum = 0;
        for (let v = -4; v <= 4; v++)
          for (let u = -4; u <= 4; u++) {
            const [mx, my] = [Math.floor(((x + 4 * u) / w) * map.width), Math.floor(((y + 4 * v) / h) * map.height)];
            sum += map.data[my * map.width + mx]! / 81;
          }
        return sum;
      };
      const subject = mean(cx, cy);
      for (const [x, y] of [
        [cx - 120, cy],
        [cx + 120, cy],
        [cx + 120, cy + 60],
      ] as const)
        expect(subject).toBeGreaterThan(mean(x, y) + 0.15);
    }
  });

  test('it stops when told to', () => {
    let calls = 0;
    expect(estimateDepth(raster, 'draft', () => ++calls < 2)).toBeNull();
    expect(calls).toBe(2);
  });

  test('tiny and plain pictures give a map without faults', () => {
    const tiny: Raster = { width: 16, height: 16, channels: 3, data: new Uint8Array(768).fill(90) };
    expect(estimateDepth(tiny, 'fine')!.data.every(Number.isFinite)).toBe(true);
  });
});
