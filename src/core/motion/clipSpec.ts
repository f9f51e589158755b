import type { FileRef } from '../need/fileRef';
import type { EstimateBy } from '../need/estimators';
import { addressOfFile, cutsName, depthSeries, frameAt, readingName, type MapNeed, type ClipFrame } from '../need/need';
import { keyFrames, scenesOf, type Span } from './plan';

/** From what the depth of a clip's frames is made steady: estimates of some of them, or the frames of a clip of maps. */
export type ClipDepthSource =
  | ({ readonly is: 'estimate' } & EstimateBy)
  | {
      readonly is: 'map';
      readonly ref: FileRef;
      readonly channel: string | null;
      readonly reading: MapNeed['reading'];
      readonly ends?: MapNeed['ends'];
      /** frames of the plate by which it begins later */
      readonly offset: number;
    };

/** How the depth of a clip is found. */
export interface ClipDepthSpec extends Span {
  readonly of: FileRef;
  readonly source: ClipDepthSource;
  /** every how many frames depth is estimated */
  readonly every: number;
  /** 0..100 */
  readonly steady: number;
  /** of estimates: corrected by the parallax between frames */
  readonly parallax?: boolean;
  readonly cuts: readonly number[];
}

/** Which frame of a clip of maps belongs to a frame of the plate: matched by time. */
export const mapFrameAt = (ref: FileRef, offset: number, plate: FileRef, frame: number): ClipFrame =>
  frameAt(ref, { frame: frame - offset, fps: plate.clip?.fps ?? 24 });

/** Where it is kept which cuts were found in a clip. */
export const cutsSeries = ({ sha256 }: FileRef): string => `cuts along ${sha256}`;

/** The frames that begin a scene: those that were found, but for what somebody said. */
export const cutsWith = (found: readonly number[], { clip }: FileRef): readonly number[] => {
  const { added = [], removed = [] } = clip?.cuts ?? {};
  return [...new Set([...found, ...added])].filter((f) => !removed.includes(f)).sort((a, b) => a - b);
};

/** Where the estimates of a clip lie, frame by frame; null where maps come from a file. */
export const estimatesOf = ({ of, source }: Pick<ClipDepthSpec, 'of' | 'source'>): string | null =>
  source.is === 'estimate' ? depthSeries({ of, ...source }) : null;

/** The frames that are estimated. */
export const estimatedFrames = (spec: ClipDepthSpec): readonly number[] =>
  spec.source.is === 'map' ? [] : scenesOf(spec, spec.cuts).flatMap((scene) => keyFrames(scene, spec.every));

/** Where its finished maps lie. */
export const seriesOf = ({ of, source, steady, parallax }: Pick<ClipDepthSpec, 'of' | 'source' | 'steady' | 'parallax'>): string =>
  source.is === 'estimate'
    ? depthSeries({ of, ...source, steady, parallax })
    : `map ${source.ref.sha256}:${readingName(source)}:${source.offset} along ${addressOfFile(of)}:steady ${steady}${cutsName(of)}`;
