import { describe, expect, test } from '@jest/globals';
import { formats } from '../formats/registry';
import { checks } from './depth/checks/registry';
import { cleanups } from './depth/cleanup/registry';
import { layers } from './depth/layers/registry';
import { effectGroups } from './effects/definition';
import { applyAlone } from './effects/applyAlone';
import { effects } from './effects/registry';
import { outputs } from '../formats/outputs/registry';
import { cues } from './estimate/cues/registry';
import { givesPlane } from './need/need';
import { constantPlane, newPicture, newPlane } from './picture';
import { seededRandom } from './random';
import { START } from './values/moment';
import { clampNumber, defaultsOf, formatNumber, parseNumber, trackPosition, valueAtTrack, valuesSchema, type Param } from './values/params';

const everyParam: [string, Param][] = [...effects, ...layers, ...cleanups, ...outputs].flatMap((d) =>
  Object.entries(d.params).map(([name, p]): [string, Param] => [`${d.kind} ${name}`, p]),
);

/** What of a parameter is tried: the ends of its track or of all that may be typed, every choice, both of a switch. */
const triedOf = (p: Param, ends: 'track' | 'all'): readonly unknown[] => {
  if (p.type === 'number') return ends === 'track' ? [p.min, p.max] : [p.lowest, p.highest];
  if (p.type === 'toggle') return [true, false];
  return p.type === 'choice' ? p.options.map((o) => o.value) : [p.default, '#000000', '#ffffff'];
};

test('kinds are unique and written for addresses', () => {
  for (const registry of [effects, layers, cleanups, checks, formats, cues, outputs]) {
    const kinds = registry.map((d) => d.kind);
    expect(new Set(kinds).size).toBe(kinds.length);
    for (const kind of kinds) expect(kind).toMatch(/^[a-z][a-z0-9-]*$/);
  }
});

describe.each(everyParam)('%s', (_, p) => {
  test('is labelled in sentence case', () => {
    expect(p.label).toMatch(/^[A-Z0-9][^A-Z!]*$/);
    expect(p.help ?? '').not.toMatch(/!|\.$/);
  });
  test('its default is allowed, survives its schema, and can be typed back as it is shown', () => {
    expect(valuesSchema({ p }).parse({}).p).toBe(p.default);
    expect(valuesSchema({ p }).parse({ p: p.default }).p).toBe(p.default);
    if (p.type !== 'number') return;
    expect(clampNumber(p, p.default)).toBe(p.default);
    expect(p.lowest).toBeLessThanOrEqual(p.min);
    expect(p.highest).toBeGreaterThanOrEqual(p.max);
    if (!p.names?.[p.default]) expect(parseNumber(p, formatNumber(p, p.default))).toBeCloseTo(p.default, 2);
    const t = trackPosition(p, p.default);
    expect(Math.abs(valueAtTrack(p, t) - p.default)).toBeLessThanOrEqual(Math.max(p.step, 0.02 * p.default));
  });
});

describe.each(effects.map((e) => [e.kind, e] as const))('effect %s', (_, effect) => {
  const lens = { focalPx: 80, focalLength: 35 };
  const random = seededRandom(6);
  const picture = newPicture(48, 32);
  for (let i = 0; i < picture.data.length; i++) picture.data[i] = i % 4 === 3 ? 1 : random();
  const distance = newPlane(48, 32);
  for (let i = 0; i < distance.data.length; i++) distance.data[i] = i % 48 < 8 ? Infinity : 0.5 + (i % 48) / 4;
  const run = (p: Record<string, unknown>) => applyAlone(effect, { picture, distance, params: p as never, lens });

  test('belongs to a group and says in a few words what it is set to', () => {
    expect(effectGroups).toContain(effect.group);
    const words = effect.summary(defaultsOf(effect.params));
    expect(words.length).toBeGreaterThan(0);
    expect(words.length).toBeLessThan(16);
  });
  test('its lane points at settings it has, in order of distance', () => {
    const lane = effect.lane?.(defaultsOf(effect.params), lens);
    if (!lane) return;
    for (const h of lane.handles) expect(effect.params[h.param]?.type).toBe('number');
    for (let i = 1; i < lane.points.length; i++) expect(lane.points[i]!.distance).toBeGreaterThanOrEqual(lane.points[i - 1]!.distance);
    for (const q of lane.points) expect(q.strength >= 0 && q.strength <= 1).toBe(true);
  });
  test('leaves its inputs alone and makes finite light, at either end of every setting and with every choice', async () => {
    const before = [picture.data.slice(), distance.data.slice()];
    const usual = defaultsOf(effect.params) as Record<string, unknown>;
    for (const [name, p] of Object.entries(effect.params)) {
      for (const value of triedOf(p, 'track')) {
        const out = await run({ ...usual, [name]: value });
        expect([out.width, out.height]).toEqual([48, 32]);
        expect(out.data.every((v) => Number.isFinite(v) && v > -1e-3)).toBe(true);
      }
    }
    expect(picture.data).toEqual(before[0]);
    expect(distance.data).toEqual(before[1]);
  });
  test('makes finite light with every setting at either end under every choice', async () => {
    const usual = defaultsOf(effect.params) as Record<string, unknown>;
    for (const [choice, c] of Object.entries(effect.params)) {
      if (c.type !== 'choice') continue;
      for (const { value } of c.options)
        for (const [name, p] of Object.entries(effect.params)) {
          if (name === choice || p.type !== 'number') continue;
          for (const end of triedOf(p, 'track')) {
            const out = await run({ ...usual, [choice]: value, [name]: end });
            if (!out.data.every(Number.isFinite)) throw new Error(`${choice} ${value}, ${name} ${String(end)}: no finite light`);
          }
        }
    }
  });
  test('gives the same picture every time', async () => {
    const usual = defaultsOf(effect.params) as Record<string, unknown>;
    expect((await run(usual)).data).toEqual((await run(usual)).data);
  });
});

const file = { sha256: 'f'.repeat(64), name: 'f.png', width: 20, height: 12 };
const calibration = { low: 0, high: 1, turnOver: false, bend: 1, near: 1, far: 20, spacing: 'perspective' as const };

describe.each(layers.map((l) => [l.kind, l] as const))('layer %s', (_, layer) => {
  const params = defaultsOf(layer.params) as never;
  const input = {
    width: 20,
    height: 12,
    params,
    content: layer.content?.parse({}),
    framing: { a: 1, b: 0, c: 0, d: 0, e: 1, f: 0 },
    plateSize: { width: 20, height: 12 },
    picture: newPicture(20, 12),
    below: constantPlane(20, 12, 0.4),
    calibration,
    anchors: {},
    frame: 0,
    remember: <T>(_made: readonly unknown[], make: () => T): T => make(),
    rememberAlone: <T>(_made: readonly unknown[], make: () => T): T => make(),
    rasterOf: () => null,
  };
  test('says in a few words what it is', () => {
    expect(layer.summary(params, input.content).length).toBeLessThan(18);
    expect(layer.help).not.toMatch(/!|\.$/);
  });
  test('waits for its map, then gives grey of the size asked for', () => {
    if (!layer.needs?.({ params, content: input.content, media: file, plate: file, at: START }).some(givesPlane)) return;
    expect(layer.build({ ...input, map: null })).toBeNull();
    const { nearness } = layer.build({ ...input, map: constantPlane(20, 12, 0.3) })!;
    expect([nearness.width, nearness.height]).toEqual([20, 12]);
    for (const v of nearness.data) expect(v).toBeCloseTo(0.3, 6);
  });
  test('gives nearness and coverage within 0..1 at either end of every setting, and leaves what lies below alone', () => {
    const map = constantPlane(20, 12, 0.3);
    for (const [name, p] of Object.entries(layer.params)) {
      for (const value of triedOf(p, 'all')) {
        const result = layer.build({ ...input, map, params: { ...(params as object), [name]: value } as never });
        for (const plane of [result?.nearness, result?.coverage]) expect(plane?.data.every((v) => v >= 0 && v <= 1) ?? true).toBe(true);
      }
    }
    for (const v of input.below.data) expect(v).toBe(Math.fround(0.4));
  });
});

describe.each(cleanups.map((c) => [c.kind, c] as const))('clean-up %s', (_, step) => {
  const random = seededRandom(3);
  const map = newPlane(40, 24);
  const picture = newPicture(40, 24);
  for (let i = 0; i < map.data.length; i++) {
    map.data[i] = Math.min(1, Math.max(0, 0.2 + (i % 40) / 60 + 0.02 * random() + (i % 40 > 25 ? 0.3 : 0)));
    picture.data.set([random(), random(), random(), 1], i * 4);
  }
  test('gives a map within 0..1 at either end of every setting, leaves its input alone, and tells a figure', () => {
    const before = map.data.slice();
    const usual = defaultsOf(step.params) as Record<string, unknown>;
    for (const [name, p] of Object.entries(step.params)) {
      for (const value of triedOf(p, 'all')) {
        const out = step.apply({ map, picture, params: { ...usual, [name]: value } as never, pxScale: 1 });
        expect([out.width, out.height]).toEqual([40, 24]);
        expect(out.data.every((v) => v >= 0 && v <= 1.0001)).toBe(true);
      }
    }
    expect(map.data).toEqual(before);
    const out = step.apply({ map, picture, params: usual as never, pxScale: 1 });
    expect(step.figure(map, out, picture)).toMatch(/%|px|no edges/);
  });
});

describe.each(checks.map((c) => [c.kind, c] as const))('check %s', (_, check) => {
  test('marks within 0..1 and tells a figure', () => {
    const raw = newPlane(16, 9);
    for (let i = 0; i < raw.data.length; i++) raw.data[i] = i / 143;
    for (const estimate of [null, raw]) {
      const { marks, figure, chart } = check.run({
        raw,
        nearness: raw,
        distance: constantPlane(16, 9, 3),
        picture: newPicture(16, 9),
        low: 0.1,
        high: 0.9,
        estimate,
        camera: estimate
          ? {
              uncovered: new Uint8Array(144).fill(1),
              finished: newPicture(16, 9),
              behind: { picture: newPicture(16, 9), filled: new Uint8Array(144) },
            }
          : null,
        reach: estimate ? { from: 1, to: 5, near: 0, far: 0, outside: true } : null,
        region: null,
      });
      expect([marks.width, marks.height]).toEqual([16, 9]);
      for (const v of marks.data) expect(v >= 0 && v <= 1).toBe(true);
      expect(figure).not.toBe('');
      if (chart) expect(chart.bins.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 6);
    }
  });
});
