import { registryOf, unknownLabel } from '../../values/registry';
import type { LayerDefinition } from '../definition';
import { brushLayer } from './brush/brush';
import { estimateLayer } from './estimate';
import { flatsLayer } from './flats/flats';
import { groundLayer } from './ground';
import { headLayer } from './head/head';
import { importedLayer } from './imported';
import { personsLayer } from './persons/persons';
import { shapeLayer } from './shape/shape';

/** Every depth layer, in the order in which they are offered. */
export const layerRegistry = registryOf<LayerDefinition>(
  'depth layer',
  [estimateLayer, importedLayer, groundLayer, brushLayer, shapeLayer, personsLayer, headLayer, flatsLayer],
  (kind) => ({
    kind,
    label: unknownLabel(kind),
    help: 'Made by another version of Ombrage: kept, and left out of the picture',
    params: {},
    summary: () => 'not known here',
    build: () => null,
  }),
);
export const layers = layerRegistry.all;

/** The layer definition of a kind; a stand-in that gives nothing where it is not known. */
export const layerOf = layerRegistry.of;
/** The layer definition of a kind. Throws where there is none. */
export const namedLayer = layerRegistry.named;
export const knowsLayer = layerRegistry.knows;
