import type { PersonsDrawing } from '../../core/depth/layers/persons/content';
import type { FileRef } from '../../core/need/fileRef';
import type { Drawing } from '../../core/depth/layers/shape/content';
import type { Span } from '../../core/motion/plan';
import type { Point } from '../../core/motion/track';

/** How much depth flickers by frame, as it was estimated and made steady; null where nothing links a frame to the one before. */
export interface Flickers {
  readonly before: readonly (number | null)[];
  readonly after: readonly (number | null)[];
}

/** A region of a clip that was drawn on some frames, and is carried to the others. */
export interface RegionSpec extends Span {
  readonly of: FileRef;
  readonly series: string;
  /** shapes that were drawn on some frames, or persons that were clicked on them */
  readonly drawings: readonly (Drawing | PersonsDrawing)[];
}

/** Where a followed point is at a frame, shares of the plate, and how far what is there, metres. */
export interface FollowedPoint extends Point {
  readonly frame: number;
  readonly distance: number;
}
