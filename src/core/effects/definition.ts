import type { Picture, Plane } from '../raster/picture';
import type { Run } from '../run';
import type { Moment } from '../values/moment';
import { defaultsOf, type Params, type ValuesOf } from '../values/params';

/** Where light meets an effect, in this order. */
export const effectGroups = ['surface', 'air', 'lens', 'frame'] as const;
export type EffectGroup = (typeof effectGroups)[number];

/** The lens that took the picture, at the size being rendered. */
export interface RenderLens {
  readonly focalPx: number;
  /** 35 mm-equivalent focal length, mm */
  readonly focalLength: number;
}

/**
 * What an effect may read besides its parameters and the picture it is given; only that is part of its content key. `distance`: metres at
 * each pixel. `lens`: the lens. `time`: the frame. `plate`: the framed plate before all effects.
 */
export type EffectNeed = 'distance' | 'lens' | 'time' | 'plate';

/** What an effect works with. What it has not declared among its needs cannot be read. */
export interface EffectInput<V> {
  readonly picture: Picture;
  readonly params: V;
  /** rendered px per output px: lengths in px are given for the output */
  readonly pxScale: number;
  readonly run: Run;
  /** metres from the camera plane, same size as the picture; Infinity is allowed */
  readonly distance: Plane;
  readonly lens: RenderLens;
  readonly at: Moment;
  readonly plate: Picture;
}

/** A line on the depth rail: how strongly the effect acts by distance, and the handles that set distances. */
export interface Lane {
  readonly caption: string;
  /** distance in metres (Infinity allowed) and strength 0..1, by rising distance */
  readonly points: readonly { readonly distance: number; readonly strength: number }[];
  /** drawn solid: the range that is left as it is, or acted on in full */
  readonly solid?: { readonly from: number; readonly to: number };
  readonly handles: readonly { readonly param: string; readonly distance: number }[];
}

/** What an effect gives: a picture, or one with things put at distances. */
export type EffectResult = Picture | { readonly picture: Picture; readonly distance: Plane };

export interface EffectDefinition<P extends Params = Params> {
  readonly kind: string;
  readonly group: EffectGroup;
  readonly label: string;
  /** one line for the list of effects that can be added */
  readonly help: string;
  readonly params: P;
  /** true: the effect can be limited to a reach of distances */
  readonly reach?: boolean;
  /** what it reads with these values */
  needs(params: ValuesOf<P>): readonly EffectNeed[];
  /** a few words for the list */
  summary(params: ValuesOf<P>): string;
  lane?(params: ValuesOf<P>, lens: RenderLens): Lane;
  /** a distance that a click in the picture sets */
  readonly picking?: { readonly param: string; readonly label: string; readonly prompt: string };
  /** Picture in, picture out, linear light, premultiplied; inputs are not written. Throws Stopped where the run is. */
  apply(input: EffectInput<ValuesOf<P>>): EffectResult | Promise<EffectResult>;
}

/** Declares an effect. Its schema, panel, rail lane, command-line help and docs follow from this. */
export const defineEffect = <P extends Params>(definition: EffectDefinition<P>): EffectDefinition<P> => definition;

export const effectDefaults = (definition: EffectDefinition): Record<string, unknown> => defaultsOf(definition.params);
