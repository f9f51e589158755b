import type { FlatsContent } from '../../../../../core/depth/layers/flats/content';
import { changeContent, contentIn } from '../../layerActions';
import { tidyDistance, type LayerHandling } from '../tool';
import { useFlats } from './flatsStore';

export const flatsHandling: LayerHandling = {
  useDistances: (_, layer) => {
    const chosen = useFlats((s) => s.flat);
    return contentIn<FlatsContent>(layer)
      .flats.filter((f) => f.visible)
      .map((f) => ({
        id: f.id,
        label: `${f.name}: distance`,
        distance: f.distance,
        chosen: f.id === chosen,
        set: (distance, gesture) =>
          changeContent<FlatsContent>(
            layer.id,
            (c) => {
              const found = c.flats.find((q) => q.id === f.id);
              if (found) found.distance = tidyDistance(distance);
            },
            gesture,
          ),
      }));
  },
};
