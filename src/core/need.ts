import { estimateKey, type Quality } from './estimate/key';

/** A file kept beside the document, by the hash of its bytes; its size in px. */
export interface StillFile {
  readonly sha256: string;
  readonly name: string;
  readonly width: number;
  readonly height: number;
}

/** How stored numbers are read as depth: greys as they are, or distances whose inverse is nearness. */
export type MapReading = 'grey' | 'distance';

/** A decoded picture. `frame` is 0 for a still. */
export interface RasterNeed {
  readonly is: 'raster';
  readonly ref: StillFile;
  readonly frame: number;
  /** its alpha channel holds something else than transparency */
  readonly opaque?: boolean | undefined;
}

/** A depth map from a file. */
export interface MapNeed {
  readonly is: 'map';
  readonly ref: StillFile;
  readonly frame: number;
  readonly channel: string | null;
  readonly reading: MapReading;
}

/** Depth estimated from a picture. */
export interface EstimateNeed {
  readonly is: 'estimate';
  readonly of: StillFile;
  readonly frame: number;
  readonly quality: Quality;
}

/** What a shot is made from besides its document: one loader for each `is`, in the engine and on the command line. */
export type Need = RasterNeed | MapNeed | EstimateNeed;
/** What gives a plane of raw nearness. */
export type PlaneNeed = MapNeed | EstimateNeed;

const frameOf = ({ frame }: { readonly frame: number }): string => (frame === 0 ? '' : `@${frame}`);

/** The address of what a need asks for: what is in the file, and how it is read. */
export function needKey(need: Need): string {
  switch (need.is) {
    case 'raster':
      return `${need.ref.sha256}${frameOf(need)}`;
    case 'map':
      return `map:${need.ref.sha256}${frameOf(need)}:${need.channel ?? ''}:${need.reading}`;
    case 'estimate':
      return estimateKey(need.of.sha256, need.quality) + frameOf(need);
  }
}

/** The needs that ask for a plane. */
export const givesPlane = (need: Need): need is PlaneNeed => need.is !== 'raster';

/** A still picture as it is needed. */
export const stillNeed = (ref: StillFile, opaque?: boolean): RasterNeed => ({ is: 'raster', ref, frame: 0, ...(opaque && { opaque }) });
