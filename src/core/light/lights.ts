import type { Harmonics } from './harmonics';
import type { Point } from './shadow';

export type Rgb = readonly [number, number, number];

/** A light that is added. Metres: x right, y down, z forward. Light is in the plate's own units: 1 is white. */
export type Light =
  | {
      readonly is: 'lamp';
      readonly place: Point;
      /** radiant intensity: irradiance at 1 m */ readonly intensity: Rgb;
      /** radius, m */ readonly size: number;
    }
  | {
      readonly is: 'sun';
      /** towards it */ readonly direction: Point;
      readonly irradiance: Rgb;
      /** its radius as seen, radians */ readonly size: number;
    }
  | { readonly is: 'surround'; /** radiance from above and from below */ readonly above: Rgb; readonly below: Rgb }
  | { readonly is: 'picture'; readonly harmonics: Harmonics; readonly turn: number; readonly gain: Rgb };

/** A light from one place or one direction. */
export type PointLight = Extract<Light, { readonly is: 'lamp' | 'sun' }>;

/** How the plate is taken to be lit, and what its surfaces are like. */
export interface Surfaces {
  /** radiance of the even light that the plate was taken in */
  readonly even: number;
  /** 0..1: how far that light is reckoned to come from above, and to miss hollows */
  readonly shading: number;
  /** how far within that hollows are looked for, m */
  readonly hollows: number;
  /** 0..1: how far the even light's own colour is taken out, by the mean of the plate (Buchsbaum 1980) */
  readonly balance: number;
  /** 0..1: shine at normal incidence, of a metal-free gloss; and how rough it is */
  readonly gloss: number;
  readonly roughness: number;
  /** how strongly relief is seen: 1 as it is */
  readonly relief: number;
  /** whether what stands in the way casts shadows */
  readonly shadows: boolean;
}
