import type { Picture, Plane } from '../raster/picture';
import type { Run } from '../run';
import type { Moment } from '../values/moment';
import { defaultsOf, valuesSchema, type Params, type ValuesOf } from '../values/params';
import type { Lane } from './lane';
import { reachHandles, reachLane, reachParams, reachPickings, type ReachValues } from './reach';

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

/** What an effect gives: a picture, or one with things put at distances. */
export type EffectResult = Picture | { readonly picture: Picture; readonly distance: Plane };

/** A distance among the parameters that can be picked in the picture. */
export interface PickingOffer {
  readonly param: string;
  readonly label: string;
  readonly prompt: string;
}

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
  /** the distance that a click in the picture usually sets */
  readonly picking?: PickingOffer;
  /** Picture in, picture out, linear light, premultiplied; inputs are not written. Throws Stopped where the run is. */
  apply(input: EffectInput<ValuesOf<P>>): EffectResult | Promise<EffectResult>;
}

/** Declares an effect. Its schema, panel, rail lane, command-line help and docs follow from this; with `reach: true` the settings of a reach too. */
export const defineEffect = <P extends Params>(definition: EffectDefinition<P>): EffectDefinition<P> =>
  definition.reach ? { ...definition, params: { ...definition.params, ...reachParams } } : definition;

/** The reach that an effect is limited to with these values; null where it acts everywhere. */
export function reachOf({ reach }: EffectDefinition, values: Readonly<Record<string, unknown>>): ReachValues | null {
  const read = reach ? valuesSchema(reachParams).parse(values) : null;
  return read?.reach ? read : null;
}

/** An effect's line on the rail: its own with the handles of its reach, or that of its reach alone; null where it has none. */
export function laneOf(definition: EffectDefinition, values: Record<string, number | boolean | string>, lens: RenderLens): Lane | null {
  const own = definition.lane?.(values, lens);
  const reach = reachOf(definition, values);
  if (!reach) return own ?? null;
  return own ? { ...own, handles: [...own.handles, ...reachHandles(reach)] } : reachLane(definition.label, reach);
}

/** Every distance of an effect that can be picked in the picture with these values. */
export const pickingsOf = (definition: EffectDefinition, values: Readonly<Record<string, unknown>>): readonly PickingOffer[] => [
  ...(definition.picking ? [definition.picking] : []),
  ...(reachOf(definition, values) ? reachPickings : []),
];

export const effectDefaults = (definition: EffectDefinition): Record<string, unknown> => defaultsOf(definition.params);
