import { lazy } from 'react';
import type { Layer } from '../../../../core/document/schema';
import { brushHandling } from './brush/brushHandling';
import { flatsHandling } from './flats/flatsHandling';
import type { LayerTool } from './tool';
import { headHandling } from './head/headHandling';
import { shapeHandling } from './shape/shapeHandling';

const all: Readonly<Record<string, LayerTool>> = {
  estimate: { Panel: lazy(() => import('./EstimatePanel').then((m) => ({ default: m.EstimatePanel }))) },
  imported: { Panel: lazy(() => import('./ImportedPanel').then((m) => ({ default: m.ImportedPanel }))) },
  ground: {
    Panel: lazy(() => import('./ground').then((m) => ({ default: m.GroundPanel }))),
    Overlay: lazy(() => import('./ground').then((m) => ({ default: m.GroundOverlay }))),
  },
  brush: {
    ...brushHandling,
    Panel: lazy(() => import('./brush/BrushPanel').then((m) => ({ default: m.BrushPanel }))),
    Overlay: lazy(() => import('./brush/BrushOverlay').then((m) => ({ default: m.BrushOverlay }))),
  },
  shape: {
    ...shapeHandling,
    Panel: lazy(() => import('./shape/ShapePanel').then((m) => ({ default: m.ShapePanel }))),
    Overlay: lazy(() => import('./shape/ShapeOverlay').then((m) => ({ default: m.ShapeOverlay }))),
  },
  head: {
    ...headHandling,
    Panel: lazy(() => import('./head/HeadPanel').then((m) => ({ default: m.HeadPanel }))),
    ownRows: true,
    Overlay: lazy(() => import('./head/HeadOverlay').then((m) => ({ default: m.HeadOverlay }))),
  },
  flats: {
    ...flatsHandling,
    Panel: lazy(() => import('./flats/FlatsPanel').then((m) => ({ default: m.FlatsPanel }))),
    Overlay: lazy(() => import('./flats/FlatsOverlay').then((m) => ({ default: m.FlatsOverlay }))),
  },
};

/** What a layer's kind brings besides the rows that follow from its definition; nothing where it needs no more. */
export const toolOf = (layer: Pick<Layer, 'kind'> | undefined | null): LayerTool => (layer && all[layer.kind]) ?? {};
