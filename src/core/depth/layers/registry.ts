import { OmbrageError } from '../../error';
import type { LayerDefinition } from '../definition';
import { brushLayer } from './brush/brush';
import { estimateLayer } from './estimate';
import { flatsLayer } from './flats/flats';
import { groundLayer } from './ground';
import { headLayer } from './head/head';
import { importedLayer } from './imported';
import { shapeLayer } from './shape/shape';

/** Every depth layer, in the order in which they are offered. */
export const layers: readonly LayerDefinition[] = [
  estimateLayer,
  importedLayer,
  groundLayer,
  brushLayer,
  shapeLayer,
  headLayer,
  flatsLayer,
] as unknown as readonly LayerDefinition[];

/** The layer definition of a kind. Throws where there is none. */
export function layerOf(kind: string): LayerDefinition {
  const found = layers.find((l) => l.kind === kind);
  if (!found) throw new OmbrageError('unknown-layer', `There is no depth layer "${kind}".`, `Layers: ${layers.map((l) => l.kind).join(', ')}.`);
  return found;
}
