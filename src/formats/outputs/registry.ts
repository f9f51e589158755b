import { OmbrageError } from '../../core/error';
import { depths } from './depth';
import type { OutputDefinition } from './definition';
import { pictures } from './picture';

/** Every output, in the order in which they are offered. */
export const outputs: readonly OutputDefinition[] = [...pictures, ...depths];

/** The output of a kind. Throws OmbrageError where there is none. */
export function namedOutput(kind: string): OutputDefinition {
  const found = outputs.find((o) => o.kind === kind);
  if (!found) throw new OmbrageError('unknown-output', `There is no output "${kind}".`, `Known: ${outputs.map((o) => o.kind).join(', ')}.`);
  return found;
}
