import { shotNumbers } from '../document/shotNumbers';
import type { Layer, Settings } from '../document/schema';
import { driveValue } from '../values/drive';
import type { Moment } from '../values/moment';
import { clampNumber } from '../values/params';

/** A layer's opacity at a moment, 0..1. Its drive is that named `opacity`, in per cent. */
export function opacityAt({ opacity, drives }: Pick<Layer, 'opacity' | 'drives'>, at: Moment): number {
  const drive = drives.opacity;
  return drive ? Math.min(1, Math.max(0, driveValue(drive, 100 * opacity, at.frame) / 100)) : opacity;
}

/**
 * A shot's settings with the numbers of framing, lens, calibration and opacity as their drives have them at a moment; the same object where
 * nothing of it is driven. Values of layers, effects and clean-up are read by `paramsAt`.
 */
export function settingsAt(settings: Settings, at: Moment): Settings {
  const names = Object.keys(settings.drives);
  const fading = settings.layers.some((l) => l.drives.opacity);
  if (names.length === 0 && !fading) return settings;
  const out: Settings = { ...settings, framing: { ...settings.framing }, calibration: { ...settings.calibration } };
  for (const name of names) {
    const number = shotNumbers[name];
    if (!number) continue;
    number.set(out, clampNumber(number.param, driveValue(settings.drives[name]!, number.get(settings), at.frame)));
  }
  if (fading) out.layers = settings.layers.map((l) => (l.drives.opacity ? { ...l, opacity: opacityAt(l, at) } : l));
  return out;
}
