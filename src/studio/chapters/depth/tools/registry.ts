import { lazy } from 'react';
import { registryOf } from '../../../../core/values/registry';
import type { Layer } from '../../../../core/document/schema';
import { brushHandling } from './brush/brushHandling';
import { flatsHandling } from './flats/flatsHandling';
import type { LayerTool } from './tool';
import { headHandling } from './head/headHandling';
import { personsHandling } from './persons/personsHandling';
import { shapeHandling } from './shape/shapeHandling';

export const toolRegistry = registryOf<LayerTool & { readonly kind: string }>('tool of a layer', [
  { kind: 'estimate', Panel: lazy(() => import('./EstimatePanel').then((m) => ({ default: m.EstimatePanel }))) },
  { kind: 'imported', Panel: lazy(() => import('./ImportedPanel').then((m) => ({ default: m.ImportedPanel }))) },
  {
    kind: 'ground',
    Panel: lazy(() => import('./ground').then((m) => ({ default: m.GroundPanel }))),
    Overlay: lazy(() => import('./ground').then((m) => ({ default: m.GroundOverlay }))),
  },
  {
    kind: 'brush',
    ...brushHandling,
    Panel: lazy(() => import('./brush/BrushPanel').then((m) => ({ default: m.BrushPanel }))),
    Overlay: lazy(() => import('./brush/BrushOverlay').then((m) => ({ default: m.BrushOverlay }))),
  },
  {
    kind: 'shape',
    ...shapeHandling,
    Panel: lazy(() => import('./shape/ShapePanel').then((m) => ({ default: m.ShapePanel }))),
    Overlay: lazy(() => import('./shape/ShapeOverlay').then((m) => ({ default: m.ShapeOverlay }))),
  },
  {
    kind: 'persons',
    ...personsHandling,
    Panel: lazy(() => import('./persons/PersonsPanel').then((m) => ({ default: m.PersonsPanel }))),
    Overlay: lazy(() => import('./persons/PersonsOverlay').then((m) => ({ default: m.PersonsOverlay }))),
  },
  {
    kind: 'head',
    ...headHandling,
    Panel: lazy(() => import('./head/HeadPanel').then((m) => ({ default: m.HeadPanel }))),
    ownRows: true,
    Overlay: lazy(() => import('./head/HeadOverlay').then((m) => ({ default: m.HeadOverlay }))),
  },
  {
    kind: 'flats',
    ...flatsHandling,
    Panel: lazy(() => import('./flats/FlatsPanel').then((m) => ({ default: m.FlatsPanel }))),
    Overlay: lazy(() => import('./flats/FlatsOverlay').then((m) => ({ default: m.FlatsOverlay }))),
  },
]);

/** What a layer's kind brings besides the rows that follow from its definition; nothing where it needs no more. */
export const toolOf = (layer: Pick<Layer, 'kind'> | undefined | null): LayerTool =>
  layer && toolRegistry.knows(layer.kind) ? toolRegistry.of(layer.kind) : {};
