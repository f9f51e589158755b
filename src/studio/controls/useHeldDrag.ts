import { useDrag } from '@use-gesture/react';
import { beginGesture, type Gesture } from '../state/documentStore';

/** What the browser says of the pointer. */
export type PointerAt = Pick<PointerEvent, 'clientX' | 'clientY' | 'shiftKey' | 'stopPropagation'>;

interface Held<T> {
  readonly from: T;
  readonly gesture: Gesture;
}

interface Hold<T> {
  /** the pointer went down: what the drag begins with, or null where it is none */
  readonly grab: (event: PointerAt, taken: Element) => T | null;
  /** it is so many px from where it went down */
  readonly move: (from: T, by: { readonly x: number; readonly y: number }, gesture: Gesture, event: PointerAt) => void;
  /** it was let go; before what was changed is kept */
  readonly done?: () => void;
}

/** Something that is taken hold of and dragged: all that one drag changes is one step of undo, and nothing where the browser breaks it off. */
export function useHeldDrag<T>({ grab, move, done }: Hold<T>) {
  return useDrag(
    ({ first, last, canceled, event: raw, currentTarget, xy: [x, y], initial: [x0, y0], memo }): Held<T> | undefined => {
      const event = raw as PointerEvent;
      if (first) {
        const from = grab(event, currentTarget as Element);
        if (from === null) return undefined;
        event.stopPropagation();
        return { from, gesture: beginGesture() };
      }
      const held = memo as Held<T> | undefined;
      if (!held) return undefined;
      event.stopPropagation();
      if (!last) {
        move(held.from, { x: x - x0, y: y - y0 }, held.gesture, event);
        return held;
      }
      done?.();
      if (canceled) held.gesture.cancel();
      else held.gesture.commit();
      return undefined;
    },
    { pointer: { keys: false } },
  );
}
