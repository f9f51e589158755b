import { newPlane } from '../../picture';
import type { Cue } from '../cue';

/** What is smoothly connected to the upper border above the horizon lies at the far end. */
export const skyCue: Cue = {
  kind: 'sky',
  source: 'Border connectivity by minimum barrier distance (Zhang et al. 2015)',
  run: ({ width, height, layout }) => {
    const confidence = newPlane(width, height);
    for (let y = 0; y < height; y++) {
      const above = 1 / (1 + Math.exp((y - layout.horizon) / (0.03 * height)));
      for (let x = 0; x < width; x++) confidence.data[y * width + x] = above * layout.sky.data[y * width + x]!;
    }
    return { nearness: newPlane(width, height), confidence };
  },
};
