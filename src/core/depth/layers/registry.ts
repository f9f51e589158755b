import { OmbrageError } from '../../error';
import type { LayerDefinition } from '../definition';
import { estimateLayer } from './estimate';
import { importedLayer } from './imported';

/** Every depth layer, in the order in which they are offered. */
export const layers: readonly LayerDefinition[] = [estimateLayer, importedLayer] as unknown as readonly LayerDefinition[];

/** The layer definition of a kind. Throws where there is none. */
export function layerOf(kind: string): LayerDefinition {
  const found = layers.find((l) => l.kind === kind);
  if (!found) throw new OmbrageError('unknown-layer', `There is no depth layer "${kind}".`, `Layers: ${layers.map((l) => l.kind).join(', ')}.`);
  return found;
}
