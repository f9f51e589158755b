// A view of a layered plate: depth forward, colour backward.
import { fillLeft, shade } from './viewBackward';
import { project } from './viewForward';
import { ViewPlan } from './viewPlan';

/** Makes the rows of a view that its plan names. */
export function viewRows(plan: usize): void {
  const g = changetype<ViewPlan>(plan);
  const count = <usize>((g.y1 - g.y0) * g.width) * 12;
  memory.fill(g.bandId, 0xff, count);
  for (let p = g.bandQ, end = g.bandQ + count; p < end; p += 4) store<f32>(p, -1);
  project(g);
  shade(g);
  fillLeft(g);
}
