import { keepPlace } from '../brush/content';
import type { Shape, ShapePoint } from './content';

/** Edits of closed curves in shares of the plate. All return new shapes; where sizes matter, `aspect` is width/height of the plate. */

export interface Place {
  readonly x: number;
  readonly y: number;
}

export const cornerAt = (x: number, y: number): ShapePoint => ({ x: keepPlace(x), y: keepPlace(y), inX: 0, inY: 0, outX: 0, outY: 0, feather: 0 });

const mix = (a: Place, b: Place, t: number): Place => ({ x: a.x + (b.x - a.x) * t, y: a.y + (b.y - a.y) * t });

const controls = (p: ShapePoint, q: ShapePoint): [Place, Place, Place, Place] => [
  p,
  { x: p.x + p.outX, y: p.y + p.outY },
  { x: q.x + q.inX, y: q.y + q.inY },
  q,
];

/** A place on the piece from point `index` to the next. */
export function placeOnCurve(points: readonly ShapePoint[], index: number, t: number): Place {
  const [a, b, c, d] = controls(points[index]!, points[(index + 1) % points.length]!);
  const [ab, bc, cd] = [mix(a, b, t), mix(b, c, t), mix(c, d, t)];
  return mix(mix(ab, bc, t), mix(bc, cd, t), t);
}

/** The place of the outline nearest to a point: piece and t, and the distance in plate heights. */
export function nearestOnCurve(points: readonly ShapePoint[], to: Place, aspect: number): { index: number; t: number; distance: number } {
  const away = (index: number, t: number): number => {
    const p = placeOnCurve(points, index, t);
    return Math.hypot((p.x - to.x) * aspect, p.y - to.y);
  };
  let best = { index: 0, t: 0, distance: Infinity };
  const STEPS = 24;
  for (let index = 0; index < points.length; index++)
    for (let k = 0; k <= STEPS; k++) {
      const distance = away(index, k / STEPS);
      if (distance < best.distance) best = { index, t: k / STEPS, distance };
    }
  for (let width = 1 / STEPS; width > 1e-4; width /= 2)
    for (const t of [best.t - width / 2, best.t + width / 2]) {
      if (t < 0 || t > 1) continue;
      const distance = away(best.index, t);
      if (distance < best.distance) best = { ...best, t, distance };
    }
  return best;
}

/** Adds a point on the outline without changing it (de Casteljau's subdivision). */
export function insertPoint(shape: Shape, index: number, t: number): Shape {
  const n = shape.points.length;
  const p = shape.points[index]!;
  const q = shape.points[(index + 1) % n]!;
  const [a, b, c, d] = controls(p, q);
  const [ab, bc, cd] = [mix(a, b, t), mix(b, c, t), mix(c, d, t)];
  const [left, right] = [mix(ab, bc, t), mix(bc, cd, t)];
  const m = mix(left, right, t);
  const points = shape.points.slice();
  points[index] = { ...p, outX: ab.x - a.x, outY: ab.y - a.y };
  points[(index + 1) % n] = { ...points[(index + 1) % n]!, inX: cd.x - d.x, inY: cd.y - d.y };
  points.splice(index + 1, 0, {
    x: m.x,
    y: m.y,
    inX: left.x - m.x,
    inY: left.y - m.y,
    outX: right.x - m.x,
    outY: right.y - m.y,
    feather: p.feather + (q.feather - p.feather) * t,
  });
  return { ...shape, points };
}

/** Removes a point; null where less than a triangle would be left. */
export const removePoint = (shape: Shape, index: number): Shape | null =>
  shape.points.length <= 3 ? null : { ...shape, points: shape.points.filter((_, i) => i !== index) };

/** Moves one end of a point's handles; the other end turns with it unless `apart`. */
export function moveHandle(point: ShapePoint, end: 'in' | 'out', x: number, y: number, apart: boolean, aspect: number): ShapePoint {
  const moved = end === 'in' ? { ...point, inX: x, inY: y } : { ...point, outX: x, outY: y };
  if (apart) return moved;
  const [ox, oy] = end === 'in' ? [point.outX, point.outY] : [point.inX, point.inY];
  const own = Math.hypot(x * aspect, y);
  const other = Math.hypot(ox * aspect, oy) || own;
  if (own < 1e-9) return moved;
  const [nx, ny] = [(-x * other) / own, (-y * other) / own];
  return end === 'in' ? { ...moved, outX: nx, outY: ny } : { ...moved, inX: nx, inY: ny };
}

/** Turns a point into a corner, or rounds it along its neighbours. */
export function roundPoint(shape: Shape, index: number, round: boolean): Shape {
  const n = shape.points.length;
  const p = shape.points[index]!;
  const [a, b] = [shape.points[(index + n - 1) % n]!, shape.points[(index + 1) % n]!];
  const [dx, dy] = [(b.x - a.x) / 6, (b.y - a.y) / 6];
  const next = round ? { ...p, inX: -dx, inY: -dy, outX: dx, outY: dy } : { ...p, inX: 0, inY: 0, outX: 0, outY: 0 };
  return { ...shape, points: shape.points.map((q, i) => (i === index ? next : q)) };
}

export interface Bounds {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

/** The box round the points of shapes. */
export function boundsOf(shapes: readonly Shape[]): Bounds {
  const xs = shapes.flatMap((s) => s.points.map((p) => p.x));
  const ys = shapes.flatMap((s) => s.points.map((p) => p.y));
  return { left: Math.min(...xs), top: Math.min(...ys), right: Math.max(...xs), bottom: Math.max(...ys) };
}

export interface Transform {
  readonly moveX: number;
  readonly moveY: number;
  readonly scale: number;
  /** degrees, clockwise in the picture */
  readonly turn: number;
}

/** Scales and turns a shape about a place, then moves it; its slope goes with it. */
export function transformShape(shape: Shape, { moveX, moveY, scale, turn }: Transform, about: Place, aspect: number): Shape {
  const [c, s] = [Math.cos((turn * Math.PI) / 180) * scale, Math.sin((turn * Math.PI) / 180) * scale];
  // turned in square units, not in shares of unequal sides
  const vector = (x: number, y: number): Place => ({ x: c * x - (s * y) / aspect, y: s * x * aspect + c * y });
  const place = (x: number, y: number): Place => {
    const v = vector(x - about.x, y - about.y);
    return { x: about.x + v.x + moveX, y: about.y + v.y + moveY };
  };
  const points = shape.points.map((p) => {
    const [at, before, after] = [place(p.x, p.y), vector(p.inX, p.inY), vector(p.outX, p.outY)];
    return { ...p, x: at.x, y: at.y, inX: before.x, inY: before.y, outX: after.x, outY: after.y };
  });
  if (!shape.slope) return { ...shape, points };
  const [from, to] = [place(shape.slope.x0, shape.slope.y0), place(shape.slope.x1, shape.slope.y1)];
  return { ...shape, points, slope: { ...shape.slope, x0: from.x, y0: from.y, x1: to.x, y1: to.y } };
}
