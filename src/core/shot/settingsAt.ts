import { layerAt } from '../document/keyedLayer';
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
 * nothing of it is driven. Layers are as their keys have them. Values of layers, effects and clean-up are read by `paramsAt`.
 */
export function settingsAt(settings: Settings, at: Moment): Settings {
  const names = Object.keys(settings.drives);
  const fading = settings.layers.some((l) => l.drives.opacity);
  const keyed = settings.layers.some((l) => l.keyed && l.keyed.length > 0);
  if (names.length === 0 && !fading && !keyed) return settings;
  const out: Settings = { ...settings, framing: { ...settings.framing }, calibration: { ...settings.calibration } };
  for (const name of names) {
    const number = shotNumbers[name];
    if (!number) continue;
    number.set(out, clampNumber(number.param, driveValue(settings.drives[name]!, number.get(settings), at.frame)));
  }
  if (fading || keyed)
    out.layers = settings.layers.map((l) => {
      const now = layerAt(l, at.frame);
      return l.drives.opacity ? { ...now, opacity: opacityAt(l, at) } : now;
    });
  return out;
}
