import type { FileRef } from '../need/fileRef';
import type * as z from 'zod';
import type { Need } from '../need/need';
import type { Moment } from '../values/moment';
import type { Affine } from '../raster/resample';
import type { Picture, Plane, Raster } from '../picture';
import type { Params, ValuesOf } from '../values/params';
import type { Calibration } from './calibrate';
import type { Blend } from './blend';

/** What a layer works with; everything is in the framed output at the size being rendered. */
export interface LayerInput<V, C = unknown> {
  readonly width: number;
  readonly height: number;
  readonly params: V;
  /** what is drawn, listed or placed in the layer besides its plain values */
  readonly content: C;
  /** from output pixels to plate pixels */
  readonly framing: Affine;
  readonly plateSize: { readonly width: number; readonly height: number };
  /** the map this layer brings (estimate or file) in plate framing, if it has arrived */
  readonly map: Plane | null;
  /** the framed plate, for layers that follow its edges */
  readonly picture: Picture;
  /** what the layers below make together, for those that declare `readsBelow`; raw 0..1 */
  readonly below: Plane;
  readonly calibration: Calibration;
  /** distances in metres of things that layers may be tied to, by the id of their layer */
  readonly anchors: Readonly<Record<string, number>>;
  /** keeps a part of the work under what it was made from */
  remember<T extends Picture | Plane>(made: readonly unknown[], make: () => T): T;
  /** the same for parts that neither what lies below nor the calibration has a hand in */
  rememberAlone<T extends Picture | Plane>(made: readonly unknown[], make: () => T): T;
  /** mends the layer's map before it is enlarged, where clean-up does that; `nearness` tells what a value of it becomes */
  readonly mend?: (map: Plane, nearness: (value: number) => number) => Plane;
  /** a still that the layer declared among its needs, if it has arrived */
  rasterOf(still: FileRef): Raster | null;
}

/** What a layer's needs follow from. */
export interface LayerSource<V, C = unknown> {
  readonly params: V;
  readonly content: C;
  /** the file it was made from */
  readonly media: FileRef | null;
  readonly plate: FileRef;
  readonly at: Moment;
}

/** What a new layer begins on. */
export interface LayerStart {
  /** metres at a place of the plate (shares); null where nothing is known */
  distanceAt(x: number, y: number): number | null;
  readonly plate: { readonly width: number; readonly height: number };
  /** focal length in px of the plate */
  readonly focalPx: number;
}

/** One layer's contribution: raw nearness 0..1, and how far it covers what lies below, 0..1 (null: everywhere). */
export interface LayerResult {
  readonly nearness: Plane;
  readonly coverage: Plane | null;
}

export interface LayerDefinition<P extends Params = Params, C = unknown> {
  readonly kind: string;
  readonly label: string;
  readonly help: string;
  readonly params: P;
  /** how a new one is blended; replaces what lies below where nothing is said */
  readonly blend?: Blend;
  /** new ones are laid beneath all others */
  readonly beneath?: boolean;
  /** whether what is drawn or placed in it can have keys; where not given it can not */
  keys?(content: C): boolean;
  /** covers a part of the picture that effects can be limited to */
  readonly limits?: boolean;
  /** lies over all of the plate: nothing is seen of what is below it */
  coversAll?(params: ValuesOf<P>, content: C, media: FileRef | null): boolean;
  /** begins with a file that the person chooses */
  readonly fromFile?: boolean;
  /** what is kept in the layer besides plain values; where a document holds none, it parses `undefined` to an empty one */
  readonly content?: z.ZodType<C>;
  /** what it needs from files: at most one map, and the stills it places */
  needs?(source: LayerSource<ValuesOf<P>, C>): readonly Need[];
  /** true where the layer works on what lies below it */
  readonly readsBelow?: boolean;
  /** true where the calibration decides what the layer gives */
  readonly readsCalibration?: boolean;
  summary(params: ValuesOf<P>, content: C): string;
  /** values of a new layer that follow from what lies where it begins */
  startOn?(params: ValuesOf<P>, start: LayerStart): Partial<ValuesOf<P>>;
  /** the distance, metres, that other layers may be tied to */
  anchor?(params: ValuesOf<P>, content: C): number;
  /** Does and keeps, by `rememberAlone`, what depends on neither the plate's pixels nor the layers below, before these are there. */
  prepare?(input: Omit<LayerInput<ValuesOf<P>, C>, 'picture' | 'below'>): void;
  /** Null while there is nothing to show. */
  build(input: LayerInput<ValuesOf<P>, C>): LayerResult | null;
  /** Light, 0..1, that what it stages leaves to what lies below; null where it takes none. */
  shade?(input: LayerInput<ValuesOf<P>, C>): Plane | null;
  /** Lays what the layer stages over the plate: linear light, premultiplied. */
  paint?(input: LayerInput<ValuesOf<P>, C>): Picture | null;
}

/** Declares a depth layer. Its schema, panel and docs follow from this. */
export const defineLayer = <P extends Params, C = unknown>(definition: LayerDefinition<P, C>): LayerDefinition<P, C> => definition;

export { contentOf } from '../values/content';
