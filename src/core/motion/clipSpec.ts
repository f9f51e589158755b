import { depthSeries, type EstimateNeed, type StillFile } from '../need';
import { keyFrames, scenesOf, type Span } from './plan';

/** How the depth of a clip is found. */
export interface ClipDepthSpec extends Span {
  readonly of: StillFile;
  readonly quality: EstimateNeed['quality'];
  /** every how many frames depth is estimated */
  readonly every: number;
  /** 0..100 */
  readonly steady: number;
  readonly cuts: readonly number[];
}

/** Where the estimates of a clip lie, frame by frame. */
export const estimatesOf = ({ of, quality }: Pick<ClipDepthSpec, 'of' | 'quality'>): string => depthSeries({ of, quality });

/** The frames that are estimated. */
export const estimatedFrames = (spec: ClipDepthSpec): readonly number[] => scenesOf(spec, spec.cuts).flatMap((scene) => keyFrames(scene, spec.every));

/** Where its finished maps lie. */
export const seriesOf = ({ of, quality, steady }: ClipDepthSpec): string => depthSeries({ of, quality, steady });
