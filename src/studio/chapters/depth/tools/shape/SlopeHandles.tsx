import type { Shape } from '../../../../../core/depth/layers/shape/content';
import type { PlateView } from '../../plateView';
import { Handle } from '../Handle';
import type { ShapeEdits } from './shapeEdits';

type Slope = NonNullable<Shape['slope']>;

/** The direction along which a shape goes from one distance to another. */
export function SlopeLine({ slope, view }: { slope: Slope; view: PlateView }) {
  const [a, b] = [view.toView(slope.x0, slope.y0), view.toView(slope.x1, slope.y1)];
  return <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} stroke="#fff" strokeWidth={1.5} strokeDasharray="1 4" strokeLinecap="round" />;
}

/** Its two ends. */
export function SlopeHandles({ shape, slope, edits, view }: { shape: Shape; slope: Slope; edits: ShapeEdits; view: PlateView }) {
  const placed = (s: Shape, end: 0 | 1, x: number, y: number): Shape =>
    s.slope ? { ...s, slope: { ...s.slope, ...(end === 0 ? { x0: x, y0: y } : { x1: x, y1: y }) } } : s;
  const ends = [
    { end: 0 as const, x: slope.x0, y: slope.y0, label: 'First distance holds here' },
    { end: 1 as const, x: slope.x1, y: slope.y1, label: 'Second distance holds here' },
  ];
  return (
    <>
      {ends.map(({ end, x, y, label }) => (
        <Handle
          key={end}
          at={view.toView(x, y)}
          label={label}
          onPointerDown={(e) => edits.drag(e, (s, to) => (s.id === shape.id ? placed(s, end, to.x, to.y) : s))}
          onStep={(dx, dy) =>
            edits.step(shape.id, `slope ${end}`, (s) => {
              const [fromX, fromY] = end === 0 ? [s.slope?.x0 ?? x, s.slope?.y0 ?? y] : [s.slope?.x1 ?? x, s.slope?.y1 ?? y];
              return placed(s, end, fromX + dx * edits.px.x, fromY + dy * edits.px.y);
            })
          }
        />
      ))}
    </>
  );
}
