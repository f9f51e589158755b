import { registryOf, unknownLabel, type Registry } from '../values/registry';
import type { EffectDefinition } from './definition';
import { beams } from './air/beams';
import { dust } from './air/dust';
import { fog } from './air/fog';
import { blocks } from './frame/blocks';
import { bulge } from './frame/bulge';
import { echoes } from './frame/echoes';
import { flicker } from './frame/flicker';
import { grain } from './frame/grain';
import { kaleidoscope } from './frame/kaleidoscope';
import { ripple } from './frame/ripple';
import { scan } from './frame/scan';
import { shake } from './frame/shake';
import { distortion } from './lens/distortion';
import { fringe } from './lens/fringe';
import { glow } from './lens/glow';
import { lensBlur } from './lens/lensBlur';
import { strayLight } from './lens/strayLight';
import { vignette } from './lens/vignette';
import { backdrop } from './surface/backdrop';
import { grade } from './surface/grade';
import { isolate } from './surface/isolate';
import { relight } from './surface/relight';

export type EffectRegistry = Registry<EffectDefinition>;

/** A list of effects. */
export const effectRegistry = (all: readonly EffectDefinition[]): EffectRegistry =>
  registryOf<EffectDefinition>('effect', all, (kind) => ({
    kind,
    group: 'frame',
    label: unknownLabel(kind),
    help: 'Made by another version of Ombrage: kept, and left out of the picture',
    params: {},
    needs: () => [],
    summary: () => 'not known here',
    apply: ({ picture }) => picture,
  }));

/** Every effect, in the order in which they are offered. */
export const knownEffects: EffectRegistry = effectRegistry([
  grade,
  isolate,
  backdrop,
  relight,
  fog,
  dust,
  beams,
  lensBlur,
  glow,
  fringe,
  distortion,
  strayLight,
  vignette,
  grain,
  shake,
  flicker,
  blocks,
  scan,
  ripple,
  echoes,
  bulge,
  kaleidoscope,
]);
export const effects = knownEffects.all;

/** The effect of a kind; a stand-in that does nothing where it is not known. */
export const effectOf = (kind: string): EffectDefinition => knownEffects.of(kind);
/** The effect of a kind. Throws where there is none. */
export const namedEffect = (kind: string): EffectDefinition => knownEffects.named(kind);
export const knowsEffect = (kind: string): boolean => knownEffects.knows(kind);
