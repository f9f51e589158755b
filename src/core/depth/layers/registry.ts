import { registryOf, unknownLabel } from '../../values/registry';
import type { LayerDefinition } from '../definition';
import { brushLayer } from './brush/brush';
import { estimateLayer } from './estimate';
import { flatsLayer } from './flats/flats';
import { groundLayer } from './ground';
import { headLayer } from './head/head';
import { importedLayer } from './imported';
import { shapeLayer } from './shape/shape';

/** Every depth layer, in the order in which they are offered. */
export const layers: readonly LayerDefinition[] = [estimateLayer, importedLayer, groundLayer, brushLayer, shapeLayer, headLayer, flatsLayer];

const registry = registryOf<LayerDefinition>('depth layer', layers, (kind) => ({
  kind,
  label: unknownLabel(kind),
  help: 'Made by another version of Ombrage: kept, and left out of the picture',
  params: {},
  summary: () => 'not known here',
  build: () => null,
}));

/** The layer definition of a kind; a stand-in that gives nothing where it is not known. */
export const layerOf = registry.of;
/** The layer definition of a kind. Throws where there is none. */
export const namedLayer = registry.named;
export const knowsLayer = registry.knows;
