import { describe, expect, test } from '@jest/globals';
import { clipping } from './checks/clipping';
import { contours } from './checks/contours';
import { fitMap, placeMap } from './layers/mapLayer';
import { rulerDistance, rulerOf, rulerPlace, rulerTicks } from './ruler';
import { type Blend } from './blend';
import { EMPTY_RAW, emptyStack, layOver } from './stack';
import { constantPlane, newPicture, newPlane } from '../picture';

describe('stack', () => {
  const lay = (...rows: [number, Blend, number, number?][]): number => {
    const out = emptyStack(1, 1, rows.length === 0);
    rows.forEach(([v, blend, opacity, cover], i) =>
      layOver(out, { nearness: constantPlane(1, 1, v), coverage: cover === undefined ? null : constantPlane(1, 1, cover) }, blend, opacity, i === 0),
    );
    return out.data[0]!;
  };
  test('without layers every pixel is the empty grey', () => {
    expect(lay()).toBe(EMPTY_RAW);
  });
  test('opacity mixes with what lies below; a lowest layer that covers everything is opaque', () => {
    expect(lay([0.2, 'replace', 0.3], [1, 'replace', 0.25])).toBeCloseTo(0.4, 6);
  });
  test.each([
    ['replace', 0.3],
    ['nearer', 0.6],
    ['farther', 0.3],
    ['add', 0.9],
  ] as const)('%s', (blend, expected) => {
    expect(lay([0.6, 'replace', 1], [0.3, blend, 1])).toBeCloseTo(expected, 6);
  });
  test('sums stay within white, and what is covered in part is mixed in part', () => {
    expect(lay([0.8, 'replace', 1], [0.7, 'add', 1])).toBe(1);
    expect(lay([0.2, 'replace', 1], [0.8, 'replace', 0.5, 0.5])).toBeCloseTo(0.35, 6);
  });
  test('what a layer does not know leaves what lies below; what the lowest does not know stays unknown until covered', () => {
    expect(lay([0.4, 'replace', 1], [NaN, 'replace', 1])).toBeCloseTo(0.4, 6);
    expect(lay([NaN, 'replace', 1])).toBeNaN();
    expect(lay([NaN, 'replace', 1], [0.7, 'nearer', 1])).toBeCloseTo(0.7, 6);
  });
});

describe('ruler', () => {
  const ruler = rulerOf({ near: 1.2, far: 600 }, 'log');
  test('places and distances turn back into each other', () => {
    for (let p = 0; p <= 1; p += 0.05) expect(rulerPlace(ruler, rulerDistance(ruler, p))).toBeCloseTo(p, 9);
  });
  test('ticks are round, in order and apart; both ends are there', () => {
    const ticks = rulerTicks(ruler, 0.06);
    expect(ticks[0]!.distance).toBe(1.2);
    expect(ticks[ticks.length - 1]!.distance).toBe(600);
    for (let i = 1; i < ticks.length; i++) expect(ticks[i]!.place - ticks[i - 1]!.place).toBeGreaterThanOrEqual(0.06 - 1e-9);
    expect(ticks.map((t) => t.distance)).toEqual(expect.arrayContaining([10, 100]));
    for (const t of ticks.slice(1, -1)) expect(Number(t.distance.toPrecision(2))).toBe(t.distance);
  });
  test('an infinite far end is reached in perspective and cut off otherwise', () => {
    expect(rulerOf({ near: 1, far: Infinity }, 'perspective').far).toBe(Infinity);
    expect(rulerOf({ near: 1, far: Infinity }, 'log').far).toBe(500);
    expect(rulerPlace(rulerOf({ near: 1, far: Infinity }, 'log'), 1e9)).toBe(1);
  });
});

describe('map layer', () => {
  const whole = { a: 1, b: 0, c: 0, d: 0, e: 1, f: 0 };
  const AS_IT_IS = { turnOver: false, low: 0, high: 100 };
  test('limits of its own stretch it before it is turned over', () => {
    const map = { width: 3, height: 1, data: Float32Array.from([0.2, 0.4, 0.9]) };
    const input = { width: 3, height: 1, framing: whole, plateSize: { width: 3, height: 1 }, picture: newPicture(3, 1) };
    expect([...placeMap(map, input, { turnOver: true, low: 20, high: 60 }).data].map((v) => Number(v.toFixed(5)))).toEqual([1, 0.5, 0]);
  });
  test('fit keeps the whole map inside the plate, cover fills it, stretch does both and changes its shape', () => {
    const [map, plate] = [
      { width: 100, height: 100 },
      { width: 200, height: 100 },
    ];
    const corner = (fit: 'stretch' | 'fit' | 'cover') => {
      const m = fitMap(map, plate, fit);
      return [m.c, m.f, m.a * 200 + m.c, m.e * 100 + m.f];
    };
    expect(corner('stretch')).toEqual([0, 0, 100, 100]);
    expect(corner('fit')).toEqual([-50, 0, 150, 100]);
    expect(corner('cover')).toEqual([0, 25, 100, 75]);
  });
  test('a map of the output’s size is taken as it is, and turned over where asked', () => {
    const map = { width: 2, height: 1, data: Float32Array.from([0.25, 1]) };
    const input = { width: 2, height: 1, framing: whole, plateSize: { width: 2, height: 1 }, picture: newPicture(2, 1) };
    expect([...placeMap(map, input, AS_IT_IS).data]).toEqual([0.25, 1]);
    expect([...placeMap(map, input, { ...AS_IT_IS, turnOver: true }).data]).toEqual([0.75, 0]);
  });
  test('a smaller map is enlarged along the picture’s edge, not in blocks', () => {
    const [w, h, edge] = [128, 64, 61];
    const picture = newPicture(w, h);
    for (let i = 0; i < w * h; i++) picture.data.set(i % w < edge ? [0.8, 0.7, 0.6, 1] : [0.1, 0.15, 0.3, 1], i * 4);
    const map = newPlane(16, 8);
    for (let i = 0; i < map.data.length; i++) map.data[i] = Math.min(1, Math.max(0, (edge / 8 - (i % 16)) / 1)) * 0.9;
    const out = placeMap(map, { width: w, height: h, framing: whole, plateSize: { width: w, height: h }, picture }, AS_IT_IS);
    // the map only knows the edge to 8 px; the picture puts it where it is
    const row = out.data.subarray(32 * w, 33 * w);
    expect(row[edge - 3]! - row[edge + 2]!).toBeGreaterThan(0.45);
    for (let x = 1; x < w; x++) if (Math.abs(x - edge) > 1) expect(Math.abs(row[x]! - row[x - 1]!)).toBeLessThan(0.1);
  });
});

describe('checks', () => {
  const ramp = newPlane(120, 2);
  for (let i = 0; i < 240; i++) ramp.data[i] = ((i % 120) + 0.5) / 120;
  const input = {
    raw: ramp,
    nearness: ramp,
    distance: ramp,
    picture: newPicture(120, 2),
    low: 0.25,
    high: 0.75,
    estimate: null,
    reach: null,
    region: null,
    camera: null,
  };
  test('clipping marks what lies outside the limits', () => {
    const { marks, figure } = clipping.run(input);
    expect(marks.data[10]).toBe(1);
    expect(marks.data[60]).toBe(0);
    expect(figure).toBe('50.0 % of the picture');
  });
  test('contours draw eleven lines across a full ramp', () => {
    const { marks } = contours.run(input);
    expect(marks.data.subarray(0, 120).reduce((a, b) => a + b, 0)).toBe(11);
  });
});
