import { arrowStep } from '../controls/arrowStep';
import { useGesture } from '@use-gesture/react';
import type { KeyboardEvent, RefObject, SyntheticEvent } from 'react';
import type { Size } from '../../core/picture';
import { chapterOf } from '../chapters/registry';
import { panBy, zoomAt, type Placement } from '../picture/geometry';
import { probeAt } from '../picture/probe';
import { useShot } from '../state/documentStore';
import type { PictureDrag } from '../state/picking';
import { useSession } from '../state/sessionStore';
import { useView, useViewPart } from '../state/viewStore';
import { follower } from '../state/wobble';
import { clickPicture } from './act';

/** How far an arrow key moves the probe, as a share of the picture. */
const KEY_STEP = 0.01;
/** How far an arrow key with Shift moves the picture, px. */
const PAN_STEP = 40;

/** The place and size of what gestures are made on. */
interface Ground {
  readonly box: RefObject<HTMLElement | null>;
  /** of the view, and of the output in it, px */
  readonly size: Size;
  readonly output: Size;
  readonly place: Placement;
}

/** Pointer, wheel and pinch on the picture: they move the probe, click, drag what a chapter lets be dragged, move and enlarge the picture. */
export function usePictureGestures({ box, size, output, place }: Ground) {
  const shot = useShot();
  const preview = useSession((s) => s.preview);
  const view = useViewPart('zoom', 'chapter', 'panning', 'set');
  const placeOf = (event: Event): { x: number; y: number } | null => outputPlace(event, box.current, place, output);
  /** what a drag that begins here does besides moving the picture about */
  const chapterDrag = (event: Event): PictureDrag | null => {
    const at = placeOf(event);
    const probe = at && shot && preview ? probeAt(preview, shot, at.x, at.y) : null;
    return shot && probe ? (chapterOf(view.chapter).drag?.(shot, probe.distance) ?? null) : null;
  };
  return useGesture(
    {
      onMove: ({ event, dragging }) => {
        if (dragging) return;
        const pointer = placeOf(event);
        view.set({ pointer });
        if (pointer && useView.getState().follow) follower.to(pointer.x, pointer.y);
      },
      onHover: ({ hovering }) => {
        if (!hovering) view.set({ pointer: null });
      },
      onDrag: ({ delta: [dx, dy], movement: [mx, my], tap, event, first, last, memo }) => {
        const held = (first && !view.panning ? chapterDrag(event) : memo) as PictureDrag | null | undefined;
        if (held) {
          if (!tap && (mx !== 0 || my !== 0)) held.move(mx / place.scale, my / place.scale);
          if (last) held.end();
        }
        if (tap) {
          const at = placeOf(event);
          if (at) clickPicture(at.x, at.y);
        } else if (!first && !held) view.set({ zoom: panBy(size, output, view.zoom, dx, dy), pointer: null });
        return held;
      },
      onWheel: ({ event, delta: [dx, dy], pinching }) => {
        if (pinching) return;
        const rect = box.current!.getBoundingClientRect();
        if (event.shiftKey) view.set({ zoom: panBy(size, output, view.zoom, -(dx || dy), 0) });
        else view.set({ zoom: zoomAt(size, output, view.zoom, Math.exp(-dy / 400), event.clientX - rect.left, event.clientY - rect.top) });
      },
      onPinch: ({ delta: [d], origin: [ox, oy] }) => {
        const rect = box.current!.getBoundingClientRect();
        view.set({ zoom: zoomAt(size, output, view.zoom, 1 + d, ox - rect.left, oy - rect.top) });
      },
    },
    { drag: { filterTaps: true, pointer: { keys: false, buttons: [1, 4] } } },
  );
}

/** Keys on the focused picture: arrows move the probe, with Shift the picture, Enter clicks. */
export function usePictureKeys({ size, output }: Pick<Ground, 'size' | 'output'>): (event: KeyboardEvent) => void {
  const view = useViewPart('zoom', 'set');
  return (event) => {
    const { pointer } = useView.getState();
    const arrow = arrowStep(event.key);
    if (!arrow) {
      if (event.key === 'Enter' && pointer) clickPicture(pointer.x, pointer.y);
      return;
    }
    event.preventDefault();
    const [dx, dy] = arrow;
    const from = pointer ?? { x: 0.5, y: 0.5 };
    const clip = (v: number): number => Math.min(0.999, Math.max(0, v));
    if (event.shiftKey) view.set({ zoom: panBy(size, output, view.zoom, -dx * PAN_STEP, -dy * PAN_STEP) });
    else view.set({ pointer: { x: clip(from.x + dx * KEY_STEP), y: clip(from.y + dy * KEY_STEP) } });
  };
}

/** Place of a pointer in the output, 0..1, or null outside it. */
function outputPlace(event: Event | SyntheticEvent, box: HTMLElement | null, place: Placement, output: Size): { x: number; y: number } | null {
  const { clientX, clientY } = event as PointerEvent;
  const rect = box?.getBoundingClientRect();
  if (!rect || clientX === undefined) return null;
  const x = (clientX - rect.left - place.left) / (output.width * place.scale);
  const y = (clientY - rect.top - place.top) / (output.height * place.scale);
  return x >= 0 && y >= 0 && x < 1 && y < 1 ? { x, y } : null;
}
