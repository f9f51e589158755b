import { describe, expect, test } from '@jest/globals';
import { OmbrageError } from '../error';
import { calibrationOf, newLayer, newProject, newShot, storedFar } from './defaults';
import { parseProject, readProject } from './migrate';
import { DOCUMENT_VERSION } from './schema';
import { writeJson } from '../values/endless';

const plate = { sha256: 'a'.repeat(64), name: 'harbour.jpg', width: 4000, height: 3000, bits: 8, hfovFromFile: 62 };

test('a new shot is a valid document that survives JSON', () => {
  const project = { ...newProject('Test'), shots: [newShot(plate)] };
  const back = parseProject(JSON.parse(writeJson(project)), 'Test');
  expect(back).toEqual(project);
  expect(back.shots[0]!.settings.hfovDegrees).toBe(62);
  expect(back.shots[0]!.name).toBe('harbour');
});

test('a shot has a name, whatever its file is called', () => {
  const named = (name: string): string => newShot({ ...plate, name }).name;
  expect(['quay.jpg', '.jpg', 'a/b.png', ' .png', '', 'x'.repeat(300)].map(named)).toEqual([
    'quay',
    '.jpg',
    'a/b',
    '.png',
    'Unnamed',
    'x'.repeat(200),
  ]);
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

test('a wrong value takes its default and is named; what is no project is refused in words', () => {
  const project = { ...newProject('Test'), shots: [newShot(plate)] };
  (project.shots[0]!.settings.calibration as { near: number }).near = -3;
  const read = readProject(project, 'Test');
  expect(read.remarks).toEqual(['shots.0.settings.calibration.near was -3: its default is used.']);
  expect(read.project.shots[0]!.settings.calibration.near).toBe(1);
  // what was given is left as it was
  expect(project.shots[0]!.settings.calibration.near).toBe(-3);
  for (const bad of [null, 3, [], 'x', {}, { version: 2, id: 'p', name: 'P' }]) expect(() => parseProject(bad, 'Test')).toThrow(OmbrageError);
});

describe('what another program or a fault wrote', () => {
  const shotWith = (change: (settings: Record<string, unknown>) => void): unknown => {
    const project = { ...newProject('Test'), shots: [newShot(plate)] };
    const json = JSON.parse(writeJson(project)) as { shots: { settings: Record<string, unknown> }[] };
    change(json.shots[0]!.settings);
    return json;
  };
  const settingsOf = (json: unknown) => {
    const { project, remarks } = readProject(json, 'Test');
    return { ...project.shots[0]!.settings, remarks };
  };

  test('kinds that are not known are kept as they are', () => {
    const strange = { id: 'x', kind: 'halo', on: true, values: { reach: 3 }, drives: {} };
    const { effects, layers, cleanup, remarks } = settingsOf(
      shotWith((s) => {
        (s.effects as unknown[]).push(strange);
        (s.layers as unknown[]).push({ id: 'y', kind: 'sonar', name: 'Sonar', values: { gain: 'high' }, content: { pings: [1, 2] } });
        s.cleanup = [{ kind: 'polish', on: true, values: {}, drives: {} }];
      }),
    );
    expect(effects[1]).toEqual(strange);
    expect(layers[1]).toMatchObject({ kind: 'sonar', values: { gain: 'high' }, content: { pings: [1, 2] } });
    expect(cleanup[0]!.kind).toBe('polish');
    expect(remarks).toEqual([]);
  });

  test('a text where a number belongs takes the default, and is named with its row', () => {
    const { effects, remarks } = settingsOf(shotWith((s) => void ((s.effects as { values: Record<string, unknown> }[])[0]!.values.focus = 'far')));
    expect('focus' in effects[0]!.values).toBe(false);
    expect(remarks).toEqual(['harbour, Lens blur: Distance was "far", now 2.00 m.']);
  });

  test.each<[string, (s: Record<string, unknown>) => void, string]>([
    ['a value that is an object', (s) => void ((s.layers as { values: unknown }[])[0]!.values = { quality: { a: 1 } }), 'quality was {"a":1}'],
    ['a layer that is a number', (s) => void (s.layers as unknown[]).push(5), 'layers.1 could not be read'],
    ['a stake without a place', (s) => void (s.stakes as unknown[]).push({ id: 'k', distance: 3 }), 'stakes.0 could not be read'],
    ['no framing', (s) => void delete s.framing, 'framing was nothing'],
    ['a framing of text', (s) => void (s.framing = 'wide'), 'framing was "wide"'],
    ['a width of text', (s) => void ((s.framing as Record<string, unknown>).width = 'wide'), 'framing.width was "wide"'],
    ['a field of view of nothing', (s) => void (s.hfovDegrees = null), 'hfovDegrees was null'],
    ['a drive of an unknown kind', (s) => void ((s.effects as { drives: unknown }[])[0]!.drives = { focus: { kind: 'dance' } }), 'drives.focus'],
    [
      'a stroke among good ones',
      (s) => void (s.layers as unknown[]).push({ id: 'b', kind: 'brush', name: 'Brush', content: { strokes: [{ id: 's', mode: 'shout' }] } }),
      'Brush: strokes.0',
    ],
  ])('%s does not keep the shot from opening', (_, change, remark) => {
    const read = settingsOf(shotWith(change));
    expect(read.remarks.join(' ')).toContain(remark);
    expect(read.framing).toMatchObject({ width: 4000, height: 3000 });
    expect(readProject(JSON.parse(writeJson({ ...newProject('T'), shots: [{ ...newShot(plate), settings: read }] })), 'T').remarks).toEqual([]);
  });

  test('a shot without its plate is no shot: the project is left as it is, with a word', () => {
    const json = { ...newProject('Test'), shots: [{ ...newShot(plate), plate: { ...plate, sha256: 'short' } }] };
    expect(() => parseProject(json, 'coast.ombrage')).toThrow(/^coast\.ombrage cannot be read: shots\.0\.plate\.sha256/);
  });

  test.each([
    [{ version: 0, id: 'p', name: 'Old', shots: 'none' }],
    [{ version: 0, id: 'p', name: 'Old', shots: [5, null] }],
    [{ version: 0, id: 'p', name: 'Old' }],
    [{ version: 1, id: 'p', name: 'Old', shots: {} }],
    [{ version: -1, id: 'p', name: 'Old', shots: [] }],
    [{ version: 'two', id: 'p', name: 'Old', shots: [] }],
    [{ version: 2, id: 'p', name: 'Old', shots: [{ id: 'a' }] }],
  ])('broken projects of any version are refused in words or read: %j', (json) => {
    try {
      expect(readProject(json, 'old.ombrage').project.shots).toEqual([]);
    } catch (error) {
      expect(error).toBeInstanceOf(OmbrageError);
      expect((error as OmbrageError).message).toContain('old.ombrage');
    }
  });

  test('more than there may be is refused with both numbers, as much as there may be is read', () => {
    const many = (count: number) =>
      shotWith((s) => void (s.layers = Array.from({ length: count }, (_, i) => ({ ...newLayer('ground'), id: `g${i}` }))));
    expect(() => parseProject(many(100_000), 'deep.ombrage')).toThrow('deep.ombrage holds 100000 depth layers in a shot.');
    expect(settingsOf(many(200)).layers).toHaveLength(200);
    const shots = (count: number) => ({ ...newProject('T'), shots: Array.from({ length: count }, (_, i) => ({ ...newShot(plate), id: `s${i}` })) });
    expect(() => parseProject(shots(5000), 'long.ombrage')).toThrow('long.ombrage holds 5000 shots in a project.');
    expect(parseProject(shots(500), 'T').shots).toHaveLength(500);
  });
});

test('layers carry their definition’s defaults', () => {
  expect(newLayer('estimate').values).toEqual({ quality: 'fine', turnOver: false, low: 0, high: 100, steady: 70, parallax: false });
  expect(() => newLayer('nothing')).toThrow('There is no depth layer "nothing".');
});
