import { layerAt } from '../../core/document/keyedLayer';
import type { Layer } from '../../core/document/schema';
import { useView } from './viewStore';

/** A layer as it is at the playhead; only one with keys hears of it. */
export function useLayerNow(layer: Layer | undefined): Layer | undefined {
  const keyed = layer?.keyed !== undefined;
  const frame = useView((s) => (keyed ? s.frame : 0));
  return layer && layerAt(layer, frame);
}
