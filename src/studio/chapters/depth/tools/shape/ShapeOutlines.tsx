import type { Shape, ShapePoint } from '../../../../../core/depth/layers/shape/content';
import { insertPoint, nearestOnCurve } from '../../../../../core/depth/layers/shape/edit';
import type { PlateView } from '../../plateView';
import { useView } from '../../../../state/viewStore';
import type { ShapeEdits } from './shapeEdits';
import { pathOf } from './shapeLines';
import { useShapeTool } from './shapeStore';

interface Props {
  readonly shapes: readonly Shape[];
  readonly colourOf: (shape: Shape) => string;
  readonly edits: ShapeEdits;
  readonly view: PlateView;
}

/** The outlines of all shapes: chosen and moved by dragging, given a point by a double click. */
export function ShapeOutlines({ shapes, colourOf, edits, view }: Props) {
  const { drawing, chosen, set } = useShapeTool();
  const move = (event: React.PointerEvent, id: string): void => {
    if (drawing || event.button !== 0 || useView.getState().panning) return;
    const had = chosen.includes(id);
    if (event.shiftKey) set({ chosen: had ? chosen.filter((c) => c !== id) : [...chosen, id], point: null });
    else if (!had) set({ chosen: [id], point: null });
    edits.dragWhole(event, (to, from) => ({ moveX: to.x - from.x, moveY: to.y - from.y }));
  };
  const addPoint = (event: React.MouseEvent, shape: Shape): void => {
    const { index, t } = nearestOnCurve(shape.points, view.pointer(event), edits.aspect);
    edits.put(shape.id, (s) => insertPoint(s, index, t));
    set({ chosen: [shape.id], point: index + 1 });
  };
  return (
    <>
      {shapes.map((s) => {
        const d = pathOf(s.points, view, true);
        const on = chosen.includes(s.id);
        return (
          <g key={s.id}>
            <path d={d} fill="none" stroke="#000" strokeOpacity={0.55} strokeWidth={on ? 4.5 : 3.5} pointerEvents="none" />
            <path
              d={d}
              fill={on ? colourOf(s) : 'transparent'}
              fillOpacity={on ? 0.16 : 1}
              stroke={on ? '#fff' : colourOf(s)}
              strokeWidth={on ? 2 : 1.5}
              style={{ pointerEvents: drawing ? 'none' : 'all', cursor: 'move' }}
              aria-label={s.name}
              onPointerDown={(e) => move(e, s.id)}
              onDoubleClick={(e) => addPoint(e, s)}
            />
          </g>
        );
      })}
    </>
  );
}

/** The curve that is being drawn. */
export function DrawnCurve({ points, view }: { points: readonly ShapePoint[]; view: PlateView }) {
  return (
    <>
      {points.length > 0 && <path d={pathOf(points, view, false)} fill="none" stroke="#fff" strokeWidth={2} strokeDasharray="5 3" />}
      {points.map((p, i) => {
        const at = view.toView(p.x, p.y);
        return <circle key={i} cx={at.x} cy={at.y} r={i === 0 ? 6 : 4} fill={i === 0 ? '#fff' : 'var(--base)'} stroke="#fff" strokeWidth={1.5} />;
      })}
    </>
  );
}
