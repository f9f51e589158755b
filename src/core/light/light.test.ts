import { describe, expect, test } from '@jest/globals';
import { constantPlane, newPicture, newPlane, type Plane } from '../picture';
import { seededRandom } from '../random';
import { Aborted } from '../run';
import { depthField, enlarged, thinned } from './depthField';
import { ggx } from './gloss';
import { harmonicsOf, irradianceAt } from './harmonics';
import { enlargedTwin, fallTwin, relitTwin, tentedTwin } from './lampTwin';
import { coarseStep, isRough, normalsOf } from './normals';
import { fittedTwin } from './normalsTwin';
import { opennessOf } from './openness';
import type { Light, Surfaces } from './lights';
import { relit } from './relight';
import { seesLamp, tented, thicknessOf, type Point } from './shadow';

const [W, H, F] = [160, 120, 150];
const BARE: Surfaces = { even: 1, shading: 0, hollows: 0, balance: 0, gloss: 0, roughness: 0.5, relief: 1, shadows: false };
const u = (x: number): number => (x + 0.5 - W / 2) / F;
const v = (y: number): number => (y + 0.5 - H / 2) / F;

/** Distances at which rays meet what is told by a function of the ray; Infinity where they meet nothing. */
function traced(hit: (u: number, v: number) => number): Plane {
  const out = newPlane(W, H);
  for (let y = 0; y < H; y++) for (let x = 0; x < W; x++) out.data[y * W + x] = hit(u(x), v(y));
  return out;
}
/** A plane n·P = d. */
const plane = ([a, b, c]: Point, d: number): Plane =>
  traced((p, q) => {
    const k = a * p + b * q + c;
    const z = d / k;
    return z > 0 ? z : Infinity;
  });
/** A sphere before a wall. */
const CENTRE: Point = [0.1, -0.05, 3];
const RADIUS = 0.8;
function sphereHit(p: number, q: number): number {
  const l2 = p * p + q * q + 1;
  const b = (p * CENTRE[0] + q * CENTRE[1] + CENTRE[2]) / l2;
  const c = (CENTRE[0] ** 2 + CENTRE[1] ** 2 + CENTRE[2] ** 2 - RADIUS ** 2) / l2;
  const inside = b * b - c;
  return inside > 0 ? b - Math.sqrt(inside) : Infinity;
}
const degrees = (n: Float32Array, i: number, [a, b, c]: Point): number => {
  const k = Math.hypot(a, b, c);
  const dot = (n[3 * i]! * a + n[3 * i + 1]! * b + n[3 * i + 2]! * c) / k;
  return (Math.acos(Math.min(1, dot)) * 180) / Math.PI;
};
const white = (value = 0.5) => {
  const p = newPicture(W, H);
  for (let i = 0; i < W * H; i++) p.data.set([value, value, value, 1], i * 4);
  return p;
};
const alone = <T>(_: string, make: () => T): T => make();
const lit = (distance: Plane, light: Light, surfaces: Partial<Surfaces> = {}, keep = 0, plate = white()): Float32Array =>
  relit(plate, plate, depthField(distance, F), [light], { ...BARE, ...surfaces }, keep, alone).data;

describe('normals', () => {
  test('of a plane are exact, whichever way it leans', () => {
    for (const n of [
      [0, 0, 1],
      [0.3, -0.2, 1],
      [0, 1, 0.4],
    ] as Point[]) {
      const found = normalsOf(depthField(plane(n, 2), F));
      const facing = n.map((k) => -k) as unknown as Point;
      for (const [x, y] of [
        [80, 60],
        [20, 90],
        [140, 100],
      ] as const)
        expect(degrees(found, y * W + x, facing)).toBeLessThan(0.05);
    }
  });
  test('of a sphere are within a degree', () => {
    const found = normalsOf(
      depthField(
        traced((p, q) => Math.min(6, sphereHit(p, q))),
        F,
      ),
    );
    let worst = 0;
    for (let y = 40; y < 75; y++)
      for (let x = 65; x < 100; x++) {
        const z = sphereHit(u(x), v(y));
        worst = Math.max(worst, degrees(found, y * W + x, [z * u(x) - CENTRE[0], z * v(y) - CENTRE[1], z - CENTRE[2]]));
      }
    expect(worst).toBeLessThan(1);
  });
  test('a strand one pixel wide faces us, and an edge is not smeared', () => {
    const z = plane([0, 0, 1], 4);
    for (let y = 0; y < H; y++) z.data[y * W + 50] = 2;
    const found = normalsOf(depthField(z, F));
    for (const x of [49, 50, 51]) expect(degrees(found, 60 * W + x, [0, 0, -1])).toBeLessThan(20);
  });
  test('a map of coarse steps is told by its steps, and fitted by planes', () => {
    const tilted = plane([0.35, 0.1, 1], 2);
    const inverse = tilted.data.map((d) => 1 / d);
    const step = 0.01;
    const coarse: Plane = { ...tilted, data: inverse.map((q) => 1 / (Math.round(q / step) * step)) };
    expect(coarseStep(depthField(tilted, F))).toBe(0);
    expect(coarseStep(depthField(coarse, F))).toBeCloseTo(step, 5);
    const found = normalsOf(depthField(coarse, F));
    let sum = 0;
    for (let x = 30; x < 130; x++) sum += degrees(found, 60 * W + x, [-0.35, -0.1, -1]) / 100;
    expect(sum).toBeLessThan(9);
  });
  test('normals of a coarse map are broken off where nobody waits any more, and the next ones are whole', () => {
    const tilted = plane([0.35, 0.1, 1], 2);
    const coarse = depthField({ ...tilted, data: tilted.data.map((d) => 1 / (Math.round(1 / d / 0.01) * 0.01)) }, F);
    let looks = 0;
    const stop = (): void => {
      if (++looks === 3) throw new Aborted();
    };
    expect(() => normalsOf(coarse, stop)).toThrow(Aborted);
    expect(looks).toBe(3);
    const [found, twin] = [normalsOf(coarse), fittedTwin(coarse, coarseStep(coarse))];
    expect(found.reduce((most, n, i) => Math.max(most, Math.abs(n - twin[i]!)), 0)).toBeLessThan(1e-3);
  });
  test('the kernel fits planes as its twin does, over edges, sky and the border too, at a width that fills no vector', () => {
    const step = 0.004;
    const ball = traced((p, q) => Math.min(p > 0.3 ? Infinity : 4.5, sphereHit(p, q)));
    const width = 131;
    const cut = newPlane(width, 40);
    for (let i = 0; i < cut.data.length; i++)
      cut.data[i] = 1 / (Math.round(1 / ball.data[(Math.floor(i / width) + 40) * W + (i % width)]! / step) * step);
    const field = depthField(cut, F);
    expect(coarseStep(field)).toBeCloseTo(step, 5);
    const [found, twin] = [normalsOf(field), fittedTwin(field, coarseStep(field))];
    found.forEach((n, i) => expect(n).toBeCloseTo(twin[i]!, 3));
  });
  test('a rough map, as estimates are, is told from a clean one, and its edges stay', () => {
    const random = seededRandom(3);
    const rough = (clean: Plane): Plane => ({ ...clean, data: clean.data.map((z) => z * (1 + 0.004 * (random() - 0.5))) });
    const clean = plane([0.35, 0.1, 1], 2);
    const ball = traced((p, q) => Math.min(6, sphereHit(p, q)));
    for (const z of [clean, ball]) {
      expect(isRough(depthField(z, F))).toBe(false);
      expect(isRough(depthField(rough(z), F))).toBe(true);
    }
    const mean = (z: Plane, truth: Point): number => {
      const found = normalsOf(depthField(z, F));
      let sum = 0;
      for (let x = 30; x < 130; x++) sum += degrees(found, 60 * W + x, truth) / 100;
      return sum;
    };
    // slopes from pixel to pixel would be noise
    expect(mean(rough(clean), [-0.35, -0.1, -1])).toBeLessThan(5);
    // before a wall the middle of a card faces us up to its rim
    const card = traced((p) => (Math.abs(p) < 0.2 ? 2 : 4));
    const found = normalsOf(depthField(rough(card), F));
    const rim = Math.round(W / 2 - 0.2 * F) + 1;
    expect(degrees(found, 60 * W + rim, [0, 0, -1])).toBeLessThan(25);
  });
});

describe('a lamp', () => {
  const lamp: Light = { is: 'lamp', place: [0.4, -0.6, 1.2], intensity: [4, 2, 1], size: 0 };
  test('on a plane and on a sphere gives what Lambert and the inverse square say, to 1 %', () => {
    const sphere = traced((p, q) => sphereHit(p, q));
    for (const [distance, normal] of [
      [plane([0.2, -0.3, 1], 3), () => [-0.2, 0.3, -1] as Point],
      [sphere, (x: number, y: number, z: number) => [z * u(x) - CENTRE[0], z * v(y) - CENTRE[1], z - CENTRE[2]] as Point],
    ] as const) {
      const out = lit(distance, lamp);
      for (const [x, y] of [
        [84, 56],
        [90, 50],
        [78, 66],
      ] as const) {
        const z = distance.data[y * W + x]!;
        const n = normal(x, y, z);
        const to = [0.4 - z * u(x), -0.6 - z * v(y), 1.2 - z];
        const d = Math.hypot(...to);
        const cosine = (n[0] * to[0]! + n[1] * to[1]! + n[2] * to[2]!) / (Math.hypot(...n) * d);
        for (const [k, intensity] of [4, 2, 1].entries()) {
          const expected = ((0.5 / Math.PI) * intensity * Math.max(0, cosine)) / (d * d);
          expect(out[(y * W + x) * 4 + k]! / expected).toBeGreaterThan(0.99);
          expect(out[(y * W + x) * 4 + k]! / expected).toBeLessThan(1.01);
        }
      }
    }
  });
  test('twice as far gives a quarter of the light', () => {
    const wall = plane([0, 0, 1], 4);
    const at = (z: number): number => lit(wall, { ...lamp, place: [0, 0, z] })[(60 * W + 80) * 4]!;
    expect(at(3) / at(2)).toBeCloseTo(4, 1);
  });
  test('what it does not add to is kept as far as is asked, and alpha stays', () => {
    const out = lit(constantPlane(W, H, Infinity), lamp, {}, 0.25);
    expect(out[0]).toBeCloseTo(0.125, 6);
    expect(out[3]).toBe(1);
  });
  test('no surface returns more than 95 %, however bright the plate is', () => {
    const wall = plane([0, 0, 1], 4);
    const [bright, brighter] = [1, 5].map((l) => lit(wall, lamp, {}, 0, white(l))[(60 * W + 80) * 4]!);
    expect(bright).toBeGreaterThan(0);
    expect(brighter).toBeCloseTo(bright!, 6);
  });
});

describe('shadows', () => {
  /** A card before a wall: its shadow on the wall ends where the ray past its edge meets the wall. */
  const [CARD, WALL, HALF] = [2, 4, 0.35];
  const scene = traced((p, q) => (Math.abs(p * CARD) < HALF && Math.abs(q * CARD) < HALF ? CARD : WALL));
  const field = depthField(scene, F);
  const thickness = thicknessOf(field);
  const lamp: Point = [-0.5, 0, 1];
  test('of a card end within one pixel of where they must', () => {
    const seen = seesLamp(field, thickness, lamp);
    // the right edge of the card, x = 0.35 at 2 m, seen from the lamp, falls on the wall here
    const edge = lamp[0] + ((HALF - lamp[0]) * (WALL - lamp[2])) / (CARD - lamp[2]);
    const column = (edge / WALL) * F + W / 2;
    const row = seen.subarray(60 * W, 61 * W);
    let found = 0;
    for (let x = 110; x < W - 1; x++) if (row[x]! < 0.5 && row[x + 1]! >= 0.5) found = x + 1;
    expect(Math.abs(found - column)).toBeLessThanOrEqual(1);
    // the card itself and the wall on the lamp's side are lit
    expect(row[80]).toBe(1);
    expect(row[20]).toBe(1);
  });
  test('are none on a plane that leans, nor on a sphere’s lit side', () => {
    const tilted = depthField(plane([0.3, 0.9, 0.6], 2), F);
    const seen = seesLamp(tilted, thicknessOf(tilted), [0, -0.5, 1]);
    for (let i = 0; i < seen.length; i++) if (tilted.inverse[i]! > 0) expect(seen[i]).toBe(1);
  });
  test('the kernel and its readable twin agree to the bit, hard and soft', () => {
    const random = seededRandom(4);
    const rough = depthField({ ...scene, data: scene.data.map((z) => (random() < 0.05 ? 2.6 : z)) }, F);
    for (const options of [{}, { radius: 0.1, points: 6 }])
      for (const place of [lamp, [0.2, 0.1, -1], [3, -2, 0]] as Point[])
        expect(seesLamp(rough, thicknessOf(rough), place, options)).toEqual(seesLamp(rough, thicknessOf(rough), place, { ...options, twin: true }));
  });
  test('a lamp with a size casts softer ones', () => {
    const soft = seesLamp(field, thickness, lamp, { radius: 0.15, points: 6 });
    const hard = seesLamp(field, thickness, lamp);
    const between = (s: Float32Array): number => s.filter((a) => a > 0.05 && a < 0.95).length;
    expect(between(soft)).toBeGreaterThan(2 * between(hard));
  });
  test('a solid is no thicker than half its width, nor than a tenth of its distance', () => {
    const deep = thicknessOf(field);
    expect(deep[60 * W + 80]).toBeLessThanOrEqual(0.1 * CARD + 1e-6);
    const z = plane([0, 0, 1], 4);
    for (let y = 0; y < H; y++) z.data[y * W + 50] = 2;
    expect(thicknessOf(depthField(z, F))[60 * W + 50]).toBeCloseTo((0.5 * 2) / F, 5);
  });
  test('the tent leaves an even plane and the other side of an edge alone', () => {
    const even = new Float32Array(W * H).fill(0.7);
    expect(tented(field, even, 'inside')).toEqual(even);
    const one = new Float32Array(W * H);
    const i = 60 * W + Math.floor(W / 2 + (HALF / CARD) * F - 0.5);
    one[i] = 1;
    const spread = tented(field, one, 'inside');
    expect(spread[i + 1]).toBe(0);
    expect(spread[i - 1]).toBeGreaterThan(0);
  });
});

test('a wall alone is open; the foot of a step is not', () => {
  const wall = depthField(plane([0, 0, 1], 3), F);
  expect(Math.min(...opennessOf(wall, normalsOf(wall), 1))).toBeGreaterThan(0.98);
  // a floor that meets a wall
  const corner = depthField(
    traced((_, q) => Math.min(4, q > 0.01 ? 0.8 / q : Infinity)),
    F,
  );
  const open = opennessOf(corner, normalsOf(corner), 1);
  const foot = Math.round(H / 2 + (0.8 / 4) * F);
  expect(open[(foot + 1) * W + 80]).toBeLessThan(0.9);
  expect(open[(H - 4) * W + 80]).toBeGreaterThan(0.97);
});

test('what is worked out on a thinned field is brought back within its surfaces', () => {
  const field = depthField(
    traced((p) => (p < 0 ? 2 : 5)),
    F,
  );
  const small = thinned(field, 4);
  const values = small.inverse.map((q) => (q > 0.3 ? 1 : 0));
  const out = enlarged(field, small, values, 4);
  for (let x = 0; x < W; x++) expect(out[60 * W + x]).toBeCloseTo(x < W / 2 ? 1 : 0, 2);
});

describe('light from all round', () => {
  const [w, h] = [64, 32];
  const round = (light: (up: number, right: number) => number) => {
    const p = newPicture(w, h);
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        const polar = ((y + 0.5) / h) * Math.PI;
        const l = light(Math.cos(polar), Math.sin(polar) * Math.sin(((x + 0.5) / w - 0.5) * 2 * Math.PI));
        p.data.set([l, 2 * l, 0, 1], (y * w + x) * 4);
      }
    return p;
  };
  const at = (p: ReturnType<typeof round>, n: Point, turn = 0): readonly number[] => {
    const out = new Float64Array(3);
    irradianceAt(harmonicsOf(p), n[0], n[1], n[2], turn, out);
    return [...out];
  };
  test('even light reaches every side alike', () => {
    for (const n of [
      [0, -1, 0],
      [1, 0, 0],
      [0, 0, -1],
    ] as Point[]) {
      const [r, g, b] = at(
        round(() => 1),
        n,
      );
      expect(r).toBeCloseTo(1, 2);
      expect(g).toBeCloseTo(2, 2);
      expect(b).toBeCloseTo(0, 6);
    }
  });
  test('of a bright sky what looks up gets all, what looks aside half', () => {
    const sky = round((up) => (up > 0 ? 1 : 0));
    // y runs down
    expect(at(sky, [0, -1, 0])[0]).toBeCloseTo(1, 1);
    expect(at(sky, [1, 0, 0])[0]).toBeCloseTo(0.5, 1);
    expect(at(sky, [0, 1, 0])[0]).toBeCloseTo(0, 1);
  });
  test('turned, light from the right comes from elsewhere', () => {
    const right = round((_, r) => Math.max(0, r));
    expect(at(right, [1, 0, 0])[0]).toBeGreaterThan(4 * at(right, [-1, 0, 0])[0]!);
    expect(at(right, [1, 0, 0], Math.PI)[0]).toBeCloseTo(at(right, [-1, 0, 0])[0]!, 2);
  });
  test('a surround lights what looks up by its upper colour', () => {
    const floor = plane([0, 1, 0.001], 1);
    const out = lit(floor, { is: 'surround', above: [1, 0, 0], below: [0, 0, 1] });
    const o = ((H - 5) * W + 80) * 4;
    expect(out[o]).toBeCloseTo(0.5, 2);
    expect(out[o + 2]).toBeCloseTo(0, 2);
  });
});

test('shine is strongest in the mirror’s direction and keeps energy', () => {
  expect(ggx(0.8, 0.8, 1, 0.8, 0.04, 0.3)).toBeGreaterThan(20 * ggx(0.8, 0.8, 0.7, 0.8, 0.04, 0.3));
  // a mirror-like lobe over the hemisphere reflects no more than comes in
  let sum = 0;
  const n = 400;
  for (let k = 0; k < n; k++) {
    const c = (k + 0.5) / n;
    const half = Math.sqrt((1 + c) / 2);
    sum += (ggx(c, 1, half, half, 1, 0.6) * c * 2 * Math.PI) / n;
  }
  expect(sum).toBeGreaterThan(0.6);
  expect(sum).toBeLessThan(1.02);
});

describe('the kernels of lamps do what their twins do', () => {
  /** A ball before a wall, with a hole of sky, at a width that fills no vector. */
  const [width, height] = [83, 61];
  const cut = newPlane(width, height);
  for (let i = 0; i < cut.data.length; i++) {
    const [p, q] = [u((i % width) + 30), v(Math.floor(i / width) + 30)];
    cut.data[i] = p > 0.1 && p < 0.16 ? Infinity : Math.min(4 + p, sphereHit(p, q));
  }
  const field = depthField(cut, F);
  const random = seededRandom(6);
  const noise = Float32Array.from(cut.data, () => random());
  const steps = noise.map((n, i) => (i % 11 < 6 ? 1 : Math.round(2 * n) / 2));

  test.each(['inside', 'edges'] as const)('a tent %s', (where) => {
    for (const values of [noise, steps]) {
      const [found, twin] = [tented(field, values, where), tentedTwin(field, values, where)];
      found.forEach((n, i) => expect(n).toBeCloseTo(twin[i]!, 5));
    }
  });
  test.each([2, 3])('values of every pixel from those of every %ith', (step) => {
    const small = thinned(field, step);
    const values = Float32Array.from(small.inverse, (_, i) => steps[i]!);
    const [found, twin] = [enlarged(field, small, values, step), enlargedTwin(field, small, values, step)];
    found.forEach((n, i) => expect(n).toBeCloseTo(twin[i]!, 4));
  });
  test.each<Light>([
    { is: 'lamp', place: [0.4, -0.5, 1.4], intensity: [3, 2, 1], size: 0.1 },
    { is: 'lamp', place: [0, 0, 2.3], intensity: [1, 1, 1], size: 0.3 },
    { is: 'sun', direction: [0.6, -0.64, -0.48], irradiance: [2, 2, 3], size: 0 },
  ])('a light without shadows, and what the plate is lit by taken out: $is', (light) => {
    if (light.is !== 'lamp' && light.is !== 'sun') throw new Error('no light of a point');
    const plate = newPicture(width, height);
    for (let i = 0; i < plate.data.length; i++) plate.data[i] = i % 4 === 3 ? 1 : 0.1 + random();
    const normals = normalsOf(field);
    const open = opennessOf(field, normals, 0.7);
    const surfaces = { ...BARE, even: 0.8, shading: 0.6, hollows: 0.7 };
    const out = relit(plate, plate, field, [light], surfaces, 0.5, (_, make) => make());
    const falls = tentedTwin(
      field,
      Float32Array.from(cut.data, (_, i) => fallTwin(field, normals, light, i)),
      'edges',
    );
    const colour = light.is === 'lamp' ? light.intensity : light.irradiance;
    falls.forEach((fall, i) => {
      for (const k of [0, 1, 2]) {
        const value = plate.data[i * 4 + k]!;
        const expected = relitTwin(value, value, (colour[k]! / Math.PI) * fall, normals[3 * i + 1]!, open[i]!, 0.5, 0.6, 1 / 0.8);
        expect(out.data[i * 4 + k]).toBeCloseTo(expected, 4);
      }
    });
  });
});
