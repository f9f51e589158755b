import type { ReachRange } from '../../effects/reach';
import type { Picture, Plane } from '../../raster/picture';

export interface CheckInput {
  /** the map after clean-up, 0..1 */
  readonly raw: Plane;
  readonly nearness: Plane;
  readonly distance: Plane;
  /** the framed plate */
  readonly picture: Picture;
  /** map limits */
  readonly low: number;
  readonly high: number;
  /** depth estimated from the plate alone, framed; null where there is none */
  readonly estimate: Plane | null;
  /** the reach of the effect in hand; null where it has none */
  readonly reach: (ReachRange & { readonly outside: boolean }) | null;
}

export interface CheckResult {
  /** strength 0..1 per pixel, drawn in paper white over the dimmed picture */
  readonly marks: Plane;
  readonly figure: string;
  /** a picture shown in place of the shot's, linear light, same size */
  readonly shown?: Picture;
  /** shares of pixels in bins, drawn as a small chart where it helps */
  readonly chart?: { readonly bins: readonly number[]; readonly from: string; readonly to: string; readonly title: string };
}

/** A diagnostic view: marks over the picture, one figure, and sometimes a chart. */
export interface CheckDefinition {
  readonly kind: string;
  readonly label: string;
  readonly help: string;
  /** true where it compares with the estimate */
  readonly needsEstimate?: boolean;
  /** true where it shows the reach of the effect in hand */
  readonly needsReach?: boolean;
  run(input: CheckInput): CheckResult;
}
