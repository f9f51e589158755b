import type { Drives } from '../values/drive';
import { signalDrive, withHeard, type SignalDrive } from '../values/drives/signal';
import type { Recorded, Settings } from './schema';

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

/** Settings in which every signal plays what was recorded of its channels. */
export const withSignalsPlayed = (settings: Settings, recorded: Recorded | undefined): Settings =>
  withSignals(settings, (drive) => withHeard(drive, recorded, settings.time.fps));

/** Every signal that drives a number of the shot. */
export function signalsOf(settings: Settings): readonly SignalDrive[] {
  const found: SignalDrive[] = [];
  withSignals(settings, (drive) => {
    found.push(drive);
    return drive;
  });
  return found;
}
