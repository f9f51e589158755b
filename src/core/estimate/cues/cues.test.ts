import { describe, expect, test } from '@jest/globals';
import { seededRandom } from '../../random';
import { gaussian, gradient } from '../../raster/filters';
import { constantPlane, newPlane, type Plane } from '../../picture';
import type { CueInput } from '../cue';
import { joinPatches } from '../regions';
import { salience } from '../salience';
import { patchEdges, superpixels } from '../superpixels';
import { defocusCue } from './defocus';
import { foregroundCue } from './foreground';
import { groundCue } from './ground';
import { darkChannel, hazeCue } from './haze';
import { cues } from './registry';
import { skyCue } from './sky';
import { standingCue } from './standing';

const [W, H, HORIZON] = [120, 90, 36];
const planeOf = (f: (x: number, y: number) => number): Plane => {
  const plane = newPlane(W, H);
  for (let i = 0; i < plane.data.length; i++) plane.data[i] = f(i % W, Math.floor(i / W));
  return plane;
};

const inputOf = (lightness: Plane, a: Plane, change: Partial<CueInput> = {}): CueInput => {
  const b = constantPlane(W, H, 0);
  const patches = superpixels([lightness, a, b], 150);
  const layout = {
    horizon: HORIZON,
    sky: planeOf((_, y) => (y < HORIZON ? 1 : 0)),
    ground: planeOf((_, y) => (y > HORIZON ? 1 : 0)),
    foot: planeOf(() => 0.6),
    standing: planeOf((x) => (x < 20 ? 1 : 0)),
  };
  return {
    width: W,
    height: H,
    lightness,
    a,
    b,
    red: lightness,
    green: lightness,
    blue: lightness,
    detail: lightness,
    patches,
    edges: patchEdges(patches, gradient(lightness)),
    layout,
    ...change,
  };
};
const flat = inputOf(constantPlane(W, H, 0.5), constantPlane(W, H, 0));

test('every cue gives nearness and confidence within 0..1 and names its source', () => {
  for (const cue of cues) {
    const { nearness, confidence } = cue.run(flat);
    for (const plane of [nearness, confidence]) expect(plane.data.every((v) => v >= 0 && v <= 1)).toBe(true);
    expect(cue.source).toMatch(/\(.*\d{4}.*\)/);
  }
});

describe('ground', () => {
  const { nearness, confidence } = groundCue.run(flat);
  test('1/z of a level plane grows linearly below the horizon', () => {
    const at = (y: number): number => nearness.data[y * W + 60]!;
    expect(at(HORIZON - 3)).toBe(0);
    expect(at(89)).toBeCloseTo(1, 1);
    expect(at(70) - at(60)).toBeCloseTo(at(80) - at(70), 6);
  });
  test('it is not believed above the horizon, nor where something stands', () => {
    expect(confidence.data[10 * W + 60]).toBe(0);
    expect(confidence.data[70 * W + 60]).toBeGreaterThan(0.9);
    expect(confidence.data[70 * W + 5]).toBe(0);
  });
});

test('sky is far and believed only above the horizon', () => {
  const { nearness, confidence } = skyCue.run(flat);
  expect(nearness.data.every((v) => v === 0)).toBe(true);
  expect(confidence.data[5 * W]).toBeGreaterThan(0.9);
  expect(confidence.data[80 * W]).toBeLessThan(0.01);
});

test('what stands has the nearness of its foot', () => {
  const { nearness, confidence } = standingCue.run(flat);
  expect(nearness.data[0]).toBeCloseTo(0.6, 6);
  expect([confidence.data[5], confidence.data[60]]).toEqual([1, 0]);
});

describe('foreground', () => {
  // a red thing in the middle of a grey picture that reaches all borders
  const thing = (x: number, y: number): boolean => Math.abs(x - 60) < 14 && Math.abs(y - 45) < 20;
  const input = inputOf(
    planeOf((x, y) => (thing(x, y) ? 0.45 : 0.6)),
    planeOf((x, y) => (thing(x, y) ? 0.3 : 0)),
  );
  test('a thing that no smooth path joins to the border stands out', () => {
    const s = salience(input.patches, input.edges);
    const at = (x: number, y: number): number => s[input.patches.labels[y * W + x]!]!;
    expect(at(60, 45)).toBeGreaterThan(0.8);
    expect(at(8, 45)).toBeLessThan(0.2);
    const { nearness, confidence } = foregroundCue.run(input);
    expect(nearness.data[30 * W + 60]! - nearness.data[30 * W + 8]!).toBeGreaterThan(0.4);
    expect(confidence.data[45 * W + 60]).toBeGreaterThan(confidence.data[45 * W + 8]!);
  });
  test('a lamp stands out by its light, not by its place', () => {
    const lit = inputOf(
      planeOf((x, y) => (thing(x, y) ? 1 : 0.3)),
      constantPlane(W, H, 0),
    );
    expect(foregroundCue.run(lit).confidence.data[45 * W + 60]).toBeLessThan(0.01);
  });
  test('patches of one thing join, and do not join with its ground', () => {
    const region = joinPatches(input.patches, input.edges, 0.12);
    const at = (x: number, y: number): number => region[input.patches.labels[y * W + x]!]!;
    expect(at(55, 35)).toBe(at(65, 55));
    expect(at(55, 35)).not.toBe(at(8, 10));
  });
});

describe('haze', () => {
  const random = seededRandom(5);
  // dark things on a ground whose air brightens towards the horizon
  const light = planeOf((_, y) => {
    const air = y < HORIZON ? 0.9 : 0.9 * Math.exp(-(y - HORIZON) / 15);
    return air + (1 - air) * 0.3 * random();
  });
  test('the dark channel is the smallest light around', () => {
    const spot = planeOf((x, y) => (x === 60 && y === 45 ? 0.1 : 0.8));
    const dark = darkChannel({ red: spot, green: constantPlane(W, H, 1), blue: constantPlane(W, H, 1) }, 2);
    expect(dark.data[45 * W + 61]).toBeCloseTo(0.1, 6);
    expect(dark.data[45 * W + 64]).toBeCloseTo(0.8, 6);
  });
  test('hazy ground is believed, and its far part is far', () => {
    const { nearness, confidence } = hazeCue.run(inputOf(light, constantPlane(W, H, 0)));
    expect(confidence.data[0]).toBeGreaterThan(0.02);
    expect(nearness.data[85 * W + 60]! - nearness.data[40 * W + 60]!).toBeGreaterThan(0.3);
  });
  test('clear air is not believed', () => {
    const clear = planeOf(() => 0.3 * random());
    expect(hazeCue.run(inputOf(clear, constantPlane(W, H, 0))).confidence.data[0]).toBeLessThan(0.02);
  });
});

describe('defocus', () => {
  const random = seededRandom(9);
  const noise = planeOf(() => (random() > 0.5 ? 0.8 : 0.2));
  const soft = gaussian(noise, 3);
  test('where part of a picture is sharp and part is not, the sharp part is near', () => {
    const contrast = planeOf((x, y) => 0.5 + 5 * (soft.data[y * W + x]! - 0.5));
    const mixed = planeOf((x, y) => (x < 60 ? noise : contrast).data[y * W + x]!);
    const { nearness, confidence } = defocusCue.run(inputOf(mixed, constantPlane(W, H, 0)));
    expect(confidence.data[45 * W + 20]).toBeGreaterThan(0.02);
    expect(nearness.data[45 * W + 20]! - nearness.data[45 * W + 100]!).toBeGreaterThan(0.4);
  });
  test('a picture that is sharp throughout says nothing', () => {
    expect(defocusCue.run(inputOf(noise, constantPlane(W, H, 0))).confidence.data[45 * W + 20]).toBeLessThan(0.01);
  });
});
