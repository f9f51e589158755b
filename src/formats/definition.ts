import type { Picture, Plane } from '../core/raster/picture';

/** What a file turns out to be, read from its header alone. */
export interface StillFacts {
  readonly format: string;
  /** px as displayed, after EXIF orientation */
  readonly width: number;
  readonly height: number;
  readonly bits: number;
  readonly colour: string;
  readonly animated: boolean;
  /** horizontal field of view, from the 35 mm-equivalent focal length in EXIF */
  readonly hfovDegrees: number | null;
  /** where depth was found in the file: its alpha channel, or a further picture named in its metadata */
  readonly depthInside: string | null;
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
  describe(bytes: Uint8Array): Pick<StillFacts, 'bits' | 'colour' | 'animated'>;
  /** size in px from the header, for formats of our own reading */
  size?(bytes: Uint8Array): { readonly width: number; readonly height: number };
  /** what it is used for, for the docs */
  readonly use: string;
}

/** Declares a format. Detection, `inspect` and the docs' table follow from this. */
export const defineFormat = (definition: FormatDefinition): FormatDefinition => definition;

/** Float pixels of a PFM: one channel is a plane, three are linear light. */
export type FloatImage = { readonly kind: 'plane'; readonly plane: Plane } | { readonly kind: 'picture'; readonly picture: Picture };
