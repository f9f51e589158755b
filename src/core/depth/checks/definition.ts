import type { ReachRange } from '../../matte/reach';
import type { Picture, Plane } from '../../picture';

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
  /** how far the region of the effect in hand lets it act, 0..1; null where it has none */
  readonly region: Plane | null;
  /** for checks that look at the camera; otherwise null */
  readonly camera: CameraFindings | null;
}

/** What the camera's moves found. */
export interface CameraFindings {
  /** 1 where what is seen was hidden in the plate; null where the camera has not moved */
  readonly uncovered: Uint8Array | null;
  /** the finished picture from where the camera stands */
  readonly finished: Picture;
  /** what lies behind the edges, over the plate, and which pixels that is */
  readonly behind: { readonly picture: Picture; readonly filled: Uint8Array };
}

export interface CheckResult {
  /** strength 0..1 per pixel, drawn in paper white over the dimmed picture */
  readonly marks: Plane;
  readonly figure: string;
  /** a picture shown in place of the shot's, linear light, same size */
  readonly shown?: Picture;
  /** pictures shown one after the other, round and round, in place of the shot's */
  readonly loop?: readonly Picture[];
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
  /** true where it looks at what the camera's moves found */
  readonly needsCamera?: boolean;
  run(input: CheckInput): CheckResult;
}
