import type { KeyboardCoordinateGetter } from '@dnd-kit/core';
import { sortableKeyboardCoordinates } from '@dnd-kit/sortable';

/** A place on the page, px. */
interface Box {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

/** How far `to` lies from `from` in the direction of an arrow key, as a share of its own size; null of any other key. */
function ahead(key: string, from: Box, to: Box): number | null {
  const [right, down] = [(to.left - from.left) / to.width, (to.top - from.top) / to.height];
  switch (key) {
    case 'ArrowRight':
      return right;
    case 'ArrowLeft':
      return -right;
    case 'ArrowDown':
      return down;
    case 'ArrowUp':
      return -down;
    default:
      return null;
  }
}

/** Whether something lies where an arrow key points: by half its size, so that a card of the next row that is a fraction of a px aside does not. */
export const liesThere = (key: string, from: Box, to: Box): boolean => (ahead(key, from, to) ?? 0) > 0.5;

/** Where an arrow key carries what was picked up: to the nearest of what lies in its direction. */
export const arrowTarget: KeyboardCoordinateGetter = (event, { context, ...rest }) => {
  const { collisionRect, droppableRects } = context;
  if (!collisionRect) return undefined;
  const there = new Map([...droppableRects].filter(([, rect]) => liesThere(event.code, collisionRect, rect)));
  return sortableKeyboardCoordinates(event, { ...rest, context: { ...context, droppableRects: there } });
};
