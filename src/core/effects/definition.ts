import type * as z from 'zod';
import type { Seen } from '../camera/view';
import type { Picture, Plane, Size, Raster } from '../picture';
import type { Run } from '../run';
import type { Moment } from '../values/moment';
import { defaultsOf, valuesSchema, type Params, type ValuesOf } from '../values/params';
import type { Lane } from '../matte/lane';
import { reachHandles, reachLane, reachParams, reachPickings, type ReachRange, type ReachValues } from '../matte/reach';

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
 * each pixel. `lens`: the lens. `time`: the frame. `plate`: the framed plate before all effects. `cut`: what lies within a reach, cut out.
 * `camera`: where the camera stands. `earlier`: what it was given at earlier moments. `depth`: what follows from distances and lens alone.
 */
export type EffectNeed = 'distance' | 'lens' | 'time' | 'plate' | 'cut' | 'camera' | 'earlier' | 'depth';

/** What lies within a reach of distances: its coverage 0..1, and its own colours, premultiplied, with the coverage as alpha. */
export interface Cut {
  readonly matte: Plane;
  readonly front: Picture;
}

/** What an effect works with. What it has not declared among its needs cannot be read. */
export interface EffectInput<V, C = unknown> {
  readonly picture: Picture;
  readonly params: V;
  /** what it keeps besides its values */
  readonly content: C;
  /** the picture file that belongs to it; null where there is none, or it has not come yet */
  readonly still: Raster | null;
  /** rendered px per output px: lengths in px are given for the output */
  readonly pxScale: number;
  readonly run: Run;
  /** metres from the camera plane, same size as the picture; Infinity is allowed */
  readonly distance: Plane;
  readonly lens: RenderLens;
  readonly at: Moment;
  readonly plate: Picture;
  /** The picture that it was given so many frames ago; at the first frame at the latest. */
  earlier(frames: number): Promise<Picture>;
  /** a first look, soon followed by the careful one */
  readonly quick: boolean;
  /** Keeps, under a name, what follows from the distances and the lens alone. */
  fromDepth(name: string, make: () => Float32Array): Float32Array;
  /** where the camera stands, from where the plate was taken, and how much is cut off at the border */
  readonly camera: Seen;
  /** Cuts out what lies within a reach, along the picture's edges where `refine`; kept by reach, map and picture. */
  cut(range: ReachRange, refine: boolean): Cut;
}

/** What an effect gives: a picture, or one with things put at distances. */
export type EffectResult = Picture | { readonly picture: Picture; readonly distance: Plane };

/** Writes where the pixels of a row are fetched from: x and y of one after the other, px; centres lie at halves. */
export type Places = (y: number, to: Float32Array) => void;

/** A distance among the parameters that can be picked in the picture. */
export interface PickingOffer {
  readonly param: string;
  /** the distance is set so many times as far as what is clicked: that it is taken in whole */
  readonly by?: number;
  readonly label: string;
  readonly prompt: string;
}

/** What the shot is like where a new effect begins: distances in metres. */
export interface EffectStart {
  /** of what the picture is about */
  readonly subject: number;
  /** where that is best cut from what lies behind it */
  readonly behind: number;
  /** which a twentieth, a half and nineteen twentieths of the picture lie nearer than; finite */
  readonly near: number;
  readonly middle: number;
  readonly far: number;
  /** half the field of view, as tangents */
  readonly tangentX: number;
  readonly tangentY: number;
}

export interface EffectDefinition<P extends Params = Params, C = unknown> {
  readonly kind: string;
  readonly group: EffectGroup;
  readonly label: string;
  /** one line for the list of effects that can be added */
  readonly help: string;
  readonly params: P;
  /** what it keeps besides plain values; parsing an empty object gives an empty one */
  readonly content?: z.ZodType<C>;
  /** a picture file can belong to it */
  readonly takesStill?: boolean;
  /** values of a new one that follow from the shot: so that it is seen at once */
  startOn?(start: EffectStart): Partial<ValuesOf<P>>;
  /** true: the effect can be limited to a reach of distances */
  readonly reach?: boolean;
  /** true: it moves what it acts on, so that within a reach it is given that alone, continued behind what stands before it */
  spreads?(params: ValuesOf<P>): boolean;
  /** of one that needs `earlier`: how many frames ago it looks */
  looksBack?(params: ValuesOf<P>): readonly number[];
  /** what it reads with these values */
  needs(params: ValuesOf<P>): readonly EffectNeed[];
  /** a few words for the list */
  summary(params: ValuesOf<P>): string;
  /** null where it has none with these values */
  lane?(params: ValuesOf<P>, lens: RenderLens): Lane | null;
  /** the distance that a click in the picture usually sets */
  readonly picking?: PickingOffer;
  /** the reach that it cuts out with these values, and whether everything else is meant */
  cuts?(params: ValuesOf<P>): ReachRange & { readonly outside: boolean };
  /** two distances that two clicks set, the nearer first */
  readonly pair?: { readonly from: string; readonly to: string; readonly label: string; readonly prompts: readonly [string, string] };
  /** where a click in the picture puts it, in metres from the camera's axis (right, up) and along it */
  readonly place?: { readonly right: string; readonly up: string; readonly distance: string };
  /** where in the picture it is, per cent of width and height */
  readonly centre?: { readonly x: string; readonly y: string };
  /**
   * Where it fetches the pixels of row y from with these values: x and y of one after the other, px; null where it moves nothing. Distances,
   * plate and regions of what follows are moved alike where it acts on the whole picture.
   */
  bends?(params: ValuesOf<P>, size: Size): Places | null;
  /** Picture in, picture out, linear light, premultiplied; inputs are not written. Throws Aborted where the run is. */
  apply(input: EffectInput<ValuesOf<P>, C>): EffectResult | Promise<EffectResult>;
}

/** Declares an effect. Its schema, panel, rail lane, command-line help and docs follow from this; with `reach: true` the settings of a reach too. */
export const defineEffect = <P extends Params, C = unknown>(definition: EffectDefinition<P, C>): EffectDefinition<P, C> =>
  definition.reach ? { ...definition, params: { ...definition.params, ...reachParams } } : definition;

/** The reach that an effect is limited to with these values; null where it acts everywhere. */
export function reachOf({ reach }: EffectDefinition, values: Readonly<Record<string, unknown>>): ReachValues | null {
  const read = reach ? valuesSchema(reachParams).parse(values) : null;
  return read?.reach ? read : null;
}

/** Whether an effect can be limited to a part of the picture. */
export const limitable = ({ reach, cuts }: Pick<EffectDefinition, 'reach' | 'cuts'>): boolean => reach === true || cuts !== undefined;

/** Whether two distances of an effect that belong together were set the wrong way round: they are taken the right way. */
export function endsSwapped(definition: EffectDefinition, values: Readonly<Record<string, unknown>>): boolean {
  const beyond = (from: string, to: string): boolean => Number(values[from]) > Number(values[to]);
  const { pair } = definition;
  return (pair !== undefined && beyond(pair.from, pair.to)) || (reachOf(definition, values) !== null && beyond('reachFrom', 'reachTo'));
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
