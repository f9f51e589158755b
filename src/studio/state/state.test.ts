import { beforeEach, describe, expect, jest, test } from '@jest/globals';
import { newProject, newShot } from '../../core/document/defaults';
import type { Shot } from '../../core/document/schema';
import { beginGesture, changeSettings, keyGesture, changeShot, shotOf, useDocument, whileOpen, type Gesture } from './documentStore';
import { framesAhead } from './player';
import { progressOf, type Progress } from './sessionStore';
import { dismiss, notify, useNotices } from '../notices/noticeStore';
import { useView } from './viewStore';

const plate = { sha256: 'a'.repeat(64), name: 'p.png', width: 1600, height: 900, bits: 8, hfovFromFile: 60 };

beforeEach(() => {
  const project = { ...newProject('Test'), shots: [newShot(plate)] };
  useDocument.getState().open(project, project.shots[0]!.id);
});

const bend = (): number => shotOf(useDocument.getState())!.settings.calibration.bend;
const setBend = (value: number, gesture?: Gesture): void => changeSettings((s) => void (s.calibration.bend = value), gesture);

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
    for (const from of [1, 2]) {
      const gesture = beginGesture();
      for (let i = 1; i <= 20; i++) setBend(from + i / 20, gesture);
      gesture.commit();
    }
    expect(useDocument.getState().past).toHaveLength(2);
    useDocument.getState().undo();
    expect(bend()).toBe(2);
    useDocument.getState().undo();
    expect(bend()).toBe(1);
  });

  test('the same control after a pause is a new step', () => {
    jest.useFakeTimers();
    setBend(2, keyGesture('bend'));
    jest.advanceTimersByTime(500);
    setBend(3, keyGesture('bend'));
    expect(bend()).toBe(3);
    expect(useDocument.getState().past).toHaveLength(0);
    jest.advanceTimersByTime(5000);
    expect(useDocument.getState().past).toHaveLength(1);
    setBend(4, keyGesture('bend'));
    // keys on something else begin another step, and so does going back
    setBend(5, keyGesture('else'));
    expect(useDocument.getState().past).toHaveLength(2);
    useDocument.getState().undo();
    jest.useRealTimers();
    expect(bend()).toBe(4);
    expect(useDocument.getState().past).toHaveLength(2);
  });

  test('keys that step build on each other before the page draws, a pointer does not', () => {
    const add = (gesture: Gesture): void => changeSettings((s) => void (s.calibration.bend += 0.5), gesture);
    jest.useFakeTimers();
    for (let k = 0; k < 3; k++) add(keyGesture('bend'));
    jest.advanceTimersByTime(5000);
    jest.useRealTimers();
    expect(bend()).toBe(2.5);
    const pointer = beginGesture();
    for (let k = 0; k < 3; k++) add(pointer);
    pointer.commit();
    expect(bend()).toBe(3);
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
    notify({ kind: 'note', text: 'Aborted.' });
    expect(useNotices.getState().notices.map((n) => n.id)).not.toContain(first);
    dismiss(second);
    expect(useNotices.getState().notices.map((n) => n.text)).toEqual(['Aborted.']);
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

describe('gestures', () => {
  const past = (): number => useDocument.getState().past.length;
  const saved = (): number => useDocument.getState().project!.shots[0]!.settings.calibration.bend;
  const bendTo = (value: number) => (shot: Shot) => void (shot.settings.calibration.bend = value);

  test('a slow one is one step of undo, two quick ones are two', () => {
    const clock = jest.spyOn(Date, 'now');
    const slow = beginGesture();
    for (let k = 1; k <= 5; k++) {
      clock.mockReturnValue(1_000_000 + k * 5000);
      slow.set(bendTo(1 + k / 10));
    }
    slow.commit();
    for (const to of [2, 3]) {
      const quick = beginGesture();
      quick.set(bendTo(to));
      quick.commit();
    }
    clock.mockRestore();
    expect(past()).toBe(3);
    useDocument.getState().undo();
    expect(bend()).toBe(2);
  });

  test('what it does is shown as it goes and saved when it is over; cancelled, nothing was', () => {
    const gesture = beginGesture();
    gesture.set(bendTo(4));
    expect([bend(), saved(), past()]).toEqual([4, 1, 0]);
    gesture.cancel();
    gesture.set(bendTo(5));
    gesture.commit();
    expect([bend(), saved(), past()]).toEqual([1, 1, 0]);
  });

  test('every step is told from the beginning, and a change made meanwhile is kept', () => {
    const gesture = beginGesture();
    gesture.set((shot) => void (shot.settings.calibration.bend += 1));
    gesture.set((shot) => void (shot.settings.calibration.bend += 2));
    changeSettings((s) => void (s.calibration.low = 0.25));
    gesture.commit();
    expect([bend(), shotOf(useDocument.getState())!.settings.calibration.low]).toEqual([3, 0.25]);
  });

  test('one that is begun ends the one before; one that moved nothing is no step', () => {
    const first = beginGesture();
    first.set(bendTo(2));
    const second = beginGesture();
    second.commit();
    first.set(bendTo(9));
    expect([saved(), past()]).toEqual([2, 1]);
  });
});

test('what was begun for a shot knows that another was opened', () => {
  const open = whileOpen();
  expect(open()).toBe(true);
  const other = { ...newProject('Other'), shots: [newShot(plate)] };
  useDocument.getState().open(other, other.shots[0]!.id);
  expect(open()).toBe(false);
});

test('frames are made ahead from the playhead on, round the end of the range, and no more than may be kept', () => {
  expect(framesAhead({ from: 2, to: 6 }, 4, 99)).toEqual([4, 5, 6, 2, 3]);
  expect(framesAhead({ from: 2, to: 6 }, 0, 2)).toEqual([2, 3]);
  expect(framesAhead({ from: 0, to: 35_999 }, 35_998, 4)).toEqual([35_998, 35_999, 0, 1]);
  expect(framesAhead({ from: 0, to: -1 }, 0, 5)).toEqual([]);
});

test('what comes to a project by itself is no step of undo, and no undo takes it away', () => {
  const [a, b] = [newShot(plate), newShot(plate)];
  useDocument.getState().open({ ...newProject('T'), shots: [a] }, a.id);
  changeShot((s) => void (s.name = 'one'));
  changeShot((s) => void (s.name = 'two'));
  useDocument.getState().undo();
  useDocument.getState().amend((p) => void p.shots.push(b));
  const names = (): string[] => useDocument.getState().project!.shots.map((s) => s.id);
  expect(names()).toEqual([a.id, b.id]);
  useDocument.getState().undo();
  expect(names()).toEqual([a.id, b.id]);
  useDocument.getState().redo();
  useDocument.getState().redo();
  expect([names(), useDocument.getState().project!.shots[0]!.name]).toEqual([[a.id, b.id], 'two']);
});
