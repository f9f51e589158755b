import { describe, expect, test } from '@jest/globals';
import { layPlate } from '../camera/behind';
import { plateLens } from '../camera/pose';
import { newPicture, newPlane, type Plane } from '../picture';
import { deviation } from './deviation';
import { reduced } from './reduce';
import { cornersInSpace, sceneShape, skyDistance } from './scene';
import { BELOW, emptySheet, frontSheet, RIGHT, sheetsOf, stretched, thinned, type Sheet } from './sheet';
import { depthOfSpread, gainFor, spreadOf } from './spread';
import { tessellate, type FlatMesh } from './tessellate';

/** A sheet from what stands at each place; neighbours are joined where `one` says that they are of one surface. */
function sheetOf(width: number, height: number, q: (x: number, y: number) => number, one: (a: number, b: number) => boolean = () => true): Sheet {
  const sheet = emptySheet(width, height);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) sheet.q[y * width + x] = q(x, y);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (x + 1 < width && one(sheet.q[i]!, sheet.q[i + 1]!)) sheet.joins[i]! |= RIGHT;
      if (y + 1 < height && one(sheet.q[i]!, sheet.q[i + width]!)) sheet.joins[i]! |= BELOW;
    }
  return sheet;
}

/** The area of all triangles, px², where all of them turn the same way; NaN where one does not. */
function areaOf({ x, y, triangles }: FlatMesh): number {
  let sum = 0;
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
    const area = ((x[b]! - x[a]!) * (y[c]! - y[a]!) - (x[c]! - x[a]!) * (y[b]! - y[a]!)) / 2;
    // counter-clockwise as it is seen: y goes down
    if (area > 1e-6) return NaN;
    sum -= area;
  }
  return sum;
}

/** Edges that one triangle has alone. */
function openEdges({ triangles }: FlatMesh): number {
  const edges = new Map<string, number>();
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [triangles[t + k]!, triangles[t + ((k + 1) % 3)]!].sort((p, r) => p - r);
      edges.set(`${a},${b}`, (edges.get(`${a},${b}`) ?? 0) + 1);
    }
  return [...edges.values()].filter((n) => n === 1).length;
}

const same = (a: number, b: number): boolean => Math.abs(a - b) < 0.2;

describe('a sheet made of triangles', () => {
  test('covers its picture to the border, without gap or fold', () => {
    const mesh = tessellate(sheetOf(5, 4, () => 0.5));
    expect(areaOf(mesh)).toBeCloseTo(20, 4);
    // only the picture's border is open: two half steps at each sample of it, on each side
    expect(openEdges(mesh)).toBe(4 * (5 + 4));
  });

  test('leaves no gap where it is cut, and each side keeps its distance', () => {
    const mesh = tessellate(sheetOf(6, 6, (x) => (x < 3 ? 1 : 0.25), same));
    expect(areaOf(mesh)).toBeCloseTo(36, 4);
    expect(new Set(mesh.q)).toEqual(new Set([1, 0.25]));
    for (let i = 0; i < mesh.x.length; i++) expect(mesh.q[i]! === 1 ? mesh.x[i]! <= 3 : mesh.x[i]! >= 3).toBe(true);
  });

  test('any pattern of cuts and holes covers exactly what is there', () => {
    for (let seed = 1; seed <= 60; seed++) {
      let state = seed * 7919;
      const chance = (): number => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
      const values = Array.from({ length: 49 }, () => [-1, 0.2, 0.9, 0.9, 0.2][Math.floor(chance() * 5)]!);
      const sheet = sheetOf(
        7,
        7,
        (x, y) => values[y * 7 + x]!,
        (a, b) => a >= 0 && a === b && chance() < 0.9,
      );
      expect(areaOf(tessellate(sheet))).toBeCloseTo(values.filter((v) => v >= 0).length, 3);
    }
  });

  test('what lies over another surface stops beside what is nearer, and that one reaches half way', () => {
    const cut = sheetOf(6, 6, (x) => (x < 3 ? 1 : 0.25), same);
    const mesh = tessellate({ ...cut, under: new Uint8Array(36).fill(1) });
    const reach = (q: number, of: (a: number, b: number) => number, from: number): number =>
      Array.from(mesh.x)
        .filter((_, i) => mesh.q[i] === q)
        .reduce((a, b) => of(a, b), from);
    expect(reach(1, Math.max, 0)).toBe(3);
    expect(reach(0.25, Math.min, 9)).toBeCloseTo(3.48, 5);
    expect(areaOf(mesh)).toBeCloseTo(36 - 6 * 0.48, 1);
  });

  test('stretched, near and far are one', () => {
    const cut = sheetOf(6, 6, (x) => (x < 3 ? 1 : 0.25), same);
    const mesh = tessellate(stretched(cut));
    expect(areaOf(mesh)).toBeCloseTo(36, 4);
    expect(openEdges(mesh)).toBe(4 * (6 + 6));
  });

  test('thinned keeps its border, and a cut between two samples stays one', () => {
    const sheet = sheetOf(11, 9, (x) => (x < 5 ? 1 : 0.25), same);
    const thin = thinned(sheet, 4);
    expect([...thin.xs]).toEqual([0, 4, 10]);
    expect([...thin.ys]).toEqual([0, 4, 8]);
    expect(areaOf(tessellate(thin))).toBeCloseTo(99, 4);
    expect(thin.joins[0]! & RIGHT).toBe(RIGHT);
    expect(thin.joins[1]! & RIGHT).toBe(0);
  });
});

describe('fewer triangles', () => {
  test('a slanted wall needs few, and none of them is off', async () => {
    const sheet = sheetOf(64, 48, (x, y) => 0.2 + 0.004 * x + 0.002 * y);
    const few = await reduced(tessellate(sheet), 300, 400);
    expect(few.triangles.length / 3).toBeLessThanOrEqual(300);
    // the half px beyond the border goes on at the same distance
    expect(deviation(few, sheet, 400)).toBeLessThanOrEqual(400 * 0.003 + 1e-3);
  });

  test('every corner that stays was one of the samples', async () => {
    const sheet = sheetOf(40, 30, (x, y) => 0.5 + 0.2 * Math.sin(x / 5) * Math.cos(y / 4));
    const full = tessellate(sheet);
    const few = await reduced(full, 400, 100);
    const known = new Set(Array.from(full.x, (x, i) => `${x} ${full.y[i]} ${full.q[i]}`));
    for (let i = 0; i < few.x.length; i++) expect(known.has(`${few.x[i]} ${few.y[i]} ${few.q[i]}`)).toBe(true);
    expect(areaOf(few)).toBeCloseTo(1200, 0);
  });

  test('its deviation is what one corner was moved by', () => {
    const sheet = sheetOf(9, 9, () => 0.5);
    const mesh = tessellate(sheet);
    expect(deviation(mesh, sheet, 100)).toBe(0);
    const at = mesh.x.findIndex((x, i) => x === 4.5 && mesh.y[i] === 4.5);
    mesh.q[at]! += 0.02;
    expect(deviation(mesh, sheet, 100)).toBeLessThanOrEqual(2);
    mesh.q[at]! += 0.5;
    // a spike of 52 px: what it hides is found beside it
    expect(deviation(mesh, sheet, 100)).toBeCloseTo(1, 0);
    expect(deviation({ ...mesh, triangles: mesh.triangles.slice(0, 0) }, sheet, 100)).toBe(24);
  });
});

/** A box before a wall and a slanted floor, exactly. */
function boxScene(): { picture: ReturnType<typeof newPicture>; distance: Plane } {
  const [width, height] = [160, 120];
  const picture = newPicture(width, height);
  const distance = newPlane(width, height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const box = x >= 60 && x < 100 && y >= 40 && y < 90;
      distance.data[i] = box ? 2 : y >= 70 ? 300 / (y - 60) : 30;
      if (y < 20 && !box) distance.data[i] = Infinity;
      picture.data.set(box ? [0.8, 0.2, 0.1, 1] : [0.1, 0.3 + 0.2 * ((x >> 3) & 1), 0.5, 1], i * 4);
    }
  return { picture, distance };
}

describe('the mesh of a scene', () => {
  const { picture, distance } = boxScene();
  const lens = plateLens(160, 120, 50);
  const gain = 40;
  const plate = layPlate(picture, distance, { gain, pad: 4, border: 'mirrored', hidden: true });

  test('every corner lies on its ray, as far as the map says', async () => {
    const { surfaces, sky } = await sceneShape(sheetsOf(plate, { behind: false }), lens, gain, { triangles: Infinity });
    expect(surfaces.map((s) => s.name)).toEqual(['front']);
    const { mesh } = surfaces[0]!;
    const corners = cornersInSpace(mesh, lens, sky);
    for (let i = 0; i < mesh.x.length; i++) {
      const [x, y, z] = [corners[i * 3]!, corners[i * 3 + 1]!, corners[i * 3 + 2]!];
      expect(lens.width / 2 + (lens.focalPx * x) / -z).toBeCloseTo(mesh.x[i]!, 2);
      expect(lens.height / 2 - (lens.focalPx * y) / -z).toBeCloseTo(mesh.y[i]!, 2);
      if (mesh.x[i]! % 1 !== 0.5 || mesh.y[i]! % 1 !== 0.5) continue;
      const told = distance.data[Math.floor(mesh.y[i]!) * 160 + Math.floor(mesh.x[i]!)]!;
      expect(-z / Math.min(told, sky)).toBeCloseTo(1, 4);
    }
  });

  test('what lies behind is a second surface, nowhere before the first', async () => {
    const { surfaces } = await sceneShape(sheetsOf(plate, { behind: true }), lens, gain, { triangles: Infinity });
    expect(surfaces.map((s) => s.name)).toEqual(['front', 'behind']);
    const { q } = frontSheet(plate);
    const { mesh } = surfaces[1]!;
    let behindBox = 0;
    for (let i = 0; i < mesh.x.length; i++) {
      if (mesh.x[i]! % 1 !== 0.5 || mesh.y[i]! % 1 !== 0.5) continue;
      const before = q[Math.floor(mesh.y[i]!) * 160 + Math.floor(mesh.x[i]!)]!;
      expect(mesh.q[i]!).toBeLessThanOrEqual(before);
      if (before === 0.5) behindBox++;
    }
    expect(behindBox).toBeGreaterThan(200);
  });

  test('with few triangles the error that is told is what it is off', async () => {
    const few = await sceneShape(sheetsOf(plate, { behind: true }), lens, gain, { triangles: 900 });
    const count = few.surfaces.reduce((n, s) => n + s.mesh.triangles.length / 3, 0);
    expect(count).toBeLessThanOrEqual(900);
    expect(few.error).toBeGreaterThanOrEqual(deviation(few.surfaces[0]!.mesh, frontSheet(plate), gain));
    expect(few.error).toBeLessThan(0.5);
    const [many, fewer] = await Promise.all([600, 24].map((triangles) => sceneShape(sheetsOf(plate, { behind: false }), lens, gain, { triangles })));
    expect(fewer!.error).toBeGreaterThan(many!.error);
  });

  test('sky stands beyond the farthest thing', () => {
    expect(skyDistance(Float32Array.of(0, 0.5, 0.01))).toBeCloseTo(300, 3);
    expect(skyDistance(Float32Array.of(0, 0))).toBe(50);
    expect(skyDistance(Float32Array.of(1))).toBe(50);
  });

  test('a map without anything in it is said to be none', async () => {
    const empty = { ...plate, q: new Float32Array(plate.q.length).fill(-1) };
    await expect(sceneShape(sheetsOf(empty, { behind: true }), lens, gain, { triangles: 100 })).rejects.toMatchObject({ code: 'no-depth' });
  });
});

describe('how deep a scene is', () => {
  test('strays at either end do not count, and what is missing is left out', () => {
    const q = Float64Array.from({ length: 10_000 }, (_, i) => (i < 5 ? 90 : i < 10 ? 0 : i % 3 === 0 ? -1 : 0.1 + (0.4 * i) / 10_000));
    const { least, middle, most } = spreadOf(q.length, (i) => q[i]!);
    expect(least).toBeCloseTo(0.1, 2);
    expect(middle).toBeCloseTo(0.3, 2);
    expect(most).toBeCloseTo(0.5, 2);
  });

  test('noise of a wall is no depth: it does not pass itself', () => {
    const wall = spreadOf(1000, (i) => 0.25 + 1e-7 * (i % 7));
    expect(depthOfSpread(wall)).toBeCloseTo(0.005, 5);
    // 6 % of the width would be 96 px
    expect(gainFor(0.06, 1600, wall) * 6e-7).toBeLessThan(0.02);
    expect(
      Number.isFinite(
        gainFor(
          0.06,
          1600,
          spreadOf(4, () => 0),
        ),
      ),
    ).toBe(true);
    expect(
      Number.isFinite(
        gainFor(
          0.06,
          1600,
          spreadOf(4, () => -1),
        ),
      ),
    ).toBe(true);
  });
});
