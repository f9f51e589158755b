import { changeLayer } from '../../layerActions';
import { tidyDistance, type LayerHandling, type RailDistance } from '../tool';

export const headHandling: LayerHandling = {
  useDistances: (_, layer) => {
    const mark = (id: string, name: string, label: string, chosen: boolean): RailDistance => ({
      id,
      label,
      distance: Number(layer.values[name]),
      chosen,
      set: (distance, gesture) => changeLayer(layer.id, (l) => void (l.values[name] = tidyDistance(distance)), gesture),
    });
    return [
      mark('face', 'distance', 'Head form: face', true),
      ...(layer.values.backdropOn ? [mark('backdrop', 'backdrop', 'Head form: backdrop', false)] : []),
    ];
  },
};
