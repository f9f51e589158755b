import { moves } from '../core/camera/registry';
import { cleanups } from '../core/depth/cleanup/registry';
import { layers } from '../core/depth/layers/registry';
import { newEffect, newCleanup, newLayer, newMove, newShot } from '../core/document/defaults';
import type { Settings } from '../core/document/schema';
import { effects } from '../core/effects/registry';
import { seededRandom } from '../core/random';
import { easings, type Drive } from '../core/values/drive';
import { clampNumber, type NumberParam, type Param, type Params } from '../core/values/params';

/** A plate that is in no store. */
export const ANY_PLATE = { sha256: 'a'.repeat(64), name: 'quay.png', width: 640, height: 360, bits: 8, hfovFromFile: 54 };

type Random = () => number;

const oneOf = <T>(random: Random, list: readonly T[]): T => list[Math.floor(random() * list.length)]!;

/** A number that may be set: anywhere on its track, or at an end of what may be typed, endless ones too. */
const anyOf = (p: NumberParam, random: Random): number =>
  clampNumber(p, random() < 0.4 ? oneOf(random, [p.lowest, p.highest]) : p.min + random() * (p.max - p.min));

const anyValue = (p: Param, random: Random): number | boolean | string => {
  if (p.type === 'number') return anyOf(p, random);
  if (p.type === 'toggle') return random() < 0.5;
  if (p.type === 'choice') return oneOf(random, p.options).value;
  return `#${Math.floor(random() * 0xffffff)
    .toString(16)
    .padStart(6, '0')}`;
};

function anyDrive(p: NumberParam, random: Random): Drive {
  const easing = oneOf(random, easings);
  return oneOf<() => Drive>(random, [
    () => ({ kind: 'keys', keys: [0, 12, 40].map((frame) => ({ frame, value: anyOf(p, random), easing })) }),
    () => ({ kind: 'ease', from: anyOf(p, random), to: anyOf(p, random), start: 0, end: 40, easing }),
    () => ({ kind: 'wave', amount: random(), period: 24, phase: random() }),
    () => ({ kind: 'drift', amount: random(), period: 24, seed: 3 }),
  ])();
}

function shaken<T extends { values: Record<string, number | boolean | string>; drives: Record<string, Drive> }>(
  item: T,
  params: Params,
  random: Random,
): T {
  for (const [name, p] of Object.entries(params)) {
    if (random() < 0.8) item.values[name] = anyValue(p, random);
    if (p.type === 'number' && !p.ofClips && random() < 0.3) item.drives[name] = anyDrive(p, random);
  }
  return item;
}

/** Settings by chance, of every kind of thing there is: ends of ranges, endless distances and drives in them. */
export function anySettings(seed: number): Settings {
  const random = seededRandom(seed);
  const { settings } = newShot(ANY_PLATE);
  settings.layers = layers.map((l) => shaken(newLayer(l.kind), l.params, random));
  settings.effects = effects.map((e) => shaken(newEffect(e.kind), e.params, random));
  settings.cleanup = cleanups.map((c) => shaken(newCleanup(c.kind), c.params, random));
  settings.camera.moves = moves.map((m) => shaken(newMove(m.kind), m.params, random));
  settings.calibration.far = random() < 0.5 ? 'infinite' : 80;
  return settings;
}
