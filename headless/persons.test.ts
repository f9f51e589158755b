import { expect, test } from '@jest/globals';
import { demoShot } from '../bench/truth';
import { personsSeries } from '../src/core/depth/layers/persons/content';
import { coverageAt, personAt, personsIn, personsWithin, placeOf } from '../src/core/estimate/people/chosen';
import type { Person } from '../src/core/estimate/people/person';
import { newPlane, type Plane, type Raster } from '../src/core/picture';
import { followRegion } from '../src/engine/clip/followRegion';
import { loadNetwork } from './network';

loadNetwork();

/** A person whose mask is a rectangle of a plane of 100 x 50. */
function rectangle(left: number, top: number, right: number, bottom: number): Person {
  const mask = newPlane(100, 50);
  for (let y = top; y < bottom; y++) mask.data.fill(1, y * 100 + left, y * 100 + right);
  return { box: { left: left / 100, top: top / 50, right: right / 100, bottom: bottom / 50, score: 1, person: true }, mask };
}

test('a click means who covers the place, or else the smallest whose box holds it; together they cover what each does', () => {
  const [large, small] = [rectangle(10, 5, 60, 45), rectangle(70, 20, 80, 40)];
  const people = [large, small];
  expect(personAt(people, { x: 0.3, y: 0.5 })).toBe(large);
  expect(personAt(people, { x: 0.75, y: 0.6 })).toBe(small);
  expect(personAt(people, { x: 0.95, y: 0.05 })).toBeNull();
  const arm = { ...small, mask: newPlane(100, 50) };
  expect(personAt([large, arm], { x: 0.75, y: 0.6 })).toBe(arm);
  const area = (plane: Plane): number => plane.data.reduce((a, b) => a + b, 0);
  const size = { width: 100, height: 50 };
  expect(area(coverageAt(people, [{ x: 0.3, y: 0.5 }], size))).toBe(50 * 40);
  // the same one clicked twice is one, and a click beside everybody says nothing
  expect(
    area(
      coverageAt(
        people,
        [
          { x: 0.3, y: 0.5 },
          { x: 0.4, y: 0.5 },
          { x: 0.75, y: 0.6 },
          { x: 0.95, y: 0.05 },
        ],
        size,
      ),
    ),
  ).toBe(50 * 40 + 10 * 20);
  expect(coverageAt([], [{ x: 0.5, y: 0.5 }], size)).toEqual(newPlane(100, 50));
  expect(placeOf(small)).toEqual({ x: 0.745, y: 0.59, share: (10 * 20) / 5000 });
  // who lies half within a region at the most is another
  const region: Plane = { width: 10, height: 5, data: Float32Array.from({ length: 50 }, (_, i) => (i % 10 < 3 ? 1 : 0)) };
  expect(personsWithin(people, region)).toEqual([]);
  region.data.forEach((_, i) => (region.data[i] = i % 10 < 5 ? 1 : 0));
  expect(personsWithin(people, region)).toEqual([large]);
});

test('who was clicked, and on which frame, is the address of what they cover', () => {
  const [a, b] = [
    { x: 0.2, y: 0.3, frame: 0 },
    { x: 0.6, y: 0.3, frame: 8 },
  ];
  const series = (...clicked: (typeof a)[]): string | null => personsSeries('plate', { clicked });
  expect(series()).toBeNull();
  expect(new Set([series(a), series(b), series(a, b), series({ ...a, frame: 8 })]).size).toBe(4);
});

/** A window of a picture that goes to the right, so many px a frame. */
function sliding({ width, data }: Raster, size: { width: number; height: number }, top: number, step: number) {
  const frame = (f: number): Promise<Raster> => {
    const out = new Uint8Array(size.width * size.height * 3);
    for (let y = 0; y < size.height; y++)
      for (let x = 0; x < size.width; x++)
        for (let c = 0; c < 3; c++) out[(y * size.width + x) * 3 + c] = data[((y + top) * width + x + f * step) * (data.length / (width * 900)) + c]!;
    return Promise.resolve({ ...size, channels: 3, data: out });
  };
  return { frame, glance: null };
}

test('a person who was clicked on one frame is followed through the others, both ways, and found again', async () => {
  const { raster } = await demoShot('figurehead');
  const size = { width: 1200, height: 720 };
  const clip = sliding(raster, size, 180, 12);
  const kept = new Map<number, Plane>();
  const ref = { sha256: 'a'.repeat(64), name: 'c', ...size, clip: { frames: 12, fps: 24 } };
  const [person] = personsIn(await clip.frame(4))!.map(placeOf);
  const lost = await followRegion(
    { of: ref, series: 's', drawings: [{ frame: 4, clicked: [{ ...person!, frame: 4 }] }], from: 0, to: 11 },
    clip as never,
    { keepFrame: (_, f, plane) => Promise.resolve(void kept.set(f, plane)) },
    () => undefined,
  );
  expect([...kept.keys()].sort((a, b) => a - b)).toEqual(Array.from({ length: 12 }, (_, f) => f));
  expect(Math.max(...lost)).toBeLessThan(0.2);
  // the same pixels of the picture on every frame: those of frame 4, moved
  const first = kept.get(4)!;
  const like = (f: number): number => {
    const there = kept.get(f)!;
    const moved = ((f - 4) * 12 * there.width) / size.width;
    let [both, either] = [0, 0];
    for (let y = 0; y < there.height; y++)
      for (let x = 0; x < there.width; x++) {
        const from = Math.round(x + moved);
        if (from < 0 || from >= there.width) continue;
        const [is, was] = [there.data[y * there.width + x]! > 0.5, first.data[y * first.width + from]! > 0.5];
        both += Number(is && was);
        either += Number(is || was);
      }
    return both / either;
  };
  // carried along what moves, and where they were found again
  for (const f of [2, 6, 7, 10, 11]) expect([f, like(f) > 0.87]).toEqual([f, true]);
  for (const f of [0, 8]) expect([f, like(f) > 0.93]).toEqual([f, true]);
}, 120_000);
