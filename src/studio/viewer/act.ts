import { chapterOf } from '../chapters/registry';
import { shotOf, useDocument } from '../state/documentStore';
import { useSession } from '../state/sessionStore';
import { useView } from '../state/viewStore';
import { probeAt } from '../picture/probe';

/** A click in the picture, at a place of the output 0..1: for what waits for one, or for what its chapter does with clicks. */
export function clickPicture(x: number, y: number): void {
  const shot = shotOf(useDocument.getState());
  const part = useSession.getState().preview;
  const probe = shot && part && probeAt(part, shot, x, y);
  if (!shot || !probe) return;
  const view = useView.getState();
  const chapter = chapterOf(view.chapter);
  const picking = view.picking ?? chapter.picking?.(shot);
  // what is taken may wait for another click
  view.set({ picking: null });
  if (picking) picking.take({ x, y, distance: probe.distance, stack: probe.stack });
  else chapter.click?.(shot, { x, y });
}
