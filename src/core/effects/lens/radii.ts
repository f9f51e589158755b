import { luminance } from '../../raster/colour';
import type { RadiusPicture } from '../../kernels/lensBlurHost';

/** A pixel brighter than this may be a mixture of a lamp and an edge. */
export const LAMP = 1;

/**
 * A bright pixel on a depth jump takes the radius of a still brighter 3x3 neighbour: its light came from there, and mixed
 * lamp and edge pixels would throw discs of the wrong size. Written in place.
 */
export function relabelHighlights({ width, height, data }: RadiusPicture): void {
  const changes: number[] = [];
  const light = (i: number): number => luminance(data[i]!, data[i + 1]!, data[i + 2]!);
  for (let i = 0; i < data.length; i += 4) {
    if (data[i]! <= LAMP && data[i + 1]! <= LAMP && data[i + 2]! <= LAMP) continue;
    const own = light(i);
    if (own <= LAMP) continue;
    const [x, y] = [(i >> 2) % width, Math.floor((i >> 2) / width)];
    let brightest = own;
    let source = -1;
    for (let v = Math.max(0, y - 1); v <= Math.min(height - 1, y + 1); v++)
      for (let u = Math.max(0, x - 1); u <= Math.min(width - 1, x + 1); u++) {
        const j = (v * width + u) * 4;
        const l = light(j);
        if (l > brightest) {
          brightest = l;
          source = j;
        }
      }
    if (source >= 0 && Math.abs(data[source + 3]! - data[i + 3]!) > 1) changes.push(i + 3, data[source + 3]!);
  }
  for (let c = 0; c < changes.length; c += 2) data[changes[c]!] = changes[c + 1]!;
}

/** Raises light above `threshold` (linear) by up to `stops`, smoothly from the threshold to full white. In place. */
export function boostHighlights({ data }: RadiusPicture, threshold: number, stops: number): void {
  if (stops === 0) return;
  const gain = 2 ** stops - 1;
  const span = Math.max(0.02, 1 - threshold);
  for (let i = 0; i < data.length; i += 4) {
    const l = luminance(data[i]!, data[i + 1]!, data[i + 2]!);
    if (l <= threshold) continue;
    const t = Math.min(1, (l - threshold) / span);
    const k = 1 + gain * t * t * (3 - 2 * t);
    data[i]! *= k;
    data[i + 1]! *= k;
    data[i + 2]! *= k;
  }
}
