import { registryOf } from '../../core/values/registry';
import { depths } from './depth';
import { meshes } from './mesh';
import type { OutputDefinition } from './definition';
import { pages } from './page';
import { pictures } from './picture';

/** Every output, in the order in which they are offered. */
export const outputRegistry = registryOf<OutputDefinition>('output', [...pictures, ...depths, ...meshes, ...pages]);
export const outputs = outputRegistry.all;

/** The output of a kind. Throws OmbrageError where there is none. */
export const namedOutput = outputRegistry.named;
