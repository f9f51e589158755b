import type { Affine } from '../raster/resample';
import type { Picture, Plane } from '../raster/picture';
import type { Params, ValuesOf } from '../values/params';

/** What a layer works with; everything is in the framed output at the size being rendered. */
export interface LayerInput<V> {
  readonly width: number;
  readonly height: number;
  readonly params: V;
  /** from output pixels to plate pixels */
  readonly framing: Affine;
  readonly plateSize: { readonly width: number; readonly height: number };
  /** the map this layer brings (estimate or file) in plate framing, if it has arrived */
  readonly map: Plane | null;
  /** the framed plate, for layers that follow its edges */
  readonly picture: Picture;
  readonly frame: number;
}

export interface LayerDefinition<P extends Params = Params> {
  readonly kind: string;
  readonly label: string;
  readonly params: P;
  /** where the layer's map comes from */
  readonly source: 'estimate' | 'media' | 'none';
  summary(params: ValuesOf<P>): string;
  /** Raw nearness 0..1, or null while there is nothing to show. */
  build(input: LayerInput<ValuesOf<P>>): Plane | null;
}

/** Declares a depth layer. Its schema, panel and docs follow from this. */
export const defineLayer = <P extends Params>(definition: LayerDefinition<P>): LayerDefinition<P> => definition;
