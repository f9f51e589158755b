import type { Raster } from '../core/picture';
import type { Heard } from './definition';

/** A picture as a source sends it. */
export interface Arrival {
  /** counted by the source */
  readonly number: number;
  /** when it was taken, ms since 1970 */
  readonly at: number;
  readonly raster: Raster;
  readonly channels: Heard;
}

/** Now by the one clock of pages and their workers, ms since 1970. */
export const clock = (): number => performance.timeOrigin + performance.now();
