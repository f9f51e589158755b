import type { Drives } from '../values/drive';
import { signalDrive, withHeard, type SignalDrive } from '../values/drives/signal';
import { framesShown } from '../need/need';
import type { Recorded, Settings, Shot } from './schema';

interface Driven {
  readonly drives?: Drives;
}

/** Settings with every signal that drives something changed; the same object where none does. */
function withSignals(settings: Settings, change: (drive: SignalDrive) => SignalDrive): Settings {
  let any = false;
  const changed = <T extends Driven>(item: T): T => {
    const signals = Object.entries(item.drives ?? {}).filter(([, drive]) => drive.kind === signalDrive.kind);
    if (signals.length === 0) return item;
    any = true;
    return { ...item, drives: { ...item.drives, ...Object.fromEntries(signals.map(([name, drive]) => [name, change(drive as SignalDrive)])) } };
  };
  const out: Settings = {
    ...changed(settings),
    layers: settings.layers.map(changed),
    cleanup: settings.cleanup.map(changed),
    effects: settings.effects.map(changed),
    camera: { ...settings.camera, moves: settings.camera.moves.map(changed) },
  };
  return any ? out : settings;
}

/** Settings in which every signal gives what it gives now; `now` answers null for one that was not heard. */
export const withSignalsNow = (settings: Settings, now: (drive: SignalDrive) => number | null): Settings =>
  withSignals(settings, (drive) => {
    const value = now(drive);
    return value === null ? drive : { ...drive, now: value };
  });

/** The channels that were recorded with a shot's plate, a value a frame of the shot: its clip may run at another rate. Absent where none were. */
export function recordedOf({ plate, settings: { time } }: Pick<Shot, 'plate' | 'settings'>): Recorded | undefined {
  const { recorded, clip } = plate;
  if (!recorded || !clip || clip.fps === time.fps) return recorded;
  const frames = framesShown(plate, { length: Math.max(time.length, 1 + Math.ceil((clip.frames / clip.fps) * time.fps)), fps: time.fps });
  return Object.fromEntries(
    Object.entries(recorded).map(([name, values]) => [name, values.length > 0 ? frames.map((k) => values[Math.min(k, values.length - 1)]!) : []]),
  );
}

/** Settings in which every signal plays what was recorded of its channels with the plate; to be asked again when the shot's rate changes. */
export function withSignalsPlayed(shot: Pick<Shot, 'plate' | 'settings'>): Settings {
  const recorded = recordedOf(shot);
  return withSignals(shot.settings, (drive) => withHeard(drive, recorded, shot.settings.time.fps));
}

/** Every signal that drives a number of the shot. */
export function signalsOf(settings: Settings): readonly SignalDrive[] {
  const found: SignalDrive[] = [];
  withSignals(settings, (drive) => {
    found.push(drive);
    return drive;
  });
  return found;
}
