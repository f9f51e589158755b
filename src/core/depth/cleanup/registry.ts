import { registryOf, unknownLabel } from '../../values/registry';
import { deBand } from './deBand';
import type { CleanupDefinition } from './definition';
import { edgeCare } from './edgeCare';
import { fillHoles } from './fillHoles';
import { smooth } from './smooth';

/** Every clean-up step, in the order in which they run. */
export const cleanupRegistry = registryOf<CleanupDefinition>('clean-up step', [fillHoles, deBand, edgeCare, smooth], (kind) => ({
  kind,
  label: unknownLabel(kind),
  help: 'Made by another version of Ombrage: kept, and left out of the map',
  params: {},
  apply: ({ map }) => map,
  figure: () => '',
}));
export const cleanups = cleanupRegistry.all;

/** The clean-up step of a kind; a stand-in that does nothing where it is not known. */
export const cleanupOf = cleanupRegistry.of;
/** The clean-up step of a kind. Throws where there is none. */
export const namedCleanup = cleanupRegistry.named;
export const knowsCleanup = cleanupRegistry.knows;
