import type { Layer } from '../../../../core/document/schema';
import type { OverlayProps } from '../plateView';
import { BrushOverlay } from './brush/BrushOverlay';
import { BrushPanel } from './brush/BrushPanel';
import { EstimatePanel } from './EstimatePanel';
import { FlatsOverlay } from './flats/FlatsOverlay';
import { FlatsPanel } from './flats/FlatsPanel';
import { GroundOverlay, GroundPanel } from './ground';
import { HeadOverlay } from './head/HeadOverlay';
import { HeadPanel } from './head/HeadPanel';
import { ImportedPanel } from './ImportedPanel';
import { ShapeOverlay } from './shape/ShapeOverlay';
import { ShapePanel } from './shape/ShapePanel';

/** What a kind of layer brings besides the rows that follow from its definition. */
export interface LayerTool {
  /** below its rows, or in their place where `ownRows` */
  readonly Panel?: (props: { layer: Layer }) => React.ReactNode;
  readonly ownRows?: boolean;
  /** over the picture while the layer is chosen in Depth */
  readonly Overlay?: (props: OverlayProps) => React.ReactNode;
}

export const layerTools: Readonly<Record<string, LayerTool>> = {
  estimate: { Panel: EstimatePanel },
  imported: { Panel: ImportedPanel },
  ground: { Panel: GroundPanel, Overlay: GroundOverlay },
  brush: { Panel: BrushPanel, Overlay: BrushOverlay },
  shape: { Panel: ShapePanel, Overlay: ShapeOverlay },
  head: { Panel: HeadPanel, ownRows: true, Overlay: HeadOverlay },
  flats: { Panel: FlatsPanel, Overlay: FlatsOverlay },
};
