import type { Picture } from '../picture';
import { add, addUp, CELL, MOMENTS, type Level, type Speakers } from './statistics';

/** Moments of blocks of 4x4 pixels. */
function firstLevel({ width, height, data }: Picture, { codes, front, back }: Speakers): Level {
  const [w, h] = [(width + 3) >> 2, (height + 3) >> 2];
  const out = new Float32Array(w * h * CELL);
  for (let y = 0; y < height; y++)
    for (let x = 0, o = (y >> 2) * w * CELL; x < width; x += 4, o += CELL) {
      const i = y * width + x;
      const end = Math.min(i + 4, (y + 1) * width);
      add(out, o, 1 / 16, front, codes, data, i, end);
      add(out, o + MOMENTS, 1 / 16, back, codes, data, i, end);
    }
  return { width: w, height: h, data: out };
}

/** What the kernels of statistics do: moments of blocks of 4x4 pixels, with all coarser ones added to them, coarse to fine. */
export function gatheredTwin(picture: Picture, speakers: Speakers): Level {
  const first = firstLevel(picture, speakers);
  const levels = [first];
  for (let { width, height, data } = first; width > 2 || height > 2;) {
    const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
    const next = new Float32Array(w * h * CELL);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const [o, s] = [((y >> 1) * w + (x >> 1)) * CELL, (y * width + x) * CELL];
        for (let j = 0; j < CELL; j++) next[o + j]! += 0.25 * data[s + j]!;
      }
    ({ width, height, data } = { width: w, height: h, data: next });
    levels.push({ width, height, data });
  }
  for (let l = levels.length - 2; l >= 0; l--) {
    const { width, height, data } = levels[l]!;
    for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) addUp(data, (y * width + x) * CELL, levels[l + 1]!, x, y);
  }
  return first;
}
