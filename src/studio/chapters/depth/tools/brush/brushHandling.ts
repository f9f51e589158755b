import { keepPlace, type StrokesContent } from '../../../../../core/depth/layers/brush/content';
import { newId } from '../../../../../core/document/defaults';
import type { Picking } from '../../../../state/picking';
import { outputToPlate } from '../../../../picture/probe';
import { changeContent, distanceOfRaw, isLocked, rawOfDistance } from '../../layerActions';
import type { LayerHandling } from '../tool';
import { resizeBrush, strokeWith, useBrush } from './brushStore';

/** Takes the distance for the brush from the stack as it was before clean-up. */
export const brushPicking: Picking = {
  id: 'brush',
  prompt: 'Click the distance to paint',
  take: ({ stack }) => {
    if (stack === stack) useBrush.getState().set({ mode: 'set', nearness: stack });
  },
};

export const brushHandling: LayerHandling = {
  click: (shot, layer, { x, y }) => {
    if (isLocked(layer)) return;
    const place = outputToPlate(shot, x, y);
    const dab = strokeWith(useBrush.getState(), newId(), [keepPlace(place.x), keepPlace(place.y), 1]);
    changeContent<StrokesContent>(layer.id, (c) => void c.strokes.push(dab));
  },
  picking: brushPicking,
  useDistances: ({ settings: { calibration } }) => {
    const brush = useBrush();
    if (brush.mode !== 'set') return [];
    return [
      {
        id: 'set',
        label: 'Brush: distance that is set',
        distance: distanceOfRaw(brush.nearness, calibration),
        chosen: true,
        set: (d) => brush.set({ nearness: rawOfDistance(d, calibration) }),
      },
    ];
  },
  keys: { z: () => resizeBrush(1 / 1.15), x: () => resizeBrush(1.15) },
};
