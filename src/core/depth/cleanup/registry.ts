import { OmbrageError } from '../../error';
import { deBand } from './deBand';
import type { CleanupDefinition } from './definition';
import { edgeCare } from './edgeCare';
import { fillHoles } from './fillHoles';
import { smooth } from './smooth';

/** Every clean-up step, in the order in which they run. */
export const cleanups: readonly CleanupDefinition[] = [fillHoles, deBand, edgeCare, smooth] as unknown as readonly CleanupDefinition[];

/** The clean-up step of a kind. Throws where there is none. */
export function cleanupOf(kind: string): CleanupDefinition {
  const found = cleanups.find((c) => c.kind === kind);
  if (!found) throw new OmbrageError('unknown-cleanup', `There is no clean-up step "${kind}".`, `Steps: ${cleanups.map((c) => c.kind).join(', ')}.`);
  return found;
}
