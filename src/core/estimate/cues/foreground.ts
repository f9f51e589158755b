import { newPlane } from '../../picture';
import type { Cue } from '../cue';
import { salience } from '../salience';

/** OKLab lightness from which a thing may be a light. */
const LAMP = 0.8;

/** What stands out before the backdrop is nearer than the ground at its place. */
export const foregroundCue: Cue = {
  kind: 'foreground',
  source: 'Robust background detection (Zhu, Liang, Wei & Sun 2014)',
  run: ({ width, height, lightness, layout, patches, edges }) => {
    const salient = salience(patches, edges);
    const nearness = newPlane(width, height);
    const confidence = newPlane(width, height);
    for (let i = 0; i < nearness.data.length; i++) {
      // lamps and lit windows stand out by their light, not by their place
      const lamp = Math.min(1, Math.max(0, (lightness.data[i]! - LAMP) / (1 - LAMP)));
      const s = salient[patches.labels[i]!]! * (1 - lamp);
      const ramp = Math.min(1, Math.max(0, (Math.floor(i / width) - layout.horizon) / (height - layout.horizon)));
      nearness.data[i] = ramp + (1 - ramp) * 0.8 * s;
      confidence.data[i] = 0.12 * s;
    }
    return { nearness, confidence };
  },
};
