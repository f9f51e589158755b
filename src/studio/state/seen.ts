import type { Shot } from '../../core/document/schema';
import type { FramePart, ViewSpec } from '../../engine/messages/protocol';
import { factsOf, type Chapter, type Compared } from './chapterFacts';
import { useSession } from './sessionStore';
import { viewOf, type ViewMode } from './views';
import { useView } from './viewStore';

/** What lies on either side of a wipe. */
export const SIDES: Readonly<Record<Compared, readonly [FramePart, FramePart]>> = {
  picture: ['plate', 'picture'],
  'clean-up': ['before', 'depth'],
  depth: ['plate', 'depth'],
};

/** The pictures that a view is drawn of. */
export const partsSeen = (mode: ViewMode, chapter: Chapter, compared: Compared): readonly FramePart[] =>
  viewOf(mode).parts({ result: factsOf(chapter).result, compared: SIDES[compared] });

/** How frames are looked at while they play. */
export function viewNow(shot: Shot): ViewSpec {
  const { mode, chapter, depthColours } = useView.getState();
  const { preview } = useSession.getState();
  return {
    parts: partsSeen(mode, chapter, factsOf(chapter).compares(shot)),
    colours: depthColours,
    hues: depthColours === 'grey' ? null : (preview?.hues ?? null),
  };
}
