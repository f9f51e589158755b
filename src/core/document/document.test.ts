import { expect, test } from '@jest/globals';
import { calibrationOf, newLayer, newProject, newShot, storedFar } from './defaults';
import { parseProject } from './migrate';
import { DOCUMENT_VERSION } from './schema';

const plate = { sha256: 'a'.repeat(64), name: 'harbour.jpg', width: 4000, height: 3000, bits: 8, hfovFromFile: 62 };

test('a new shot is a valid document that survives JSON', () => {
  const project = { ...newProject('Test'), shots: [newShot(plate)] };
  const back = parseProject(JSON.parse(JSON.stringify(project)), 'Test');
  expect(back).toEqual(project);
  expect(back.shots[0]!.settings.hfovDegrees).toBe(62);
  expect(back.shots[0]!.name).toBe('harbour');
});

test('a very large plate gets an output that can be rendered', () => {
  const shot = newShot({ ...plate, width: 24000, height: 1000 });
  expect(shot.settings.framing.width).toBe(12000);
  expect(shot.settings.framing.height).toBe(500);
});

test('infinity is stored as a word and computed with as a number', () => {
  expect(storedFar(Infinity)).toBe('infinite');
  expect(storedFar(40)).toBe(40);
  const { calibration } = newShot(plate).settings;
  expect(calibrationOf({ ...calibration, far: 'infinite' }).far).toBe(Infinity);
});

test('a document of version 0 is migrated', () => {
  const shot = newShot(plate);
  const { settings, take: _take, previousTake: _previous, ...rest } = shot;
  const old = { version: 0, id: 'p', name: 'Old', shots: [{ ...rest, ...settings }] };
  const project = parseProject(old, 'Old');
  expect(project.version).toBe(DOCUMENT_VERSION);
  expect(project.shots[0]!.settings).toEqual(settings);
});

test('a newer document is refused by name', () => {
  expect(() => parseProject({ version: DOCUMENT_VERSION + 1 }, 'coast.ombrage')).toThrow('coast.ombrage was written by a newer Ombrage');
});

test('what cannot be read says where', () => {
  const project = { ...newProject('Test'), shots: [newShot(plate)] };
  (project.shots[0]!.settings.calibration as { near: number }).near = -3;
  expect(() => parseProject(project, 'Test')).toThrow('shots.0.settings.calibration.near');
  for (const bad of [null, 3, [], 'x', {}]) expect(() => parseProject(bad, 'Test')).toThrow();
});

test('layers carry their definition’s defaults', () => {
  expect(newLayer('estimate').values).toEqual({ quality: 'fine', turnOver: false, low: 0, high: 100 });
  expect(() => newLayer('nothing')).toThrow('There is no depth layer "nothing".');
});
