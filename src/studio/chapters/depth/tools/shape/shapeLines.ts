import type { Shape, ShapePoint } from '../../../../../core/depth/layers/shape/content';
import { boundsOf } from '../../../../../core/depth/layers/shape/edit';
import type { PlateView } from '../../plateView';

/** The cubic path of a curve in px of the view. */
export function pathOf(points: readonly ShapePoint[], view: PlateView, closed: boolean): string {
  const at = (x: number, y: number): string => {
    const p = view.toView(x, y);
    return `${p.x.toFixed(1)},${p.y.toFixed(1)}`;
  };
  const parts = [`M${at(points[0]!.x, points[0]!.y)}`];
  for (let i = 1; i < points.length + (closed ? 1 : 0); i++) {
    const [p, q] = [points[i - 1]!, points[i % points.length]!];
    parts.push(`C${at(p.x + p.outX, p.y + p.outY)} ${at(q.x + q.inX, q.y + q.inY)} ${at(q.x, q.y)}`);
  }
  return parts.join('') + (closed ? 'Z' : '');
}

/** The box around shapes in px of the view, with room for its handles. */
export function boxOf(shapes: readonly Shape[], view: PlateView): { left: number; top: number; right: number; bottom: number } {
  const b = boundsOf(shapes);
  const corners = [view.toView(b.left, b.top), view.toView(b.right, b.bottom), view.toView(b.left, b.bottom), view.toView(b.right, b.top)];
  const [xs, ys] = [corners.map((c) => c.x), corners.map((c) => c.y)];
  return { left: Math.min(...xs) - 9, top: Math.min(...ys) - 9, right: Math.max(...xs) + 9, bottom: Math.max(...ys) + 9 };
}

/** The middle of shapes, shares of the plate: what they turn and grow about. */
export function middleOf(shapes: readonly Shape[]): { x: number; y: number } {
  const b = boundsOf(shapes);
  return { x: (b.left + b.right) / 2, y: (b.top + b.bottom) / 2 };
}

/** Places within an outline, from its middle towards its corners. */
export function insideOf(points: readonly ShapePoint[]): { x: number; y: number }[] {
  const middle = { x: points.reduce((s, p) => s + p.x, 0) / points.length, y: points.reduce((s, p) => s + p.y, 0) / points.length };
  return [
    middle,
    ...[0.3, 0.6, 0.85].flatMap((t) => points.map((p) => ({ x: middle.x + t * (p.x - middle.x), y: middle.y + t * (p.y - middle.y) }))),
  ];
}
