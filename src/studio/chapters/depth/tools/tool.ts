import type { ComponentType } from 'react';
import type { Layer, Shot } from '../../../../core/document/schema';
import type { Gesture } from '../../../state/documentStore';
import type { Picking } from '../../../state/picking';
import type { OverlayProps } from '../plateView';

/** Something in a depth layer that lies at a distance and is moved along the rail. */
export interface RailDistance {
  readonly id: string;
  readonly label: string;
  readonly distance: number;
  readonly chosen: boolean;
  set(distance: number, gesture: Gesture): void;
}

/** What a kind of layer does besides its panel and what it lays over the picture: light enough to be there from the start. */
export interface LayerHandling {
  /** what it has on the rail; a hook */
  useDistances?(shot: Shot, layer: Layer): RailDistance[];
  /** a click in the picture, at a place of the output, 0..1 */
  click?(shot: Shot, layer: Layer, at: { readonly x: number; readonly y: number }): void;
  /** the distance that can be picked for it */
  readonly picking?: Picking;
  /** keys while it is in hand */
  readonly keys?: Readonly<Record<string, () => void>>;
}

/** What a kind of layer brings: how it is handled, and what is seen of it, which comes when it is first looked at. */
export interface LayerTool extends LayerHandling {
  /** below its rows, or in their place where `ownRows` */
  readonly Panel?: ComponentType<{ readonly layer: Layer }>;
  readonly ownRows?: boolean;
  /** over the picture while the layer is chosen in Depth */
  readonly Overlay?: ComponentType<OverlayProps>;
}

/** A distance as the rail sets it. */
export const tidyDistance = (distance: number): number => Number(Math.min(1e6, Math.max(0.01, distance)).toPrecision(4));
