import type { Picture, Plane } from '../../picture';
import type { Params, ValuesOf } from '../../values/params';

export interface CleanupInput<V> {
  /** raw map 0..1; NaN where nothing is known. Not to be written */
  readonly map: Plane;
  /** the framed plate at the same size */
  readonly picture: Picture;
  readonly params: V;
  /** px of this rendering per px of the output */
  readonly pxScale: number;
  /** true where maps that are enlarged have had this step before they were */
  readonly enlarged?: boolean;
}

export interface CleanupDefinition<P extends Params = Params> {
  readonly kind: string;
  readonly label: string;
  readonly help: string;
  readonly params: P;
  apply(input: CleanupInput<ValuesOf<P>>): Plane;
  /**
   * For steps that mend what a file lacks: the same on the map of a layer before it is enlarged. `nearness` tells the raw nearness
   * 0..1 that a value of the map becomes.
   */
  mend?(map: Plane, params: ValuesOf<P>, nearness: (value: number) => number): Plane;
  /** What it did, in a figure with its unit. */
  figure(before: Plane, after: Plane, picture: Picture): string;
}

/** Declares a clean-up step. Its schema, panel and docs follow from this. */
export const defineCleanup = <P extends Params>(definition: CleanupDefinition<P>): CleanupDefinition<P> => definition;
