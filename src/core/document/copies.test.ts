import { expect, test } from '@jest/globals';
import { createDraft } from 'immer';
import { anySettings, ANY_PLATE } from '../../testing/anySettings';
import { effectOf } from '../effects/registry';
import { copyOf } from '../values/copy';
import { driveValue, newDrive, setFor } from '../values/drive';
import { writeJson } from '../values/endless';
import { paramsAt } from '../values/moment';
import { newEffect, newProject, newShot } from './defaults';
import { lookOf, readLook, writeLook } from './looks';
import { readProject } from './migrate';
import { starterLooks } from './starterLooks';

const seeds = Array.from({ length: 40 }, (_, k) => k + 1);

test.each(seeds)('settings by chance come back from a file, from a store and from a copy as they were (%i)', (seed) => {
  const settings = anySettings(seed);
  const project = { ...newProject('Any'), shots: [{ ...newShot(ANY_PLATE), settings }] };
  const untouched = copyOf(settings);
  for (const stored of [JSON.parse(writeJson(project)) as unknown, copyOf(project)]) {
    const read = readProject(stored, 'Any');
    expect(read.remarks).toEqual([]);
    expect(read.project).toEqual(project);
  }
  expect(copyOf(createDraft(settings))).toEqual(settings);
  expect(settings).toEqual(untouched);
});

test.each(seeds)('a look by chance comes back from its file as it was (%i)', (seed) => {
  const look = lookOf(anySettings(seed), 'Any', 3);
  const read = readLook(JSON.parse(writeLook(look)), 'any.look.json');
  expect(read.remarks).toEqual([]);
  expect(read.look).toEqual(look);
});

test('every starter look keeps its endless distances as a file', () => {
  let endless = 0;
  for (const look of starterLooks) {
    expect(readLook(JSON.parse(writeLook(look)), 'starter').look).toEqual(look);
    endless += look.effects.flatMap((e) => Object.values(e.values)).filter((v) => v === Infinity).length;
  }
  expect(endless).toBeGreaterThan(0);
});

test('a look with a word where a number belongs says which, and takes the usual one', () => {
  const fog = newEffect('fog');
  const file = { look: 'Mist', version: 1, subject: 2, effects: [{ ...fog, values: { ...fog.values, visibility: 'far' } }] };
  const { look, remarks } = readLook(file, 'mist.look.json');
  expect(remarks).toHaveLength(1);
  expect(remarks[0]).toMatch(/^mist\.look\.json, Fog: Visibility was "far", now .*m\.$/);
  const { visibility } = paramsAt(effectOf('fog'), look.effects[0]!, { frame: 0, fps: 24 });
  expect(visibility).toBe(effectOf('fog').params.visibility!.default);
});

test('the way to an endless distance is even in 1/distance, and never no number', () => {
  const drive = { kind: 'keys', keys: [2, Infinity].map((value, k) => ({ frame: 10 * k, value, easing: 'straight' as const })) } as const;
  const copied = { ...drive, keys: [...drive.keys] };
  expect([0, 5, 10, 20].map((f) => driveValue(copied, 1, f))).toEqual([2, 4, Infinity, Infinity]);
  const back = { ...copied, keys: [Infinity, 3].map((value, k) => ({ frame: 10 * k, value, easing: 'straight' as const })) };
  expect([0, 5, 10].map((f) => driveValue(back, 1, f))).toEqual([Infinity, 6, 3]);
  const both = { ...copied, keys: [Infinity, Infinity].map((value, k) => ({ frame: 10 * k, value, easing: 'ease' as const })) };
  for (let f = 0; f <= 10; f++) expect(driveValue(both, 1, f)).toBe(Infinity);
  const ease = { kind: 'ease', from: 4, to: Infinity, start: 0, end: 10, easing: 'ease' } as const;
  for (let f = -2; f <= 14; f++) expect(driveValue(ease, 4, f)).toBeGreaterThanOrEqual(4);
  for (const kind of ['wave', 'drift', 'keys', 'ease'] as const)
    for (const f of [0, 7, 30]) expect(driveValue(newDrive(kind, Infinity, 5, 0, 48), Infinity, f)).toBe(Infinity);
});

test('a number that swings about an endless one can be set to a finite one, and back', () => {
  const wave = newDrive('wave', Infinity, 2, 0, 48);
  expect(setFor(wave, Infinity, 7, 12)).toBe(7);
  expect(setFor(wave, 7, Infinity, 12)).toBe(Infinity);
  expect(driveValue(wave, setFor(wave, 5, 9, 12), 12)).toBeCloseTo(9, 12);
});
