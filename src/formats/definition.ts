import type { ClipRef, Half } from '../core/need/fileRef';
import type { MapReading } from '../core/need/need';
import type { Picture, Plane, Raster } from '../core/picture';

/** What a file turns out to be, read from its header alone. */
export interface StillFacts {
  readonly format: string;
  /** px as displayed, after EXIF orientation */
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  readonly colour: string;
  readonly animated: boolean;
  /** false where it holds maps alone and is no plate */
  readonly plate?: boolean;
  /** horizontal field of view, from the 35 mm-equivalent focal length in EXIF */
  readonly hfovDegrees: number | null;
  /** where depth was found in the file: its alpha channel, or a further picture named in its metadata */
  readonly depthInside: string | null;
  /** present where it is a clip */
  readonly clip?: ClipFound;
}

/** What is found of a clip itself; the rest of how it is read is for the person to say. */
export type FoundRef = Readonly<Pick<ClipRef, 'frames' | 'fps' | 'numbered' | 'uneven'> & Required<Pick<ClipRef, 'rotation' | 'sound'>>>;

/** What is found of a clip besides its first frame. */
export interface ClipFound extends FoundRef {
  readonly codec: string;
  readonly remarks: readonly string[];
  /** its frames are a picture and its depth */
  readonly split?: { readonly picture: Half; readonly depth: Half };
}

/** A map as a file stores it, before it is read as depth: whole numbers as shares of full scale, floats as they are. */
export interface FoundMap {
  readonly plane: Plane;
  readonly bits: number;
  readonly float: boolean;
  /** where in the file it was, and everywhere it could be read instead */
  readonly channel: string;
  readonly channels: readonly string[];
  readonly reading?: MapReading;
  readonly ends?: { readonly near: number; readonly far: number } | null;
  readonly smallIsNear?: boolean | null;
  readonly colourful?: boolean;
}

/** Encoders that differ from platform to platform: quality 0..1, white under what is see-through where the format has no alpha. */
export interface Encoders {
  jpeg(picture: Picture, quality: number): Promise<Uint8Array>;
  webp(picture: Picture, quality: number): Promise<Uint8Array>;
  /** a 16-bit PNG, where there is something quicker than script */
  png16?(picture: Picture): Promise<Uint8Array>;
}

/** An open still format: how to know it, and what this program itself reads and writes of it. */
export interface FormatDefinition {
  readonly kind: string;
  readonly label: string;
  readonly extensions: readonly string[];
  readonly mime: string;
  matches(bytes: Uint8Array): boolean;
  /** who turns bytes into pixels: this program, or the decoder of the browser or the command line */
  readonly decodedBy: 'own' | 'platform';
  /** bits a channel, channels and animation from the header; throws OmbrageError where it is damaged */
  describe(bytes: Uint8Array): Pick<StillFacts, 'bits' | 'colour' | 'animated' | 'plate'>;
  /** whether the compressed picture runs to its end; decoders of the platform fill what is missing with grey */
  isWhole?(bytes: Uint8Array): boolean;
  /** size in px from the header, for formats of our own reading */
  size?(bytes: Uint8Array): { readonly width: number; readonly height: number };
  /** pixels of a picture, where this program reads them better than the platform does; null where it does not */
  readPicture?(bytes: Uint8Array, facts: Pick<StillFacts, 'bits'>, use: 'plate' | 'map'): Promise<Raster> | null;
  /** a map, for formats of our own reading; `channel`: which of several, null for the likeliest. Throws OmbrageError */
  readMap?(bytes: Uint8Array, channel: string | null): FoundMap | Promise<FoundMap>;
  /** a picture, linear light; `bits` a channel where the format has a choice, `quality` 0..1 where it loses something */
  writePicture?(
    picture: Picture,
    how: { readonly bits: 8 | 16; readonly quality: number; readonly encoders: Encoders },
  ): Uint8Array | Promise<Uint8Array>;
  /** a plane of floats, such as distances */
  writePlane?(plane: Plane): Uint8Array;
  /** what it is used for, for the docs */
  readonly use: string;
}

/** Declares a format. Detection, `inspect` and the docs' table follow from this. */
export const defineFormat = (definition: FormatDefinition): FormatDefinition => definition;

/** Float pixels of a PFM: one channel is a plane, three are linear light. */
export type FloatImage = { readonly kind: 'plane'; readonly plane: Plane } | { readonly kind: 'picture'; readonly picture: Picture };
