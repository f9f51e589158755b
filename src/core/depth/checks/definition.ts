import type { Plane } from '../../raster/picture';

/** A diagnostic view: a strength 0..1 per pixel, drawn in paper white over the dimmed picture, and one figure. */
export interface CheckDefinition {
  readonly kind: string;
  readonly label: string;
  readonly help: string;
  run(input: { raw: Plane; nearness: Plane; distance: Plane; low: number; high: number }): { marks: Plane; figure: string };
}
