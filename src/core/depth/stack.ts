import { newPlane, type Plane } from '../raster/picture';

/** One layer's contribution: raw nearness and how much of what lies below it replaces, 0..1. */
export interface StackedLayer {
  readonly plane: Plane;
  readonly opacity: number;
}

/** Grey of a plate for which no layer has anything yet. */
export const EMPTY_RAW = 0.5;

/** Lays layers over each other, bottom to top. The inputs are not written. */
export function composeStack(layers: readonly StackedLayer[], width: number, height: number, shared = false): Plane {
  const out = newPlane(width, height, shared);
  out.data.fill(EMPTY_RAW);
  for (const [index, { plane, opacity }] of layers.entries()) {
    // the lowest layer has nothing below it to show through
    const k = index === 0 ? 1 : opacity;
    for (let i = 0; i < out.data.length; i++) out.data[i]! += k * (plane.data[i]! - out.data[i]!);
  }
  return out;
}
