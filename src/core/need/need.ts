import type { FileRef } from './fileRef';
import { contentKey } from '../key';
import { ESTIMATE_VERSION, estimateKey } from './estimateKey';
import { downFrom, type EstimateBy } from './estimators';
import type { Moment } from '../values/moment';

declare const clipFrame: unique symbol;
/** A frame's number in its clip. Frames of a shot have other numbers: `frameAt` is the way from one to the other. */
export type ClipFrame = number & { readonly [clipFrame]: true };
/** A number that is known to be one of a clip: counted in it, or kept as one. */
export const clipFrameOf = (frame: number): ClipFrame => frame as ClipFrame;
export const FIRST_FRAME = clipFrameOf(0);

/** How stored numbers are read as depth: greys as they are, or distances whose inverse is nearness. */
export type MapReading = 'grey' | 'distance';

/** The distances, metres, that white and black stand for where a map of distances is read as nearness. */
export interface MapEnds {
  readonly near: number;
  readonly far: number;
}

/** A decoded picture. `frame` is 0 for a still. */
export interface RasterNeed {
  readonly is: 'raster';
  readonly ref: FileRef;
  readonly frame: ClipFrame;
  /** its alpha channel holds something else than transparency */
  readonly opaque?: boolean | undefined;
  /** of a clip: its proxy will do, where there is one */
  readonly light?: boolean | undefined;
}

/** A depth map from a file. */
export interface MapNeed {
  readonly is: 'map';
  readonly ref: FileRef;
  readonly frame: ClipFrame;
  readonly channel: string | null;
  readonly reading: MapReading;
  /** of a clip of distances: its ends, the same for all its frames; where not given they are looked for */
  readonly ends?: MapEnds | undefined;
  /** of a clip of maps that was made steady along a plate: where that map lies, if it has been made */
  readonly steady?: { readonly series: string; readonly at: number } | undefined;
}

/** Depth estimated from a picture. */
export interface EstimateNeed extends EstimateBy {
  readonly is: 'estimate';
  readonly of: FileRef;
  readonly frame: ClipFrame;
  /** of a clip: how strongly it is made steady, 0..100; 0 or absent leaves each frame as it was estimated */
  readonly steady?: number | undefined;
  /** corrected besides by the parallax between frames */
  readonly parallax?: boolean | undefined;
}

/** A map that was computed for a frame of a clip, such as a region that was carried there. */
export interface KeptNeed {
  readonly is: 'kept';
  readonly of: FileRef;
  readonly series: string;
  readonly frame: ClipFrame;
}

/** What the persons at some places of a still, shares, cover of it. */
export interface PersonsNeed {
  readonly is: 'persons';
  readonly of: FileRef;
  readonly frame: ClipFrame;
  readonly places: readonly { readonly x: number; readonly y: number }[];
}

/** What a shot is made from besides its document: one loader for each `is`, in the engine and on the command line. */
export type Need = RasterNeed | MapNeed | EstimateNeed | KeptNeed | PersonsNeed;
/** What gives a plane of raw nearness. */
export type PlaneNeed = MapNeed | EstimateNeed | KeptNeed | PersonsNeed;

/** What tells a picture from all others: its file, and which half of its frames it is. */
export const addressOfFile = ({ sha256, clip }: Pick<FileRef, 'sha256' | 'clip'>): string => (clip?.half ? `${sha256}:${clip.half}` : sha256);

const frameOf = ({ frame }: { readonly frame: number }): string => (frame === 0 ? '' : `@${frame}`);

/** What was said about the scenes of a clip, where anything was: maps are carried up to its cuts. */
export const cutsName = ({ clip }: Pick<FileRef, 'clip'>): string =>
  clip?.cuts ? `:cuts +${clip.cuts.added.join()} -${clip.cuts.removed.join()}` : '';

/** Of what all frames of a clip's estimate are, however many: how its depth was found, and made steady. */
export const depthSeries = ({ of, steady, parallax, ...by }: Omit<EstimateNeed, 'frame' | 'is'>): string =>
  estimateKey(addressOfFile(of), by) + (steady ? `:steady ${steady}${parallax ? ' by parallax' : ''}${cutsName(of)}` : '');

/** Ways in which the depth of a clip's frame may have been found, the best first: made steady, as estimated, as what is shown before that. */
export function waysOf(need: EstimateNeed): readonly EstimateNeed[] {
  const plain = { ...need, steady: undefined };
  return [...(need.steady ? [need] : []), ...downFrom(need.quality).map((quality) => ({ ...plain, quality }))];
}

/** How a clip of maps is read, in a word. */
export const readingName = ({ channel, reading, ends }: Pick<MapNeed, 'channel' | 'reading' | 'ends'>): string =>
  `${channel ?? ''}:${reading}${ends ? ` ${ends.near}-${ends.far}` : ''}`;

/** The address of what a need asks for: what is in the file, and how it is read. */
export function needKey(need: Need): string {
  switch (need.is) {
    case 'raster':
      return `${addressOfFile(need.ref)}${frameOf(need)}${need.light ? ':light' : ''}`;
    case 'map':
      return `map:${need.ref.sha256}${frameOf(need)}:${readingName(need)}${need.steady ? `:${need.steady.series}@${need.steady.at}` : ''}`;
    case 'estimate':
      return depthSeries(need) + frameOf(need);
    case 'kept':
      return `${need.series}@${need.frame}`;
    case 'persons':
      return contentKey('persons', ESTIMATE_VERSION, addressOfFile(need.of), need.places);
  }
}

/** The needs that ask for a plane. */
export const givesPlane = (need: Need): need is PlaneNeed => need.is !== 'raster';

/** Which frame of a file is shown at a moment: 0 of a still; of a clip the one whose time it is. */
export function frameAt({ clip }: Pick<FileRef, 'clip'>, { frame, fps }: Moment): ClipFrame {
  if (!clip) return FIRST_FRAME;
  // rates such as 23.976 are rounded: a frame's time lies a little beyond its beginning
  const k = Math.floor((frame / fps) * clip.fps + 0.01);
  if (clip.beyond === 'loop') return clipFrameOf(((k % clip.frames) + clip.frames) % clip.frames);
  return clipFrameOf(Math.min(clip.frames - 1, Math.max(0, k)));
}

/** Which frame of a file each frame of a shot shows. */
export const framesShown = (ref: Pick<FileRef, 'clip'>, { length, fps }: { readonly length: number; readonly fps: number }): readonly ClipFrame[] =>
  Array.from({ length }, (_, frame) => frameAt(ref, { frame, fps }));

/** A picture as it is needed at a moment. */
export const pictureNeed = (ref: FileRef, at: Moment, opaque?: boolean): RasterNeed => ({
  is: 'raster',
  ref,
  frame: frameAt(ref, at),
  ...(opaque && { opaque }),
});

/** The first frame of a picture, or the whole of a still. */
export const stillNeed = (ref: FileRef, opaque?: boolean): RasterNeed => ({ is: 'raster', ref, frame: FIRST_FRAME, ...(opaque && { opaque }) });

/** The file that a need reads, or that what it asks for was made from. */
export const fileOf = (need: Need): FileRef => ('of' in need ? need.of : need.ref);

/** Whether a need asks for a frame of a clip. */
export const ofClip = (need: Need): boolean => fileOf(need).clip !== undefined;
