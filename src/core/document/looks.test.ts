import { describe, expect, test } from '@jest/globals';
import { effects, knowsEffect } from '../effects/registry';
import { valuesSchema } from '../values/params';
import { effectOf } from '../effects/registry';
import { newEffect, newMove, newShot } from './defaults';
import { applyLook, fittedLook, LOOK_VERSION, lookOf, readLook, writeLook } from './looks';
import { writeJson } from '../values/endless';
import { starterLooks } from './starterLooks';
import { readProject } from './migrate';

const plate = { sha256: 'a'.repeat(64), name: 'p.png', width: 40, height: 20, bits: 8, hfovFromFile: null };

function settingsWith(): ReturnType<typeof newShot>['settings'] {
  const { settings } = newShot(plate);
  const isolate = newEffect('isolate');
  Object.assign(isolate.values, { from: 1, to: Infinity });
  const lamp = newEffect('relight');
  Object.assign(lamp.values, { right: 1, up: -2, distance: 3, intensity: 5 });
  lamp.drives = { distance: { kind: 'keys', keys: [{ frame: 0, value: 3, easing: 'ease' }] } };
  const backdrop = { ...newEffect('backdrop'), media: { sha256: 'b'.repeat(64), name: 'sky.png', width: 4, height: 4 } };
  settings.effects = [isolate, lamp, backdrop];
  settings.camera.moves = [newMove('push-in')];
  return settings;
}

describe('a look', () => {
  test('goes out as JSON and comes back: endless distances too, files not', () => {
    const look = lookOf(settingsWith(), 'Mine', 2);
    const { look: back, remarks } = readLook(JSON.parse(writeLook(look)), 'mine.json');
    expect(remarks).toEqual([]);
    expect(back.effects.map((e) => e.kind)).toEqual(['isolate', 'relight', 'backdrop']);
    expect(back.effects[0]!.values.to).toBe(Infinity);
    expect(back.effects[2]!.media).toBeUndefined();
    expect(back.moves).toHaveLength(1);
  });
  test('of a newer version, or with effects that are not known, is taken as far as it goes and says so', () => {
    const look = lookOf(settingsWith(), 'Mine', 2);
    const newer = { ...look, version: LOOK_VERSION + 1, effects: [...look.effects, { id: 'x', kind: 'wormhole', on: true, values: {}, drives: {} }] };
    const { look: back, remarks } = readLook(JSON.parse(writeLook(newer)), 'mine.json');
    expect(back.effects.every((e) => knowsEffect(e.kind))).toBe(true);
    expect(remarks.join(' ')).toMatch(/newer/);
    expect(remarks.join(' ')).toMatch(/wormhole/);
  });
  test.each([[null], [{}], [[]], [{ look: 'a', version: 1, subject: -1, effects: [] }], ['text']])(
    'is not read from %p, and the file is named',
    (json) => {
      expect(() => readLook(json, 'broken.json')).toThrow(/broken\.json/);
    },
  );
  test('keeps its proportions in another shot: metres are scaled, light by their square, keys too', () => {
    const { effects: fitted } = fittedLook(lookOf(settingsWith(), 'Mine', 2), 6);
    expect(fitted[0]!.values).toMatchObject({ from: 3, to: Infinity });
    expect(fitted[1]!.values).toMatchObject({ right: 3, up: -6, distance: 9, intensity: 45, relief: 100 });
    const drive = fitted[1]!.drives.distance!;
    expect(drive.kind === 'keys' && drive.keys[0]!.value).toBe(9);
    const { effects: same } = fittedLook(lookOf(settingsWith(), 'Mine', 2), 6, true);
    expect(same[1]!.values).toMatchObject({ right: 1, distance: 3, intensity: 5 });
  });
  test('gives a shot its effects with ids of their own, and its moves only where it has some', () => {
    const { settings } = newShot(plate);
    settings.camera.moves = [newMove('arc')];
    const look = lookOf(settingsWith(), 'Mine', 2);
    applyLook(settings, { ...look, moves: [] }, 2);
    expect(settings.effects).toHaveLength(3);
    expect(settings.camera.moves.map((m) => m.kind)).toEqual(['arc']);
    const first = settings.effects[0]!.id;
    applyLook(settings, look, 2);
    expect(settings.effects[0]!.id).not.toBe(first);
    expect(settings.camera.moves.map((m) => m.kind)).toEqual(['push-in']);
  });
});

test('a dozen looks come along, of effects and settings that there are', () => {
  expect(starterLooks).toHaveLength(12);
  expect(new Set(starterLooks.map((l) => l.look)).size).toBe(12);
  for (const look of starterLooks)
    for (const item of look.effects) {
      const { params } = effectOf(item.kind);
      expect(effects.some((e) => e.kind === item.kind)).toBe(true);
      for (const name of Object.keys(item.values)) expect([look.look, name, name in params]).toEqual([look.look, name, true]);
      expect(valuesSchema(params).parse(item.values)).toMatchObject(item.values);
    }
});

test('a document keeps endless distances, and content that cannot be read is left out and told', () => {
  const shot = newShot(plate);
  shot.settings.effects = settingsWith().effects;
  shot.settings.effects[1]!.content = { lights: 'many', surroundings: null };
  const document = JSON.parse(writeJson({ version: 3, id: 'p', name: 'P', shots: [shot] })) as unknown;
  const { project, remarks } = readProject(document, 'p');
  expect(project.shots[0]!.settings.effects[0]!.values.to).toBe(Infinity);
  expect(project.shots[0]!.settings.effects[1]!.content).toMatchObject({ lights: null });
  expect(remarks.join(' ')).toMatch(/Relight/);
});
