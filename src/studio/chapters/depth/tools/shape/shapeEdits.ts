import type { Shape, ShapePoint, ShapesContent } from '../../../../../core/depth/layers/shape/content';
import { removePoint, transformShape, type Transform } from '../../../../../core/depth/layers/shape/edit';
import type { Layer, Shot } from '../../../../../core/document/schema';
import { keyGesture, type Gesture } from '../../../../state/documentStore';
import { changeContent, contentIn, dragLayer, isLocked } from '../../layerActions';
import type { PlateView } from '../../plateView';
import { middleOf } from './shapeLines';
import { useShapeTool } from './shapeStore';

export const STILL: Transform = { moveX: 0, moveY: 0, scale: 1, turn: 0 };

export const withPoint = (shape: Shape, index: number, point: ShapePoint): Shape => ({
  ...shape,
  points: shape.points.map((p, i) => (i === index ? point : p)),
});

interface Place {
  readonly x: number;
  readonly y: number;
}

/** What is done to the shapes of a layer by hand. */
export interface ShapeEdits {
  /** drags: what each shape becomes, told from where the pointer began and where it is */
  drag(event: React.PointerEvent, next: (shape: Shape, to: Place, from: Place, event: PointerEvent) => Shape, done?: (moved: boolean) => void): void;
  /** drags the chosen shapes as a whole */
  dragWhole(event: React.PointerEvent, by: (to: Place, from: Place, about: Place) => Partial<Transform>): void;
  /** changes one shape at once, or as a part of a gesture */
  put(id: string, next: (shape: Shape) => Shape, gesture?: Gesture): void;
  /** steps one shape by keys; `what` names the thing that is stepped */
  step(id: string, what: string, next: (shape: Shape) => Shape): void;
  /** steps the chosen shapes as a whole by keys */
  stepWhole(what: string, by: Partial<Transform>): void;
  /** one px of the plate, in shares of it */
  readonly px: Place;
  readonly aspect: number;
}

export function shapeEdits(shot: Shot, layer: Layer, view: PlateView): ShapeEdits {
  const aspect = shot.plate.width / shot.plate.height;
  const { shapes } = contentIn<ShapesContent>(layer);
  const put: ShapeEdits['put'] = (id, next, gesture) => {
    if (isLocked(layer)) return;
    changeContent<ShapesContent>(layer.id, (c) => void (c.shapes = c.shapes.map((s) => (s.id === id ? next(s) : s))), gesture);
  };
  const drag: ShapeEdits['drag'] = (event, next, done) => {
    const from = view.pointer(event);
    dragLayer(
      event,
      layer,
      (e) => {
        const to = view.pointer(e);
        return { content: { shapes: shapes.map((s) => next(s, to, from, e)) } };
      },
      done,
    );
  };
  const chosenShapes = (): Shape[] => shapes.filter((s) => useShapeTool.getState().chosen.includes(s.id));
  return {
    aspect,
    px: { x: 1 / shot.plate.width, y: 1 / shot.plate.height },
    put,
    drag,
    dragWhole: (event, by) => {
      const whole = chosenShapes();
      const ids = new Set(whole.map((s) => s.id));
      const about = middleOf(whole);
      drag(event, (s, to, from) => (ids.has(s.id) ? transformShape(s, { ...STILL, ...by(to, from, about) }, about, aspect) : s));
    },
    step: (id, what, next) => put(id, next, keyGesture(`${id}:${what}`)),
    stepWhole: (what, by) => {
      if (isLocked(layer)) return;
      const ids = new Set(useShapeTool.getState().chosen);
      const change = (c: ShapesContent): void => {
        // from what they are by now: keys may follow each other faster than the page draws
        const about = middleOf(c.shapes.filter((s) => ids.has(s.id)));
        c.shapes = c.shapes.map((s) => (ids.has(s.id) ? transformShape(s, { ...STILL, ...by }, about, aspect) : s));
      };
      changeContent<ShapesContent>(layer.id, change, keyGesture(`${layer.id}:${what}`));
    },
  };
}

/** Deletes the chosen point, or where none is chosen the chosen shapes. */
export function deleteChosen(layer: Layer): void {
  const { chosen, point, set } = useShapeTool.getState();
  if (chosen.length === 0 || isLocked(layer)) return;
  const active = chosen[chosen.length - 1]!;
  changeContent<ShapesContent>(layer.id, (c) => {
    const at = c.shapes.findIndex((s) => s.id === active);
    const smaller = point !== null && at >= 0 ? removePoint(c.shapes[at]!, point) : null;
    if (smaller) c.shapes[at] = smaller;
    else c.shapes = c.shapes.filter((s) => !chosen.includes(s.id));
  });
  if (point === null) set({ chosen: [] });
  set({ point: null });
}
