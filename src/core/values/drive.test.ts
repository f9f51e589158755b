import { describe, expect, test } from '@jest/globals';
import { drives, driveSchema, driveValue, eased, keysOf, newDrive, pinsOf, recorded, setFor, valuesAt, withValues } from './drive';
import { metres } from './params';

test('keys hold before the first and after the last, and pass through each', () => {
  const drive = driveSchema.parse({
    kind: 'keys',
    keys: [
      { frame: 20, value: 8 },
      { frame: 10, value: 2 },
      { frame: 40, value: 8 },
    ],
  });
  expect(driveValue(drive, 5, 0)).toBe(2);
  expect(driveValue(drive, 5, 10)).toBe(2);
  expect(driveValue(drive, 5, 15)).toBe(5);
  expect(driveValue(drive, 5, 20)).toBe(8);
  expect(driveValue(drive, 5, 99)).toBe(8);
});

test('easings start and end where they should; ease is level at both ends', () => {
  for (const e of ['straight', 'ease', 'ease-in', 'ease-out'] as const) {
    expect(eased(e, 0)).toBe(0);
    expect(eased(e, 1)).toBe(1);
    for (let t = 0.05; t < 1; t += 0.05) expect(eased(e, t)).toBeGreaterThan(eased(e, t - 0.05));
  }
  expect(eased('hold', 0.99)).toBe(0);
  expect(eased('ease', 0.001)).toBeLessThan(1e-5);
  expect(eased('ease-in', 0.5)).toBeCloseTo(0.125);
  expect(eased('ease-out', 0.5)).toBeCloseTo(0.875);
});

test('a wave swings about the set value', () => {
  const drive = driveSchema.parse({ kind: 'wave', amount: 2, period: 24 });
  expect(driveValue(drive, 10, 0)).toBeCloseTo(10);
  expect(driveValue(drive, 10, 6)).toBeCloseTo(12);
  expect(driveValue(drive, 10, 18)).toBeCloseTo(8);
  expect(driveValue(drive, 10, 24)).toBeCloseTo(10);
});

test('drift is smooth, stays within its amount and is the same every time', () => {
  const drive = driveSchema.parse({ kind: 'drift', amount: 3, period: 12, seed: 4 });
  let previous = driveValue(drive, 0, 0);
  let moved = 0;
  for (let f = 1; f < 400; f++) {
    const v = driveValue(drive, 0, f);
    expect(Math.abs(v)).toBeLessThanOrEqual(3);
    expect(Math.abs(v - previous)).toBeLessThan(3 * 2 * 1.5 * (1 / 12) + 1e-9);
    moved += Math.abs(v - previous);
    previous = v;
  }
  expect(moved).toBeGreaterThan(10);
  expect(driveValue(drive, 0, 77)).toBe(driveValue(drive, 0, 77));
  expect(driveValue({ ...drive, kind: 'drift', seed: 5 } as typeof drive, 0, 77)).not.toBe(driveValue(drive, 0, 77));
});

test('ease ramps once over its range', () => {
  const drive = driveSchema.parse({ kind: 'ease', from: 1, to: 3, start: 10, end: 20, easing: 'straight' });
  expect([0, 10, 15, 20, 30].map((f) => driveValue(drive, 9, f))).toEqual([1, 1, 2, 3, 3]);
});

test('only driven numbers change', () => {
  const values = { focus: 2, on: true, name: 'x' };
  const drives = {
    focus: driveSchema.parse({ kind: 'ease', from: 4, to: 8, start: 0, end: 10, easing: 'straight' }),
    on: driveSchema.parse({ kind: 'wave', amount: 1, period: 2 }),
  };
  expect(valuesAt(values, drives, 5)).toEqual({ focus: 6, on: true, name: 'x' });
  expect(valuesAt(values, {}, 5)).toBe(values);
});

test('a value is recorded where the playhead is: a key of its own, the nearer end of an ease; what swings has none to record', () => {
  const keys = driveSchema.parse({ kind: 'keys', keys: [{ frame: 10, value: 2, easing: 'hold' }] });
  expect(recorded(keys, 5, 30)).toEqual({
    kind: 'keys',
    keys: [
      { frame: 10, value: 2, easing: 'hold' },
      { frame: 30, value: 5, easing: 'hold' },
    ],
  });
  expect(recorded(keys, 7, 10)).toEqual({ kind: 'keys', keys: [{ frame: 10, value: 7, easing: 'hold' }] });
  const ease = newDrive('ease', 1, 2, 0, 97);
  expect(recorded(ease, 9, 20)).toMatchObject({ from: 9, to: 3 });
  expect(recorded(ease, 9, 80)).toMatchObject({ from: 1, to: 9 });
  for (const kind of ['wave', 'drift'] as const) expect(recorded(newDrive(kind, 1, 2, 0, 97), 9, 20)).toBeNull();
});

test('every sort of drive begins at what is set, and is scaled with its swing', () => {
  for (const kind of ['keys', 'wave', 'ease'] as const) expect(driveValue(newDrive(kind, 4, 1, 12, 97), 4, 0)).toBeCloseTo(4, 9);
  expect(pinsOf(newDrive('ease', 4, 1, 12, 97))).toEqual([0, 96]);
  expect(pinsOf(newDrive('wave', 4, 1, 12, 97))).toEqual([]);
  const half = (v: number): number => v / 2;
  expect(withValues(newDrive('ease', 4, 2, 0, 97), half)).toMatchObject({ from: 2, to: 3 });
  expect(withValues(newDrive('wave', 4, 2, 0, 97), half)).toMatchObject({ amount: 1 });
  expect(keysOf(withValues(newDrive('keys', 4, 2, 7, 97), half))).toEqual([{ frame: 7, value: 2, easing: 'ease' }]);
});

describe.each(drives.map((definition) => [definition.kind, definition] as const))('%s', (kind, definition) => {
  const param = metres({ label: 'Distance', min: 0.2, max: 300, default: 3 });
  const fresh = newDrive(kind, 3, 0.5, 12, 48);

  test('begins as its schema has it, and what is mapped to itself is itself', () => {
    expect(driveSchema.parse(fresh)).toEqual(fresh);
    expect(withValues(fresh, (v) => v)).toEqual(fresh);
  });

  test('its numbers can be read and put, and it is one of its kind then', () => {
    for (const { param: own, get, put } of definition.fields?.(param) ?? []) {
      const changed = put(fresh, get(fresh) + 1);
      expect([own.label, get(changed)]).toEqual([own.label, get(fresh) + 1]);
      expect(driveSchema.parse(changed)).toEqual(changed);
    }
  });

  test('what is recorded at a frame is its value there, or it goes about the set value', () => {
    const after = recorded(fresh, 7, 0);
    if (after) expect(driveValue(after, 3, 0)).toBe(7);
    else expect(driveValue(fresh, setFor(fresh, 3, 7, 5), 5)).toBeCloseTo(7, 9);
  });
});
