import { registryOf, unknownLabel, type Registry } from '../values/registry';
import type { EffectDefinition } from './definition';
import { fog } from './air/fog';
import { grain } from './frame/grain';
import { lensBlur } from './lens/lensBlur';
import { grade } from './surface/grade';

export type EffectRegistry = Registry<EffectDefinition>;

/** A closed list of effects. */
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
export const effects: readonly EffectDefinition[] = [grade, fog, lensBlur, grain];

/** What the chain knows. */
export const knownEffects: EffectRegistry = effectRegistry(effects);

/** The effect of a kind; a stand-in that does nothing where it is not known. */
export const effectOf = (kind: string): EffectDefinition => knownEffects.of(kind);
/** The effect of a kind. Throws where there is none. */
export const namedEffect = (kind: string): EffectDefinition => knownEffects.named(kind);
export const knowsEffect = (kind: string): boolean => knownEffects.knows(kind);
