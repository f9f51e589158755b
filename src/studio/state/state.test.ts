import { beforeEach, describe, expect, jest, test } from '@jest/globals';
import { newProject, newShot } from '../../core/document/defaults';
import { changeSettings, changeShot, shotOf, useDocument } from './documentStore';
import { dismiss, notify, progressOf, useSession, type Progress } from './sessionStore';
import { useView } from './viewStore';

const plate = { sha256: 'a'.repeat(64), name: 'p.png', width: 1600, height: 900, bits: 8, hfovFromFile: 60 };

beforeEach(() => {
  const project = { ...newProject('Test'), shots: [newShot(plate)] };
  useDocument.getState().open(project, project.shots[0]!.id);
});

const bend = (): number => shotOf(useDocument.getState())!.settings.calibration.bend;
const setBend = (value: number, key?: string): void => changeSettings((s) => void (s.calibration.bend = value), key);

describe('history', () => {
  test('each change is one step back and one forward', () => {
    setBend(2);
    setBend(3);
    useDocument.getState().undo();
    expect(bend()).toBe(2);
    useDocument.getState().undo();
    expect(bend()).toBe(1);
    useDocument.getState().undo();
    expect(bend()).toBe(1);
    useDocument.getState().redo();
    useDocument.getState().redo();
    expect(bend()).toBe(3);
  });

  test('changes of one gesture make one step; another gesture makes another', () => {
    for (let i = 1; i <= 20; i++) setBend(1 + i / 20, 'bend#1');
    for (let i = 1; i <= 20; i++) setBend(2 + i / 20, 'bend#2');
    expect(useDocument.getState().past).toHaveLength(2);
    useDocument.getState().undo();
    expect(bend()).toBe(2);
    useDocument.getState().undo();
    expect(bend()).toBe(1);
  });

  test('the same control after a pause is a new step', () => {
    const clock = jest.spyOn(Date, 'now').mockReturnValue(1_000_000);
    setBend(2, 'bend#keys');
    clock.mockReturnValue(1_000_500);
    setBend(3, 'bend#keys');
    clock.mockReturnValue(1_005_000);
    setBend(4, 'bend#keys');
    clock.mockRestore();
    expect(useDocument.getState().past).toHaveLength(2);
  });

  test('a change that changes nothing is no step, and a new change ends what could be redone', () => {
    setBend(1);
    expect(useDocument.getState().past).toHaveLength(0);
    setBend(2);
    useDocument.getState().undo();
    setBend(5);
    useDocument.getState().redo();
    expect(bend()).toBe(5);
  });

  test('what did not change is shared with the document before', () => {
    const before = shotOf(useDocument.getState())!;
    setBend(2);
    const after = shotOf(useDocument.getState())!;
    expect(after).not.toBe(before);
    expect(after.plate).toBe(before.plate);
    expect(after.settings.effects).toBe(before.settings.effects);
    expect(before.settings.calibration.bend).toBe(1);
  });

  test('a shot that is not there is not changed', () => {
    useDocument.setState({ shotId: 'gone' });
    changeShot((s) => void (s.name = 'x'));
    expect(useDocument.getState().past).toHaveLength(0);
  });
});

describe('messages', () => {
  test('the same message is shown once, and can be closed', () => {
    const first = notify({ kind: 'error', text: 'Disk full.' });
    const second = notify({ kind: 'error', text: 'Disk full.' });
    notify({ kind: 'note', text: 'Stopped.' });
    expect(useSession.getState().notices.map((n) => n.id)).not.toContain(first);
    dismiss(second);
    expect(useSession.getState().notices.map((n) => n.text)).toEqual(['Stopped.']);
  });
});

describe('progress', () => {
  test('the time left follows from the share done; late reports after the end are dropped', () => {
    const seen: (Progress | null)[] = [];
    const clock = jest.spyOn(performance, 'now').mockReturnValue(0);
    const progress = progressOf(
      'Exporting',
      () => undefined,
      (p) => seen.push(p),
    );
    clock.mockReturnValue(2000);
    progress.report(0.25);
    progress.end();
    progress.report(0.5);
    clock.mockRestore();
    expect(seen[0]).toMatchObject({ share: 0, left: null });
    expect(seen[1]!.left).toBeCloseTo(6, 9);
    expect(seen[2]).toBeNull();
    expect(seen).toHaveLength(3);
  });
});

test('the view starts with the picture, fitted, in Effects', () => {
  const { chapter, mode, zoom, peek, picking } = useView.getState();
  expect({ chapter, mode, zoom, peek, picking }).toEqual({ chapter: 'effects', mode: 'picture', zoom: null, peek: null, picking: null });
});
