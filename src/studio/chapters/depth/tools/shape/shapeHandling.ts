import type { ShapesContent } from '../../../../../core/depth/layers/shape/content';
import { changeContent, contentIn, distanceOfRaw, rawOfDistance } from '../../layerActions';
import type { LayerHandling } from '../tool';
import { useShapeTool } from './shapeStore';

export const shapeHandling: LayerHandling = {
  useDistances: ({ settings: { calibration } }, layer) => {
    const chosen = useShapeTool((s) => s.chosen);
    return contentIn<ShapesContent>(layer)
      .shapes.filter((s) => !s.tie)
      .map((s) => ({
        id: s.id,
        label: `${s.name}: distance`,
        distance: distanceOfRaw(s.nearness, calibration),
        chosen: chosen.includes(s.id),
        set: (distance, gesture) =>
          changeContent<ShapesContent>(
            layer.id,
            (c) => {
              const found = c.shapes.find((q) => q.id === s.id);
              if (found) found.nearness = rawOfDistance(distance, calibration);
            },
            gesture,
          ),
      }));
  },
};
