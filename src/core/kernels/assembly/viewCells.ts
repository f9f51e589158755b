// Cells of a view: what surfaces are put into. The readable twin is core/camera/viewForward.ts.
import { max, planeOf, ViewPlan } from './viewPlan';

/**
 * Puts a surface of inverse distance v into one cell: the nearest surfaces are kept, those within tau of each other are one. `plane`: bytes
 * from the nearest surface of a cell to the next nearest.
 */
@inline function put(Q: usize, I: usize, plane: usize, id: i32, v: f32, tau: f32): void {
  const q0 = load<f32>(Q);
  if (v > q0) {
    const i0 = load<i32>(I);
    if (v - q0 > tau && i0 >= 0) {
      store<f32>(Q + 2 * plane, load<f32>(Q + plane));
      store<i32>(I + 2 * plane, load<i32>(I + plane));
      store<f32>(Q + plane, q0);
      store<i32>(I + plane, i0);
    }
    store<f32>(Q, v);
    store<i32>(I, id);
  } else if (q0 - v > tau) {
    const q1 = load<f32>(Q + plane);
    if (v > q1) {
      const i1 = load<i32>(I + plane);
      if (v - q1 > tau && i1 >= 0) {
        store<f32>(Q + 2 * plane, q1);
        store<i32>(I + 2 * plane, i1);
      }
      store<f32>(Q + plane, v);
      store<i32>(I + plane, id);
    } else if (v > load<f32>(Q + 2 * plane) && q1 - v > tau) {
      store<f32>(Q + 2 * plane, v);
      store<i32>(I + 2 * plane, id);
    }
  }
}

/** Puts a surface into a rectangle of cells, its ends included. */
@inline export function fill(
  g: ViewPlan, id: i32, fromX: i32, toX: i32, fromY: i32, toY: i32, x: f32, y: f32, q: f32, slopeX: f32, slopeY: f32,
): void {
  if (fromX < 0) fromX = 0;
  if (toX > g.width - 1) toX = g.width - 1;
  if (fromY < g.y0) fromY = g.y0;
  if (toY > g.y1 - 1) toY = g.y1 - 1;
  const plane = planeOf(g);
  for (let b = fromY; b <= toY; b++) {
    const row = q + (<f32>b + 0.5 - y) * slopeY;
    let at = <usize>((b - g.y0) * g.width + fromX) << 2;
    for (let a = fromX; a <= toX; a++, at += 4)
      put(g.bandQ + at, g.bandId + at, plane, id, max(0, row + (<f32>a + 0.5 - x) * slopeX), g.tau);
  }
}

/** Puts a surface into the cells of a rectangle. */
export function splat(
  g: ViewPlan, id: i32, left: f32, right: f32, top: f32, bottom: f32, x: f32, y: f32, q: f32, slopeX: f32, slopeY: f32,
): void {
  const fromX = <i32>Mathf.ceil(left - 0.52), toX = <i32>Mathf.ceil(right - 0.48) - 1;
  const fromY = <i32>Mathf.ceil(top - 0.52), toY = <i32>Mathf.ceil(bottom - 0.48) - 1;
  fill(g, id, fromX, toX, fromY, toY, x, y, q, slopeX, slopeY);
}

