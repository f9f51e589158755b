import { newPlane } from '../../picture';
import type { CheckDefinition } from './definition';

/** What lies outside the map limits and is flattened to the near or far end. */
export const clipping: CheckDefinition = {
  kind: 'clipping',
  label: 'Clipping',
  help: 'What lies outside the map limits',
  run: ({ raw, low, high }) => {
    const marks = newPlane(raw.width, raw.height);
    let clipped = 0;
    for (let i = 0; i < raw.data.length; i++) {
      if (raw.data[i]! >= low && raw.data[i]! <= high) continue;
      marks.data[i] = 1;
      clipped++;
    }
    return { marks, figure: `${((100 * clipped) / raw.data.length).toFixed(1)} % of the picture` };
  },
};
