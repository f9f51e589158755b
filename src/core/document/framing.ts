import type { Affine } from '../raster/resample';
import type { Size } from '../picture';
import type { Framing } from './schema';

/** Size of the plate after its quarter turns. */
export const turnedSize = (plate: Size, turns: number): Size =>
  turns % 2 ? { width: plate.height, height: plate.width } : { width: plate.width, height: plate.height };

/** Output px per plate px. */
export function framingScale(plate: Size, f: Framing): number {
  const turned = turnedSize(plate, f.turns);
  const sx = f.width / turned.width;
  const sy = f.height / turned.height;
  return (f.mode === 'fit' ? Math.min(sx, sy) : Math.max(sx, sy)) * f.scale;
}

/**
 * From pixels of a rendering of `size` (the output or a smaller copy of it) to plate pixels, continuous coordinates
 * (pixel centres at +½). Depth uses the same map as the picture, so it stays registered.
 */
export function framingAffine(plate: Size, f: Framing, size: Size): Affine {
  const k = 1 / framingScale(plate, f);
  const turned = turnedSize(plate, f.turns);
  const ax = (f.width / size.width) * k;
  const ay = (f.height / size.height) * k;
  const cx = turned.width / 2 - (f.width / 2 + f.x * f.width) * k;
  const cy = turned.height / 2 - (f.height / 2 + f.y * f.height) * k;
  // (u, v) → place in the turned plate (tx, ty) → place in the plate
  switch (f.turns) {
    case 1:
      return { a: 0, b: ay, c: cy, d: -ax, e: 0, f: plate.height - cx };
    case 2:
      return { a: -ax, b: 0, c: plate.width - cx, d: 0, e: -ay, f: plate.height - cy };
    case 3:
      return { a: 0, b: -ay, c: plate.width - cy, d: ax, e: 0, f: cx };
    default:
      return { a: ax, b: 0, c: cx, d: 0, e: ay, f: cy };
  }
}

/** Focal length in px of the output: the lens's field of view belongs to the plate as it was taken. */
export const outputFocalPx = (plate: Size, f: Framing, hfovDegrees: number): number =>
  (plate.width / 2 / Math.tan((hfovDegrees * Math.PI) / 360)) * framingScale(plate, f);

/** Horizontal field of view, degrees, of what is so wide at a focal length, px. */
export const hfovOf = (width: number, focal: number): number => (2 * Math.atan(width / 2 / focal) * 180) / Math.PI;
