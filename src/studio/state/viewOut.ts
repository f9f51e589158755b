import type { Shot } from '../../core/document/schema';
import type { ViewSpec } from '../../engine/messages/protocol';
import { viewNow } from './seen';
import { isShown } from './showOut';

/** How frames are looked at, here and in windows that show the picture alone: those want it whatever is looked at here. */
export function viewOut(shot: Shot): ViewSpec {
  const view = viewNow(shot);
  return isShown() && !view.parts.includes('picture') ? { ...view, parts: [...view.parts, 'picture'] } : view;
}
