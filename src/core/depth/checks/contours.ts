import { newPlane } from '../../picture';
import type { CheckDefinition } from './definition';

const LINES = 12;

/** Lines of equal distance, evenly spaced in nearness. */
export const contours: CheckDefinition = {
  kind: 'contours',
  label: 'Contours',
  help: 'Lines of equal distance, evenly spaced in nearness',
  run: ({ nearness }) => {
    const { width, height, data } = nearness;
    const marks = newPlane(width, height);
    const band = (v: number): number => Math.floor(v * LINES);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const i = y * width + x;
        const b = band(data[i]!);
        if ((x + 1 < width && band(data[i + 1]!) !== b) || (y + 1 < height && band(data[i + width]!) !== b)) marks.data[i] = 1;
      }
    return { marks, figure: `${LINES - 1} lines` };
  },
};
