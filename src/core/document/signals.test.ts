import { describe, expect, test } from '@jest/globals';
import { driveValue } from '../values/drive';
import type { SignalDrive } from '../values/drives/signal';
import { newShot } from './defaults';
import { recordedOf, signalsOf, withSignalsNow, withSignalsPlayed } from './signals';
import type { Shot } from './schema';

const drive: SignalDrive = { kind: 'signal', signal: { channels: ['a'], steps: [] } };

/** A shot of a clip whose channel was recorded, at a rate of its own. */
function shotAt(fps: number): Shot {
  const clip = { frames: 30, fps: 30 };
  const plate = { sha256: 'a'.repeat(64), name: 'p', width: 8, height: 8, bits: 8, hfovFromFile: null, clip };
  const shot = newShot({ ...plate, recorded: { a: Array.from({ length: 30 }, (_, k) => k), empty: [] } });
  shot.settings.time = { ...shot.settings.time, length: fps, fps };
  shot.settings.effects[0]!.drives = { focus: drive };
  shot.settings.drives = { 'lens.hfov': drive };
  return shot;
}

const played = (shot: Shot, frame: number): number => driveValue(withSignalsPlayed(shot).effects[0]!.drives.focus!, -1, frame);

describe('what was recorded of a signal', () => {
  test('is heard with the frame of the clip that is seen, whatever the rate of the shot', () => {
    for (const fps of [15, 24, 30, 60]) {
      const shot = shotAt(fps);
      for (const frame of [0, 1, Math.floor(fps / 2), fps - 1]) expect(played(shot, frame)).toBe(Math.floor((frame / fps) * 30 + 0.01));
      // beyond the clip its last frame stands, and so does what was heard with it
      expect(played(shot, 10 * fps)).toBe(29);
    }
    // at the clip's own rate it is what was recorded
    const same = shotAt(30);
    expect(recordedOf(same)).toBe(same.plate.recorded);
  });

  test('is given to every signal of the shot, and to none where nothing was recorded', () => {
    expect(signalsOf(withSignalsPlayed(shotAt(24))).map((d) => d.heard?.values[0]!.length)).toEqual([25, 25]);
    const { recorded: _, ...plate } = shotAt(24).plate;
    expect(signalsOf(withSignalsPlayed({ ...shotAt(24), plate })).every((d) => d.heard === undefined)).toBe(true);
  });
});

test('settings without signals are the same object', () => {
  const { settings } = newShot({ sha256: 'a'.repeat(64), name: 'p', width: 8, height: 8, bits: 8, hfovFromFile: null });
  expect(withSignalsNow(settings, () => 1)).toBe(settings);
});
