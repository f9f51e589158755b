import { registryOf, unknownLabel } from '../values/registry';
import type { EffectDefinition } from './definition';
import { lensBlur } from './lens/lensBlur';

/** Every effect, in the order in which they are offered. */
export const effects: readonly EffectDefinition[] = [lensBlur as unknown as EffectDefinition];

const registry = registryOf<EffectDefinition>('effect', effects, (kind) => ({
  kind,
  group: 'frame',
  label: unknownLabel(kind),
  params: {},
  summary: () => 'not known here',
  apply: ({ picture }) => Promise.resolve(picture),
}));

/** The effect of a kind; a stand-in that does nothing where it is not known. */
export const effectOf = registry.of;
/** The effect of a kind. Throws where there is none. */
export const namedEffect = registry.named;
export const knowsEffect = registry.knows;
