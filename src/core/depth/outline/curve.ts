import { invertAffine, type Affine } from '../../raster/resample';

/** A point of a closed curve, in shares of the plate, with the ends of its two handles relative to it. */
export interface CurvePoint {
  readonly x: number;
  readonly y: number;
  readonly inX: number;
  readonly inY: number;
  readonly outX: number;
  readonly outY: number;
}

/** Corners of a flattened curve in output px: x, y in turn, and for each the place along the curve (index of its point + t). */
export interface Outline {
  readonly xy: Float64Array;
  readonly at: Float64Array;
}

/** Plate shares to output pixels. */
export function plateToOutputPx(framing: Affine, plate: { width: number; height: number }): (x: number, y: number) => [number, number] {
  const m = invertAffine(framing);
  return (x, y) => {
    const px = x * plate.width;
    const py = y * plate.height;
    return [m.a * px + m.b * py + m.c, m.d * px + m.e * py + m.f];
  };
}

/** Output px per plate px. */
export const outputPerPlate = (framing: Affine): number => 1 / Math.hypot(framing.a, framing.d);

/** Straight pieces at most this far, px, from the curve. */
const FLATNESS = 0.01;

/** Flattens a closed cubic curve to a polygon whose distance from it stays under 0.01 px. */
export function flattenCurve(points: readonly CurvePoint[], place: (x: number, y: number) => [number, number]): Outline {
  const xy: number[] = [];
  const at: number[] = [];
  for (let i = 0; i < points.length; i++) {
    const p = points[i]!;
    const q = points[(i + 1) % points.length]!;
    const [x0, y0] = place(p.x, p.y);
    const [x1, y1] = place(p.x + p.outX, p.y + p.outY);
    const [x2, y2] = place(q.x + q.inX, q.y + q.inY);
    const [x3, y3] = place(q.x, q.y);
    // second differences bound the distance of a chord from its curve (Wang 1984)
    const bend = Math.max(Math.hypot(x0 - 2 * x1 + x2, y0 - 2 * y1 + y2), Math.hypot(x1 - 2 * x2 + x3, y1 - 2 * y2 + y3));
    const steps = Math.min(200, Math.max(1, Math.ceil(Math.sqrt((0.75 * bend) / FLATNESS))));
    for (let s = 0; s < steps; s++) {
      const t = s / steps;
      const u = 1 - t;
      xy.push(u * u * u * x0 + 3 * u * u * t * x1 + 3 * u * t * t * x2 + t * t * t * x3);
      xy.push(u * u * u * y0 + 3 * u * u * t * y1 + 3 * u * t * t * y2 + t * t * t * y3);
      at.push(i + t);
    }
  }
  return { xy: Float64Array.from(xy), at: Float64Array.from(at) };
}
