import type { Layer } from '../../../../core/document/schema';
import { brushHandling } from './brush/brushHandling';
import { flatsHandling } from './flats/flatsHandling';
import type { LayerHandling } from './handling';
import { headHandling } from './head/headHandling';
import { shapeHandling } from './shape/shapeHandling';

const handlings: Readonly<Record<string, LayerHandling>> = {
  brush: brushHandling,
  shape: shapeHandling,
  head: headHandling,
  flats: flatsHandling,
};

/** What a layer's kind does with clicks, keys and the rail. */
export const handlingOf = (layer: Layer | undefined | null): LayerHandling => (layer && handlings[layer.kind]) ?? {};
