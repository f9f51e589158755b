import type { LayeredPlate } from '../camera/layered';
import { linearToSrgb } from '../raster/colour';
import { sheetsOf, type Sheet } from './sheet';

/** A scene in one picture of twice its size: front and behind above, how near each is (0..255 between two inverse distances, 1/m) below; sRGB, opaque. */
export function fourPictures(plate: LayeredPlate, least: number, most: number): Uint8ClampedArray<ArrayBuffer> {
  const { front, behind } = sheetsOf(plate, { behind: true });
  const { width: w, height: h } = front;
  const out = new Uint8ClampedArray(w * h * 16);
  const put = (x: number, y: number, r: number, g: number, b: number): void => {
    const at = (y * 2 * w + x) * 4;
    out[at] = r;
    out[at + 1] = g;
    out[at + 2] = b;
    out[at + 3] = 255;
  };
  const light = (sheet: Sheet, i: number, c: number): number => 255 * linearToSrgb(Math.min(1, sheet.colour[i * 4 + c]! ** 2));
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++)
      for (const [right, sheet] of [
        [0, front],
        // where nothing is hidden what is seen goes on
        [w, behind && behind.q[i]! >= 0 ? behind : front],
      ] as const) {
        put(x + right, y, light(sheet, i, 0), light(sheet, i, 1), light(sheet, i, 2));
        const near = (255 * (sheet.q[i]! - least)) / (most - least);
        put(x + right, y + h, near, near, near);
      }
  return out;
}
