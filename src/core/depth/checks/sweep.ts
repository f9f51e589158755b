import { newPicture, type Picture } from '../../picture';
import type { CheckDefinition } from './definition';

/** Frames from near to far and back. */
const FRAMES = 32;
/** Half width of the band that is lit, share of nearness. */
const BAND = 0.07;
const DIM = 0.16;
/** Long side of a frame, px. */
const LARGEST = 640;

/** A band of light that goes from near to far and back: what lights up together is equally near. */
export const sweep: CheckDefinition = {
  kind: 'sweep',
  label: 'Near to far and back',
  help: 'A band of light goes through the depth, in a loop',
  run: ({ picture, nearness, raw }) => {
    const marks = { width: raw.width, height: raw.height, data: new Float32Array(raw.data.length) };
    const step = Math.max(1, Math.ceil(Math.max(picture.width, picture.height) / LARGEST));
    const [width, height] = [Math.floor(picture.width / step), Math.floor(picture.height / step)];
    const frame = (at: number): Picture => {
      const out = newPicture(width, height);
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const from = y * step * picture.width + x * step;
          const off = (nearness.data[from]! - at) / BAND;
          const light = DIM + (1 - DIM) * Math.exp(-off * off);
          const to = (y * width + x) * 4;
          for (let k = 0; k < 3; k++) out.data[to + k] = light * picture.data[from * 4 + k]!;
          out.data[to + 3] = 1;
        }
      return out;
    };
    const loop = Array.from({ length: FRAMES }, (_, k) => frame(0.5 + 0.55 * Math.cos((2 * Math.PI * k) / FRAMES)));
    return { marks, loop, shown: loop[0]!, figure: 'what lights up together is equally near' };
  },
};
