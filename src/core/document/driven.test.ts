import { expect, test } from '@jest/globals';
import { driveSchema } from '../values/drive';
import { newCleanup, newEffect, newMove, newProject, newShot } from './defaults';
import { drivenNumbers, isTimed, numberAt, playedRange, setDrive, setNumber, type NumberAddress } from './driven';
import { readProject } from './migrate';
import type { Settings } from './schema';
import { writeJson } from '../values/endless';

const settingsOf = (): Settings => {
  const { settings } = newShot({ sha256: 'a'.repeat(64), name: 'x.png', width: 400, height: 300, bits: 8, hfovFromFile: 60 });
  return {
    ...settings,
    effects: [{ ...newEffect('lens-blur'), id: 'blur' }],
    cleanup: [newCleanup('smooth')],
    camera: { ...settings.camera, moves: [{ ...newMove('truck'), id: 'truck' }] },
  };
};
const wave = driveSchema.parse({ kind: 'wave', amount: 1, period: 10 });

test('numbers everywhere can be driven, and are found again with what they are of', () => {
  const settings = settingsOf();
  const addresses: NumberAddress[] = [
    { place: 'shot', item: '', name: 'calibration.near' },
    { place: 'layer', item: settings.layers[0]!.id, name: 'opacity' },
    { place: 'effect', item: 'blur', name: 'focus' },
    { place: 'move', item: 'truck', name: 'distance' },
  ];
  for (const address of addresses) setDrive(settings, address, wave);
  expect(drivenNumbers(settings).map(({ place, name, of }) => [place, name, of])).toEqual([
    ['shot', 'calibration.near', 'Shot'],
    ['layer', 'opacity', settings.layers[0]!.name],
    ['effect', 'focus', 'Lens blur'],
    ['move', 'distance', 'Truck'],
  ]);
  for (const address of addresses) setDrive(settings, address, null);
  expect(drivenNumbers(settings)).toEqual([]);
  // what is gone, or is no number, has no address
  expect(numberAt(settings, { place: 'effect', item: 'gone', name: 'focus' })).toBeNull();
  expect(numberAt(settings, { place: 'move', item: 'truck', name: 'easing' })).toBeNull();
  expect(() => setDrive(settings, { place: 'effect', item: 'gone', name: 'focus' }, wave)).not.toThrow();
});

test('a number is set so that it has its value where the playhead is, however it is driven', () => {
  const settings = settingsOf();
  const focus: NumberAddress = { place: 'effect', item: 'blur', name: 'focus' };
  setNumber(settings, focus, 3, 20);
  expect(settings.effects[0]!.values.focus).toBe(3);
  setDrive(settings, focus, driveSchema.parse({ kind: 'keys', keys: [{ frame: 0, value: 2 }] }));
  setNumber(settings, focus, 8, 20);
  expect(numberAt(settings, focus)!.drive).toMatchObject({
    keys: [
      { frame: 0, value: 2 },
      { frame: 20, value: 8 },
    ],
  });
  expect(settings.effects[0]!.values.focus).toBe(3);
  // at a quarter of its period a wave stands one above what is set
  setDrive(settings, focus, driveSchema.parse({ kind: 'wave', amount: 1, period: 40 }));
  setNumber(settings, focus, 9, 10);
  expect(settings.effects[0]!.values.focus).toBeCloseTo(8, 9);
});

test('a shot has time as soon as something moves, and a range within its length', () => {
  const settings = settingsOf();
  expect(isTimed({ settings })).toBe(true);
  settings.camera.moves = [];
  expect(isTimed({ settings })).toBe(false);
  setDrive(settings, { place: 'effect', item: 'blur', name: 'focus' }, wave);
  expect(isTimed({ settings })).toBe(true);
  expect(playedRange(settings)).toEqual({ from: 0, to: 95 });
  settings.time = { ...settings.time, length: 20, from: 5, to: 90 };
  expect(playedRange(settings)).toEqual({ from: 5, to: 19 });
});

test('a clean-up step of another version keeps its drive, and stands in nobody’s way', () => {
  const shot = newShot({ sha256: 'a'.repeat(64), name: 'p.png', width: 40, height: 30, bits: 8, hfovFromFile: null });
  shot.settings.cleanup.push({
    kind: 'sharpen',
    on: true,
    values: { amount: 3 },
    drives: { amount: { kind: 'wave', amount: 1, period: 8, phase: 0 } },
  });
  expect(drivenNumbers(shot.settings)).toEqual([]);
  expect(isTimed(shot)).toBe(false);
  const { project, remarks } = readProject(JSON.parse(writeJson({ ...newProject('T'), shots: [shot] })), 'T');
  expect(remarks).toEqual([]);
  expect(project.shots[0]!.settings.cleanup).toEqual(shot.settings.cleanup);
});
