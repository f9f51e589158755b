import { describe, expect, test } from '@jest/globals';
import { writeJson } from '../endless';
import { driveSchema, driveValue, withValues } from '../drive';
import { fStop, metres } from '../params';
import { inUnitOf, signalDrive, withHeard, type SignalDrive } from './signal';

const from = (steps: SignalDrive['signal']['steps'], channels = ['a']): SignalDrive => ({ kind: 'signal', signal: { channels, steps } });
const gateAndCount = from([
  { kind: 'gate', values: { from: 0.6, to: 1 } },
  { kind: 'count', values: { wraps: 3 } },
]);

describe('a signal that drives a number', () => {
  test('leaves it as it is set until a channel is heard, and gives what is heard now', () => {
    const drive = signalDrive.begin({ set: 4, swing: 2, frame: 0, length: 96 });
    expect(driveValue(drive, 4, 10)).toBe(4);
    expect(driveValue({ ...drive, now: 5.5 }, 4, 10)).toBe(5.5);
    expect(drive.signal.steps[0]!.values).toMatchObject({ low: 4, high: 6 });
    // an endless distance has no line to go along
    expect(Number.isFinite(signalDrive.begin({ set: Infinity, swing: 2, frame: 0, length: 96 }).signal.steps[0]!.values.low as number)).toBe(true);
  });

  test('plays what was recorded of its channels, the same in any order, and holds its end', () => {
    const bumps = [0, 0.7, 0.2, 0.9, 0, 0.65, 0, 0.8];
    const drive = withHeard(gateAndCount, { a: bumps, b: [1] }, 30);
    const played = bumps.map((_, frame) => driveValue(drive, 9, frame));
    expect(played).toEqual([0, 1, 1, 2, 2, 0, 0, 1]);
    expect([...bumps.keys()].reverse().map((frame) => driveValue(drive, 9, frame))).toEqual([...played].reverse());
    expect(driveValue(drive, 9, 500)).toBe(1);
    expect(driveValue(drive, 9, 2.5)).toBe(1);
  });

  test('of channels that were not recorded stays as it is set', () => {
    expect(withHeard(gateAndCount, { other: [1] }, 30).heard).toBeUndefined();
    expect(withHeard(gateAndCount, undefined, 30).heard).toBeUndefined();
    // what was recorded of a channel that it is not of any more goes
    const heard = withHeard(gateAndCount, { a: [1, 2] }, 30);
    expect(withHeard({ ...heard, signal: { ...heard.signal, channels: ['gone'] } }, { a: [1, 2] }, 30).heard).toBeUndefined();
  });

  test('smooths by the time of the recording', () => {
    const smooth = from([{ kind: 'smooth', values: { seconds: 1 } }]);
    const at = (fps: number): number => driveValue(withHeard(smooth, { a: [0, ...new Array<number>(fps).fill(1)] }, fps), 0, fps);
    expect(at(24)).toBeCloseTo(1 - Math.exp(-1), 9);
    expect(at(60)).toBeCloseTo(1 - Math.exp(-1), 9);
  });

  test('comes back from a document, without what it gave at the moment of it', () => {
    const drive = withHeard(gateAndCount, { a: [0.1, 0.9] }, 24);
    expect(driveSchema.parse(JSON.parse(writeJson(drive)))).toEqual(drive);
    expect(driveSchema.safeParse({ kind: 'signal', signal: { channels: 'a' } }).success).toBe(false);
  });

  test('with other values goes to others', () => {
    const drive = signalDrive.begin({ set: 1, swing: 1, frame: 0, length: 96 });
    expect((withValues(drive, (v) => 10 * v) as SignalDrive).signal.steps[0]!.values).toMatchObject({ from: 0, to: 1, low: 10, high: 20 });
  });

  test('what a range becomes is told in the unit of the number', () => {
    const distance = metres({ label: 'Distance', min: 0.1, max: 100, default: 2 });
    const own = fStop({ label: 'Becomes', min: 1, max: 2, default: 1 });
    expect(inUnitOf(distance, own, 'low', 'range')).toMatchObject({ label: 'Becomes', unit: 'm', max: 100 });
    expect(inUnitOf(distance, own, 'from', 'range')).toBe(own);
    expect(inUnitOf(distance, own, 'low', 'scale')).toBe(own);
  });
});
