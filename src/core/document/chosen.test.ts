import { describe, expect, test } from '@jest/globals';
import { ANY_PLATE } from '../../testing/anySettings';
import { numberChosen, shotOfChoice, withAmong } from './chosen';
import { newProject, newShot } from './defaults';
import { readProject } from './migrate';
import type { Chosen } from './schema';

const live = newShot(ANY_PLATE);
const other = newShot(ANY_PLATE);
const wide = { ...other.settings, hfovDegrees: 90 };
other.takes.push({ id: 'wide', name: 'Wide', settings: wide });
live.takes.push({ id: 'dim', name: 'Dim', settings: { ...live.settings, hfovDegrees: 20 } });
const shots = [live, other];

describe('what a choice means', () => {
  test('the live shot itself, also after it was duplicated, and its takes, of the pictures that arrive', () => {
    const itself = { shot: null, take: null };
    expect(shotOfChoice(itself, live, shots)).toEqual({ choice: itself, shot: live, own: true });
    const dim = { shot: null, take: 'dim' };
    expect(shotOfChoice(dim, live, shots)).toMatchObject({ own: true, shot: { id: live.id, settings: { hfovDegrees: 20 } } });
  });

  test('another shot of the project, and a take of it', () => {
    expect(shotOfChoice({ shot: other.id, take: null }, live, shots)).toMatchObject({ own: false, shot: other });
    expect(shotOfChoice({ shot: other.id, take: 'wide' }, live, shots)).toMatchObject({ own: false, shot: { settings: wide } });
  });

  test('a shot or a take that is gone means nothing', () => {
    expect(shotOfChoice({ shot: 'gone', take: null }, live, shots)).toBeNull();
    expect(shotOfChoice({ shot: other.id, take: 'gone' }, live, shots)).toBeNull();
    expect(shotOfChoice({ shot: null, take: 'wide' }, live, shots)).toBeNull();
  });
});

test.each([
  [null, 0],
  [NaN, 0],
  [-3, 0],
  [0.49, 0],
  [0.51, 1],
  [2, 2],
  [99, 2],
  [Infinity, 2],
])('of three %p means number %i', (value, place) => {
  expect(numberChosen(value, 3)).toBe(place);
});

describe('one more, or one less to choose from', () => {
  const among = [
    { shot: null, take: null },
    { shot: other.id, take: null },
    { shot: other.id, take: 'wide' },
  ];
  const counted = (wraps: number, of: number): Chosen => ({
    among,
    signal: {
      channels: ['blink'],
      steps: [
        { kind: 'count', values: { wraps } },
        { kind: 'select', values: { of } },
      ],
    },
  });

  test('what counts or selects all of them goes along, what was set otherwise stays', () => {
    expect(withAmong(counted(3, 3), among.slice(0, 2)).signal.steps.map((s) => s.values)).toEqual([{ wraps: 2 }, { of: 2 }]);
    expect(withAmong(counted(7, 3), [...among, among[0]!]).signal.steps.map((s) => s.values)).toEqual([{ wraps: 7 }, { of: 4 }]);
  });

  test('fewer than two are never counted', () => {
    expect(withAmong(counted(3, 3), []).signal.steps.map((s) => s.values)).toEqual([{ wraps: 2 }, { of: 2 }]);
  });

  test('a project comes back from its file with them', () => {
    const project = newProject('Any');
    const plate = { ...live.plate, live: { source: 'simulated', values: {}, hears: [], chosen: counted(3, 3) } };
    const read = readProject({ ...project, shots: [{ ...live, plate }, other] }, 'Any');
    expect(read.remarks).toEqual([]);
    expect(read.project.shots[0]!.plate.live).toEqual(plate.live);
  });
});
