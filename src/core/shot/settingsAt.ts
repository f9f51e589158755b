import { knowsMove, moveOf } from '../camera/registry';
import { cleanupOf, knowsCleanup } from '../depth/cleanup/registry';
import { knowsLayer, layerOf } from '../depth/layers/registry';
import { layerAt } from '../document/keyedLayer';
import { drivenNumbers, keyedLayers } from '../document/driven';
import { shotNumbers } from '../document/shotNumbers';
import { effectOf, knowsEffect } from '../effects/registry';
import type { Layer, Settings } from '../document/schema';
import { driveValue } from '../values/drive';
import { paramsAt, type DrivenItem, type Moment } from '../values/moment';
import { clampNumber, type Params } from '../values/params';

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

/** A thing with the values that its drives give it at a moment, and no drives: what swings about a value would do so twice. */
const itemAt = <T extends DrivenItem & { readonly kind: string }>(
  item: T,
  knows: boolean,
  of: (kind: string) => { readonly params: Params },
  at: Moment,
): T =>
  knows && item.drives && Object.keys(item.drives).length > 0
    ? { ...item, values: { ...item.values, ...paramsAt(of(item.kind), item, at) }, drives: {} }
    : item;

/** Whether anything that is set of a shot has other values at another frame. */
export const setOverTime = (settings: Settings): boolean => drivenNumbers(settings).length > 0 || keyedLayers(settings).length > 0;

/**
 * A shot's settings as they hold at a moment, to be read: every driven number, those of layers, clean-up, effects and moves too, is what its
 * drive makes it, and nothing is driven any more. The same object where nothing is. What is shown of a shot is read from here; what is changed is changed in the shot.
 */
export function readAt(settings: Settings, at: Moment): Settings {
  if (!setOverTime(settings)) return settings;
  const now = settingsAt(settings, at);
  return {
    ...now,
    drives: {},
    layers: now.layers.map((l) => itemAt(l, knowsLayer(l.kind), layerOf, at)),
    cleanup: now.cleanup.map((c) => itemAt(c, knowsCleanup(c.kind), cleanupOf, at)),
    effects: now.effects.map((e) => itemAt(e, knowsEffect(e.kind), effectOf, at)),
    camera: { ...now.camera, moves: now.camera.moves.map((m) => itemAt(m, knowsMove(m.kind), moveOf, at)) },
  };
}
