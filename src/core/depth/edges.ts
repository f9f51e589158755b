import { linearToOklab } from '../raster/colour';
import { gradient, quantile } from '../raster/filters';
import { newFloats, newPlane, type Picture, type Plane } from '../picture';

/** Nearness by which two sides of a depth edge differ, over two pixels. */
const DEPTH_EDGE = 0.03;
/** Share of the picture's pixels that are its strongest edges. */
const PICTURE_EDGES = 0.12;
/** px beyond which an edge of the map belongs to no edge of the picture. */
const FARTHEST = 24;

/** Pixels where a gradient is strong and no neighbour across it is stronger (non-maximum suppression: Canny 1986). */
function ridge(strength: Plane, least: number): Uint8Array {
  const { width, height, data } = strength;
  const out = new Uint8Array(data.length);
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const i = y * width + x;
      const g = data[i]!;
      if (!(g >= least)) continue;
      if ((g >= data[i - 1]! && g >= data[i + 1]!) || (g >= data[i - width]! && g >= data[i + width]!)) out[i] = 1;
    }
  return out;
}

/** The picture's lightness (OKLab). */
export function lightnessOf(picture: Picture): Plane {
  const out = newPlane(picture.width, picture.height);
  for (let i = 0; i < out.data.length; i++) out.data[i] = linearToOklab(picture.data[i * 4]!, picture.data[i * 4 + 1]!, picture.data[i * 4 + 2]!)[0];
  return out;
}

export const depthEdges = (map: Plane): Uint8Array => ridge(gradient(map), DEPTH_EDGE);

export function pictureEdges(picture: Picture): Uint8Array {
  const strength = gradient(lightnessOf(picture));
  return ridge(strength, Math.max(0.01, quantile(strength, 1 - PICTURE_EDGES)));
}

/** Chamfer distance in px to the nearest set pixel. */
function distanceTo(mask: Uint8Array, width: number, height: number): Float32Array {
  const out = newFloats(mask.length).fill(1e6);
  for (let i = 0; i < mask.length; i++) if (mask[i]) out[i] = 0;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      let d = out[i]!;
      if (x > 0) d = Math.min(d, out[i - 1]! + 1);
      if (y > 0) {
        d = Math.min(d, out[i - width]! + 1);
        if (x > 0) d = Math.min(d, out[i - width - 1]! + Math.SQRT2);
        if (x + 1 < width) d = Math.min(d, out[i - width + 1]! + Math.SQRT2);
      }
      out[i] = d;
    }
  for (let y = height - 1; y >= 0; y--)
    for (let x = width - 1; x >= 0; x--) {
      const i = y * width + x;
      let d = out[i]!;
      if (x + 1 < width) d = Math.min(d, out[i + 1]! + 1);
      if (y + 1 < height) {
        d = Math.min(d, out[i + width]! + 1);
        if (x + 1 < width) d = Math.min(d, out[i + width + 1]! + Math.SQRT2);
        if (x > 0) d = Math.min(d, out[i + width - 1]! + Math.SQRT2);
      }
      out[i] = d;
    }
  return out;
}

/** Mean distance, px, from the map's edges to the picture's nearest; null where the map has none. */
export function edgeDistance(map: Plane, picture: Picture): number | null {
  const edges = depthEdges(map);
  const away = distanceTo(pictureEdges(picture), map.width, map.height);
  let sum = 0;
  let n = 0;
  for (let i = 0; i < edges.length; i++)
    if (edges[i]) {
      sum += Math.min(FARTHEST, away[i]!);
      n++;
    }
  return n > 0 ? sum / n : null;
}
