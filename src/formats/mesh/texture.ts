import { around } from '../../core/mesh/sheet';
import type { SceneSurface } from '../../core/mesh/scene';
import type { Picture } from '../../core/picture';

/** So many px beyond what is there its colours go on, so that nothing foreign is mixed in between pixels. */
const SPREAD = 4;

/** The picture that lies on a surface (roots of linear RGBA) as linear light; opaque where all of what is there is. */
export function textureOf({ width: w, height: h, colour, q }: SceneSurface['texture']): Picture & { readonly opaque: boolean } {
  const data = new Float32Array(w * h * 4);
  let opaque = true;
  const mean = [0, 0, 0];
  let count = 0;
  let edge: number[] = [];
  const there = new Uint8Array(w * h);
  for (let i = 0; i < w * h; i++) {
    if (q[i]! < 0) continue;
    const alpha = colour[i * 4 + 3]! ** 2;
    there[i] = 1;
    if (alpha < 0.999) opaque = false;
    for (let c = 0; c < 4; c++) data[i * 4 + c] = colour[i * 4 + c]! ** 2;
    for (let c = 0; c < 3; c++) mean[c]! += data[i * 4 + c]!;
    count++;
  }
  for (let i = 0; i < w * h; i++) if (there[i] && touches(there, w, h, i)) edge.push(i);
  for (let round = 0; round < SPREAD; round++) {
    const next: number[] = [];
    for (const i of edge)
      for (const j of around(i, w, h))
        if (!there[j]) {
          there[j] = 1;
          data.copyWithin(j * 4, i * 4, i * 4 + 4);
          next.push(j);
        }
    edge = next;
  }
  for (let i = 0; i < w * h; i++)
    if (!there[i]) {
      for (let c = 0; c < 3; c++) data[i * 4 + c] = mean[c]! / Math.max(1, count);
      data[i * 4 + 3] = 1;
    }
  return { width: w, height: h, data, opaque };
}

const touches = (there: Uint8Array, w: number, h: number, i: number): boolean => around(i, w, h).some((j) => !there[j]);
