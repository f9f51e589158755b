import { newPlane } from '../../picture';
import type { Cue } from '../cue';

/**
 * A flat ground seen by a level camera: 1/z grows linearly from the horizon to the lower border. Believed where the
 * picture is smoothly connected to the lower border, and fully along that border itself.
 */
export const groundCue: Cue = {
  kind: 'ground',
  source: 'Perspective of a plane under a level camera (Hartley & Zisserman 2004, ch. 8)',
  run: ({ width, height, layout }) => {
    const nearness = newPlane(width, height);
    const confidence = newPlane(width, height);
    for (let y = 0; y < height; y++) {
      const n = Math.min(1, Math.max(0, (y + 0.5 - layout.horizon) / (height - layout.horizon)));
      for (let x = 0; x < width; x++) {
        const i = y * width + x;
        nearness.data[i] = n;
        const border = Math.exp(-(((height - 1 - y) / (0.04 * height)) ** 2));
        confidence.data[i] = n > 0 ? Math.max(0.5 * border, layout.ground.data[i]!) * (1 - layout.standing.data[i]!) : 0;
      }
    }
    return { nearness, confidence };
  },
};
