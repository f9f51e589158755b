import type { Shape, ShapePoint } from '../../../../../core/depth/layers/shape/content';
import { moveHandle, roundPoint } from '../../../../../core/depth/layers/shape/edit';
import type { PlateView } from '../../plateView';
import { Handle } from '../Handle';
import { withPoint, type ShapeEdits } from './shapeEdits';
import { useShapeTool } from './shapeStore';

interface Props {
  readonly shape: Shape;
  readonly edits: ShapeEdits;
  readonly view: PlateView;
}

const ENDS = ['in', 'out'] as const;

/** Lines from a point to the ends of its two handles. */
export function HandleLines({ point: p, view }: { point: ShapePoint; view: PlateView }) {
  const at = view.toView(p.x, p.y);
  return (
    <>
      {[view.toView(p.x + p.inX, p.y + p.inY), view.toView(p.x + p.outX, p.y + p.outY)].map((end, i) => (
        <line key={i} x1={at.x} y1={at.y} x2={end.x} y2={end.y} stroke="#fff" strokeWidth={1} />
      ))}
    </>
  );
}

/** The points of a shape, and the handles of the chosen one. */
export function PointHandles({ shape, edits, view }: Props) {
  const { point: chosen, set } = useShapeTool();
  const of = (id: string, next: (s: Shape) => Shape) => (s: Shape) => (s.id === id ? next(s) : s);
  const move = (event: React.PointerEvent, index: number): void => {
    if (event.button === 0) set({ point: index });
    const p = shape.points[index]!;
    edits.drag(event, (s, to, from) => of(shape.id, (q) => withPoint(q, index, { ...p, x: p.x + to.x - from.x, y: p.y + to.y - from.y }))(s));
  };
  const pull = (event: React.PointerEvent, index: number, end: 'in' | 'out'): void => {
    const p = shape.points[index]!;
    edits.drag(event, (s, to, _, e) =>
      of(shape.id, (q) => withPoint(q, index, moveHandle(p, end, to.x - p.x, to.y - p.y, e.altKey, edits.aspect)))(s),
    );
  };
  const stepPoint = (dx: number, dy: number, index: number): void =>
    edits.step(shape.id, `point ${index}`, (s) => {
      const p = s.points[index]!;
      return withPoint(s, index, { ...p, x: p.x + dx * edits.px.x, y: p.y + dy * edits.px.y });
    });
  const stepHandle = (dx: number, dy: number, index: number, end: 'in' | 'out'): void =>
    edits.step(shape.id, `handle ${index}`, (s) => {
      const p = s.points[index]!;
      const [x, y] = end === 'in' ? [p.inX, p.inY] : [p.outX, p.outY];
      return withPoint(s, index, moveHandle(p, end, x + dx * edits.px.x, y + dy * edits.px.y, false, edits.aspect));
    });
  const active = chosen === null ? undefined : shape.points[chosen];
  return (
    <>
      {shape.points.map((p, i) => (
        <Handle
          key={i}
          small
          at={view.toView(p.x, p.y)}
          chosen={i === chosen}
          label={`Point ${i + 1} of ${shape.name}`}
          onPointerDown={(e) => move(e, i)}
          onFocus={() => set({ point: i })}
          onStep={(dx, dy) => stepPoint(dx, dy, i)}
          onDoubleClick={() => edits.put(shape.id, (s) => roundPoint(s, i, p.outX === 0 && p.outY === 0 && p.inX === 0 && p.inY === 0))}
        />
      ))}
      {active &&
        chosen !== null &&
        ENDS.map((end) => {
          const [dx, dy] = end === 'in' ? [active.inX, active.inY] : [active.outX, active.outY];
          if (dx === 0 && dy === 0) return null;
          return (
            <Handle
              key={end}
              small
              at={view.toView(active.x + dx, active.y + dy)}
              label={`${end === 'in' ? 'First' : 'Second'} handle of point ${chosen + 1}`}
              onPointerDown={(e) => pull(e, chosen, end)}
              onStep={(x, y) => stepHandle(x, y, chosen, end)}
            />
          );
        })}
    </>
  );
}
