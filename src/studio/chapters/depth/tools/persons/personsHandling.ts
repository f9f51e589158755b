import { MOST_PERSONS, type PersonsContent } from '../../../../../core/depth/layers/persons/content';
import { frameAt } from '../../../../../core/need/need';
import { outputToPlate } from '../../../../picture/probe';
import { momentOf } from '../../../../state/shotNow';
import { changeContent, isLocked } from '../../layerActions';
import type { LayerHandling } from '../tool';

/** A click so near to where somebody was clicked before means them, share of the plate's width. */
const SAME = 0.03;

/** A click takes the person there in, or out again where they were clicked before. */
export const personsHandling: LayerHandling = {
  click: (shot, layer, at) => {
    if (isLocked(layer)) return;
    const { x, y } = outputToPlate(shot, at.x, at.y);
    if (x < 0 || x > 1 || y < 0 || y > 1) return;
    const frame = frameAt(shot.plate, momentOf(shot));
    const near = (c: PersonsContent['clicked'][number]): boolean =>
      c.frame === frame && Math.hypot(c.x - x, ((c.y - y) * shot.plate.height) / shot.plate.width) < SAME;
    changeContent<PersonsContent>(layer.id, (content) => {
      const others = content.clicked.filter((c) => !near(c));
      if (others.length < content.clicked.length) content.clicked = others;
      else if (others.length < MOST_PERSONS) content.clicked.push({ x, y, frame });
    });
  },
};
