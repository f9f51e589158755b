import { newPlane } from '../../picture';
import type { Cue } from '../cue';

/** Lower in the picture and nearer its middle is nearer: a weak belief that holds everything else together. */
export const positionCue: Cue = {
  kind: 'position',
  source: 'Depth statistics of natural scenes (Torralba & Oliva 2002)',
  run: ({ width, height, layout }) => {
    const nearness = newPlane(width, height);
    const confidence = newPlane(width, height);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const below = Math.min(1, Math.max(0, (y - layout.horizon) / (height - layout.horizon)));
        const above = Math.min(1, Math.max(0, (layout.horizon - y) / Math.max(1, layout.horizon)));
        const side = Math.abs((2 * (x + 0.5)) / width - 1);
        nearness.data[y * width + x] = Math.max(0, 0.16 + 0.84 * below - 0.1 * above + 0.08 * (1 - side) * (1 - below));
        confidence.data[y * width + x] = 0.01;
      }
    return { nearness, confidence };
  },
};
