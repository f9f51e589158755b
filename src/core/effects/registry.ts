import { OmbrageError } from '../error';
import type { EffectDefinition } from './definition';
import { lensBlur } from './lens/lensBlur';

/** Every effect, in the order in which they are offered. */
export const effects: readonly EffectDefinition[] = [lensBlur as unknown as EffectDefinition];

/** The effect of a kind. Throws where there is none. */
export function effectOf(kind: string): EffectDefinition {
  const found = effects.find((e) => e.kind === kind);
  if (!found) throw new OmbrageError('unknown-effect', `There is no effect "${kind}".`, `Effects: ${effects.map((e) => e.kind).join(', ')}.`);
  return found;
}
