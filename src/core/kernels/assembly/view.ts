// A view of a layered plate: depth forward, colour backward.
import { fillLeft, shade } from './viewBackward';
import { project } from './viewForward';
import { planeOf, ViewPlan } from './viewPlan';

/** Makes the rows of a view that its plan names. */
export function viewRows(plan: usize): void {
  const g = changetype<ViewPlan>(plan);
  const count: usize = 3 * planeOf(g);
  memory.fill(g.bandId, 0xff, count);
  // below zero: farther than anything
  memory.fill(g.bandQ, 0xbf, count);
  project(g);
  shade(g);
  fillLeft(g);
}
