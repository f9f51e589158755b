import type { BlurShape } from '../kernels/blurShape';
import type { RadiusPicture } from '../kernels/lensBlurHost';
import type { Picture, Plane } from '../raster/picture';
import { defaultsOf, type Params, type ValuesOf } from '../values/params';

/** Where light meets an effect, in this order. */
export const effectGroups = ['surface', 'air', 'lens', 'frame'] as const;
export type EffectGroup = (typeof effectGroups)[number];

/** The lens that took the plate, at the size being rendered. */
export interface RenderLens {
  readonly focalPx: number;
  /** 35 mm-equivalent focal length, mm */
  readonly focalLength: number;
}

/** What an effect may use besides its own parameters. */
export interface EffectInput<V> {
  readonly picture: Picture;
  /** metres from the camera plane, same size as the picture */
  readonly distance: Plane;
  readonly params: V;
  readonly lens: RenderLens;
  /** rendered px per output px: lengths in px are given for the output */
  readonly pxScale: number;
  readonly frame: number;
  /** share of the work done, 0..1; false means stop: answer null */
  readonly progress?: (share: number) => boolean;
  /** spreads the rows of a blur over workers; the result is bit-identical to one thread. False where it was stopped: answer null */
  readonly spreadBlur?: (picture: RadiusPicture, shape: BlurShape, out: Float32Array) => Promise<boolean>;
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

export interface EffectDefinition<P extends Params = Params> {
  readonly kind: string;
  readonly group: EffectGroup;
  readonly label: string;
  readonly params: P;
  /** a few words for the list */
  summary(params: ValuesOf<P>): string;
  /** whether the effect looks different from frame to frame while its values stand still */
  readsTime?(params: ValuesOf<P>): boolean;
  lane?(params: ValuesOf<P>, lens: RenderLens): Lane;
  /** Picture in, picture out, linear light; the input is not written. Null where it was stopped: half a picture would be kept for a whole one. */
  apply(input: EffectInput<ValuesOf<P>>): Promise<Picture | null>;
}

/** Declares an effect. Its schema, panel, rail lane, command-line help and docs follow from this. */
export const defineEffect = <P extends Params>(definition: EffectDefinition<P>): EffectDefinition<P> => definition;

export const effectDefaults = (definition: EffectDefinition): Record<string, unknown> => defaultsOf(definition.params);
