import { expect, test } from '@jest/globals';
import { writeJson } from '../values/endless';
import { newEffect, newLayer, newProject, newShot } from './defaults';
import { readLook } from './looks';
import { readProject } from './migrate';

const plate = { sha256: 'a'.repeat(64), name: 'p.png', width: 64, height: 36, bits: 8, hfovFromFile: null };
interface Json {
  shots: { settings: { layers: Record<string, unknown>[]; effects: { drives: Record<string, unknown> }[] } & Record<string, unknown> }[];
}
const projectWith = (change: (json: Json['shots'][0]['settings']) => void): unknown => {
  const shot = newShot(plate);
  shot.settings.layers.push(newLayer('brush'));
  shot.settings.effects = [newEffect('lens-blur')];
  const json = JSON.parse(writeJson({ ...newProject('H'), shots: [shot] })) as Json;
  change(json.shots[0]!.settings);
  return json;
};
const within = (milliseconds: number, work: () => unknown): unknown => {
  const began = performance.now();
  try {
    return work();
  } catch (error) {
    return error;
  } finally {
    expect(performance.now() - began).toBeLessThan(milliseconds);
  }
};
const keys = (count: number) => Array.from({ length: count }, (_, frame) => ({ frame, value: 2, easing: 'ease' }));

test('twenty thousand keys of a drive are read in a moment; a million are refused in one', () => {
  const read = within(1000, () =>
    readProject(
      projectWith((s) => (s.effects[0]!.drives.focus = { kind: 'keys', keys: keys(20_000) })),
      'H',
    ),
  );
  expect(read).toMatchObject({ remarks: [] });
  const million = projectWith((s) => (s.effects[0]!.drives.focus = { kind: 'keys', keys: keys(1e6) }));
  expect(within(1000, () => readProject(million, 'big.ombrage'))).toMatchObject({
    code: 'too-many',
    message: 'big.ombrage holds 1000000 keys in a drive.',
  });
});

test('keys of which some are wrong keep the others, and say which are gone in plain words', () => {
  const list: unknown[] = keys(50);
  list[3] = { frame: 3 };
  list[40] = { frame: 'x', value: 1, easing: 'ease' };
  const { project, remarks } = readProject(
    projectWith((s) => (s.effects[0]!.drives.focus = { kind: 'keys', keys: list })),
    'H',
  );
  const drive = project.shots[0]!.settings.effects[0]!.drives.focus!;
  expect(drive.kind === 'keys' && drive.keys.map((k) => k.frame)).toEqual(
    keys(50)
      .map((k) => k.frame)
      .filter((f) => f !== 3 && f !== 40),
  );
  expect(remarks).toHaveLength(3);
  expect(remarks.join(' ')).not.toMatch(/expected|received|invalid|undefined/i);
});

test('a hundred thousand strokes that are none are refused in a moment; a few hundred are left out in one', () => {
  const strokes = (count: number) => projectWith((s) => (s.layers[1]!.content = { strokes: Array.from({ length: count }, () => ({ id: 3 })) }));
  expect(within(1000, () => readProject(strokes(1e5), 'H'))).toMatchObject({ code: 'too-many' });
  const read = within(2000, () => readProject(strokes(300), 'H')) as ReturnType<typeof readProject>;
  expect(read.project.shots[0]!.settings.layers[1]!.content).toEqual({ strokes: [] });
  expect(read.remarks.length).toBeGreaterThan(0);
});

test('what is nested a hundred thousand deep is refused in words, as a project and as a look', () => {
  let deep: unknown = 1;
  for (let k = 0; k < 1e5; k++) deep = [deep];
  const project = projectWith((s) => (s.layers[1]!.content = { strokes: deep }));
  expect(within(500, () => readProject(project, 'deep.ombrage'))).toMatchObject({
    code: 'bad-document',
    message: expect.stringContaining('levels deep'),
  });
  expect(within(500, () => readLook({ look: 'x', version: 1, subject: 1, effects: deep }, 'deep.look.json'))).toMatchObject({ code: 'bad-document' });
});

test('remarks and errors are in words of ours', () => {
  const cases: unknown[] = [
    projectWith((s) => (s.layers[0] = { id: 'x' })),
    projectWith((s) => (s.framing = { width: 'wide' })),
    projectWith((s) => (s.time = { length: -3, fps: 'fast' })),
    projectWith((s) => (s.stakes = [{ id: 's', x: 0.5 }])),
    projectWith((s) => (s.effects[0]!.drives.focus = { kind: 'dance' })),
  ];
  for (const json of cases) expect(readProject(json, 'H').remarks.join(' ')).not.toMatch(/expected|received|invalid|undefined|zod/i);
  for (const bad of [{}, { look: '' }, { look: 'x', version: 1, subject: 1, effects: [3] }, { look: 'x', version: 'one', subject: 1, effects: [] }])
    expect(() => readLook(bad, 'l.json')).toThrow(/^l\.json holds no look: [a-z0-9.]+, it [a-z ]+\.$/);
});
