import { describe, expect, test } from '@jest/globals';
import { clipping } from './checks/clipping';
import { contours } from './checks/contours';
import { placeMap } from './layers/mapLayer';
import { rulerDistance, rulerOf, rulerPlace, rulerTicks } from './ruler';
import { composeStack, EMPTY_RAW } from './stack';
import { constantPlane, newPicture, newPlane } from '../raster/picture';

describe('stack', () => {
  test('without layers every pixel is the empty grey', () => {
    expect([...composeStack([], 2, 1).data]).toEqual([EMPTY_RAW, EMPTY_RAW]);
  });
  test('opacity mixes with what lies below; the lowest layer is opaque', () => {
    const layers = [
      { plane: constantPlane(1, 1, 0.2), opacity: 0.3 },
      { plane: constantPlane(1, 1, 1), opacity: 0.25 },
    ];
    expect(composeStack(layers, 1, 1).data[0]).toBeCloseTo(0.4, 6);
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
  test('a map of the output’s size is taken as it is, and turned over where asked', () => {
    const map = { width: 2, height: 1, data: Float32Array.from([0.25, 1]) };
    const input = { width: 2, height: 1, framing: whole, plateSize: { width: 2, height: 1 }, picture: newPicture(2, 1) };
    expect([...placeMap(map, input, false).data]).toEqual([0.25, 1]);
    expect([...placeMap(map, input, true).data]).toEqual([0.75, 0]);
  });
  test('a smaller map is enlarged along the picture’s edge, not in blocks', () => {
    const [w, h, edge] = [128, 64, 61];
    const picture = newPicture(w, h);
    for (let i = 0; i < w * h; i++) picture.data.set(i % w < edge ? [0.8, 0.7, 0.6, 1] : [0.1, 0.15, 0.3, 1], i * 4);
    const map = newPlane(16, 8);
    for (let i = 0; i < map.data.length; i++) map.data[i] = Math.min(1, Math.max(0, (edge / 8 - (i % 16)) / 1)) * 0.9;
    const out = placeMap(map, { width: w, height: h, framing: whole, plateSize: { width: w, height: h }, picture }, false);
    // the map only knows the edge to 8 px; the picture puts it where it is
    const row = out.data.subarray(32 * w, 33 * w);
    expect(row[edge - 3]! - row[edge + 2]!).toBeGreaterThan(0.45);
    for (let x = 1; x < w; x++) if (Math.abs(x - edge) > 1) expect(Math.abs(row[x]! - row[x - 1]!)).toBeLessThan(0.1);
  });
});

describe('checks', () => {
  const ramp = newPlane(120, 2);
  for (let i = 0; i < 240; i++) ramp.data[i] = ((i % 120) + 0.5) / 120;
  const input = { raw: ramp, nearness: ramp, distance: ramp, low: 0.25, high: 0.75 };
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
