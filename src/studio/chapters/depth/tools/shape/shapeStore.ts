import { create } from 'zustand';
import type { ShapePoint } from '../../../../../core/depth/layers/shape/content';

interface ShapeTool {
  /** points of a curve being drawn; null while curves are edited */
  drawing: readonly ShapePoint[] | null;
  /** chosen shapes, the one last chosen at the end */
  chosen: readonly string[];
  /** chosen point of the last chosen shape */
  point: number | null;
  set(change: Partial<Omit<ShapeTool, 'set'>>): void;
}

/** What is in hand among shapes: not part of the document. */
export const useShapeTool = create<ShapeTool>()((set) => ({ drawing: null, chosen: [], point: null, set: (change) => set(change) }));
