import type { Plane } from '../raster/picture';

/**
 * Inverse distances, 1/m (0: sky), as a pinhole camera sees them: u = (x+½−w/2)/f, v = (y+½−h/2)/f, y down, P = (u, v, 1)/W. A plane is
 * affine in W, and a straight ray a straight line in (u, v, W).
 */
export interface DepthField {
  readonly width: number;
  readonly height: number;
  readonly focalPx: number;
  readonly inverse: Float32Array;
}

/** From here on there is nothing but sky, m. */
const SKY = 5000;

export const depthField = ({ width, height, data }: Plane, focalPx: number): DepthField => ({
  width,
  height,
  focalPx,
  inverse: data.map((z) => (z > 0 && z < SKY ? 1 / z : 0)),
});

/** Neighbours whose inverse distances differ by more than this share lie on different surfaces. */
export const EDGE = 0.03;
