import type { Plane } from '../picture';
import type { PatchEdge, Superpixels } from './superpixels';

/** The plate reduced to the working size, in the forms that cues read. Planes share one size. */
export interface CueInput {
  readonly width: number;
  readonly height: number;
  /** OKLab lightness and colour axes, lightly smoothed so that texture does not read as edges */
  readonly lightness: Plane;
  readonly a: Plane;
  readonly b: Plane;
  /** linear RGB planes */
  readonly red: Plane;
  readonly green: Plane;
  readonly blue: Plane;
  /** unsmoothed lightness, for sharpness */
  readonly detail: Plane;
  readonly patches: Superpixels;
  readonly edges: readonly PatchEdge[];
  readonly layout: Layout;
}

/** How the picture is built up: sky above, ground below, the horizon between. */
export interface Layout {
  /** row of the horizon, px, may lie outside the picture */
  readonly horizon: number;
  /** 0..1: smoothly connected to the upper border */
  readonly sky: Plane;
  /** 0..1: smoothly connected to the lower border */
  readonly ground: Plane;
  /** regions that rise through the horizon and so stand upright: nearness of their foot, and how surely they stand, 0..1 */
  readonly foot: Plane;
  readonly standing: Plane;
}

/** What one cue says: nearness 0..1 and how far to believe it, 0..1, per pixel. */
export interface CueResult {
  readonly nearness: Plane;
  readonly confidence: Plane;
}

export interface Cue {
  readonly kind: string;
  /** where the cue was published */
  readonly source: string;
  run(input: CueInput): CueResult;
}
