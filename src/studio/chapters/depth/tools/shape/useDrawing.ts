import { useEffect } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { shapeSchema, type ShapePoint, type ShapesContent } from '../../../../../core/depth/layers/shape/content';
import { cornerAt, moveHandle } from '../../../../../core/depth/layers/shape/edit';
import { newId } from '../../../../../core/document/defaults';
import type { Layer, Shot } from '../../../../../core/document/schema';
import { useSession } from '../../../../state/sessionStore';
import { useView } from '../../../../state/viewStore';
import { rawUnder } from '../../../../picture/probe';
import { changeContent } from '../../layerActions';
import { startDrag, type PlateView } from '../../plateView';
import { deleteChosen } from './shapeEdits';
import { insideOf } from './shapeLines';
import { useShapeTool } from './shapeStore';

/** How near the first point a click closes a curve, px. */
const CLOSES = 12;

/** A square of a fifth of the plate's height in its middle. */
const squareIn = (aspect: number): ShapePoint[] =>
  [
    [-1, -1],
    [1, -1],
    [1, 1],
    [-1, 1],
  ].map(([x, y]) => cornerAt(0.5 + (0.1 * x!) / aspect, 0.5 + 0.1 * y!));

/** Drawing of closed curves: clicks set corners, pulling rounds them, Enter or a click on the first point closes, Backspace takes one back. */
export function useDrawing(shot: Shot, layer: Layer, view: PlateView): (event: React.PointerEvent) => void {
  const { drawing, chosen, set } = useShapeTool();
  const aspect = shot.plate.width / shot.plate.height;
  useEffect(() => () => useShapeTool.getState().set({ drawing: null, point: null }), []);

  const close = (points: readonly ShapePoint[]): void => {
    set({ drawing: null });
    if (points.length < 3) return;
    const id = newId();
    // as near as what it is drawn on
    const nearness = rawUnder(shot, useSession.getState().preview, insideOf(points)) ?? undefined;
    changeContent<ShapesContent>(
      layer.id,
      (c) => void c.shapes.push(shapeSchema.parse({ id, name: `Shape ${c.shapes.length + 1}`, points, nearness })),
    );
    set({ chosen: [id], point: null });
  };
  // with no corner yet, Enter lays a square in the middle, to be moved by keys
  useHotkeys('enter', () => drawing && close(drawing.length > 0 ? drawing : squareIn(aspect)), {
    enabled: drawing !== null,
    // the button that began the drawing has the focus still
    preventDefault: true,
  });
  useHotkeys('escape', () => set(drawing ? { drawing: null } : { chosen: [], point: null }));
  useHotkeys(
    'delete,backspace',
    () => {
      if (drawing) set({ drawing: drawing.slice(0, -1) });
      else deleteChosen(layer);
    },
    { enabled: drawing !== null || chosen.length > 0 },
  );

  return (event) => {
    if (event.button !== 0 || !drawing || useView.getState().panning) return;
    const p = view.pointer(event);
    const first = drawing[0] && view.toView(drawing[0].x, drawing[0].y);
    const at = view.toView(p.x, p.y);
    if (first && drawing.length >= 3 && Math.hypot(first.x - at.x, first.y - at.y) < CLOSES) {
      event.stopPropagation();
      close(drawing);
      return;
    }
    const points = [...drawing, cornerAt(p.x, p.y)];
    set({ drawing: points });
    // pulling while the pointer is down rounds the point
    startDrag(event, (e) => {
      const q = view.pointer(e);
      const last = points[points.length - 1]!;
      set({ drawing: [...points.slice(0, -1), moveHandle(last, 'out', q.x - last.x, q.y - last.y, false, aspect)] });
    });
  };
}
