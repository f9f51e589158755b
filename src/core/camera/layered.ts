import type { Picture, Plane, Size } from '../picture';

/** How the border is continued beyond the plate, where a move would look there. */
export const borders = ['mirrored', 'smooth'] as const;
export type BorderFill = (typeof borders)[number];

/** What a plate is made ready for. */
export interface PathExtent {
  /** px of parallax for each 1/m of inverse distance that the moves open, at the most, anywhere in the picture */
  readonly gain: number;
  /** px that are added on every side, at the most px that the moves look beyond it */
  readonly pad: number;
  readonly border: BorderFill;
  /** what lies behind edges is filled; otherwise gaps take what is beside them */
  readonly hidden: boolean;
}

/** What a person gave for what lies behind: colours of the same size as the plate, and how far they lie where that is known. */
export interface Backdrop {
  readonly picture: Picture;
  /** metres; where not given, what is behind lies as far as what is beside it */
  readonly distance?: Plane;
}

/** A padded plate's surfaces: what all that is done to it reads. */
export interface PlateGrid extends Size {
  /** inverse distance, 1/m */
  readonly q: Float32Array;
  /** inverse distances that differ by less are one surface, 1/m */
  readonly tau: number;
}

/** Surfaces that lie at single pixels only, in the order of the pixels. */
export interface SparseSurface {
  /** which pixel of the padded plate */
  readonly pixel: Int32Array;
  /** inverse distance, 1/m */
  readonly q: Float32Array;
  /** square roots of RGBA */
  readonly colour: Float32Array;
  /** where those of each row begin, and one past the last */
  readonly rowStart: Int32Array;
}

/** Flags of a pixel: joined with what is right of it and below it, in front and in the hidden layer; how near to an edge it lies; whether it has a rim. */
export const JOINED_RIGHT = 1;
export const JOINED_BELOW = 2;
export const HIDDEN_RIGHT = 4;
export const HIDDEN_BELOW = 8;
/** within 2 px of an edge: cubic taps must be tested */
export const NEAR_EDGE = 16;
/** within 1 px of an edge: linear taps must be tested */
export const AT_EDGE = 32;
export const HAS_RIM = 64;
/** joined on all four sides */
export const INNER = 128;

/**
 * A plate taken apart for a camera that moves: what is seen in front, what lies behind its edges, and rims of near colour that lie over far
 * depth. Flat arrays over the padded plate; colours are square roots of linear light, premultiplied, with the root of alpha.
 */
export interface LayeredPlate {
  /** tells it from every other one that was laid in this program */
  readonly name: string;
  readonly width: number;
  readonly height: number;
  readonly pad: number;
  readonly colour: Float32Array;
  /** inverse distance, 1/m; 0 at infinity */
  readonly q: Float32Array;
  readonly flags: Uint8Array;
  readonly hidden: SparseSurface;
  /** which of the hidden pixels lies at a pixel, or −1 */
  readonly hiddenAt: Int32Array;
  readonly rim: SparseSurface;
  /** share of the pixel that a rim covers, 0..1 */
  readonly rimCover: Float32Array;
  /** inverse distances that differ by less are one surface, 1/m */
  readonly tau: number;
  /** least and largest inverse distance of each row, in front and of the sparse surfaces, for skipping rows */
  readonly rowRange: Float32Array;
  /** for a cache that counts bytes */
  readonly data: { readonly byteLength: number };
}
