import type { Shot } from '../../core/document/schema';
import type { ViewSpec, FramePart } from '../../engine/messages/protocol';
import { useSession } from './sessionStore';
import { useView, type Chapter, type ViewMode } from './viewStore';

/** What a wipe compares: the picture before and after, depth before and after clean-up, or where none is on the plate and its depth. */
export type Compared = 'picture' | 'clean-up' | 'depth';

export const comparedIn = (chapter: Chapter, shot: Shot | null): Compared =>
  chapter !== 'depth' ? 'picture' : shot?.settings.cleanup.some((c) => c.on) ? 'clean-up' : 'depth';

/** What lies on either side of a wipe. */
export const SIDES: Readonly<Record<Compared, readonly [FramePart, FramePart]>> = {
  picture: ['plate', 'picture'],
  'clean-up': ['before', 'depth'],
  depth: ['plate', 'depth'],
};

/** The pictures that a view is drawn of. */
export function partsSeen(mode: ViewMode, chapter: Chapter, compared: Compared): readonly FramePart[] {
  // under Plate the picture is seen before any effect
  const result = chapter === 'plate' ? 'plate' : 'picture';
  if (mode === 'wipe') return SIDES[compared];
  return mode === 'depth' ? ['depth'] : mode === 'overlay' ? [result, 'depth'] : [result];
}

/** How frames are looked at while they play. */
export function lookNow(shot: Shot): ViewSpec {
  const { mode, chapter, depthColours } = useView.getState();
  const { preview } = useSession.getState();
  return {
    parts: partsSeen(mode, chapter, comparedIn(chapter, shot)),
    colours: depthColours,
    hues: depthColours === 'grey' ? null : (preview?.hues ?? null),
  };
}
