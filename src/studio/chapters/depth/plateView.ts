import type { Layer, Shot } from '../../../core/document/schema';
import { applyAffine, invertAffine } from '../../../core/raster/resample';
import { framingAffine } from '../../../core/document/framing';
import type { Placement } from '../../picture/geometry';

/** Where the plate lies in the view: for what is drawn over the picture. */
export interface PlateView {
  /** size of the view, px */
  readonly width: number;
  readonly height: number;
  /** screen px per px of the plate */
  readonly scale: number;
  /** shares of the plate to px of the view */
  toView(x: number, y: number): { x: number; y: number };
  /** px of the view to shares of the plate */
  toPlate(x: number, y: number): { x: number; y: number };
  /** a pointer's place, shares of the plate */
  pointer(event: { clientX: number; clientY: number }): { x: number; y: number };
}

export interface OverlayProps {
  readonly shot: Shot;
  readonly layer: Layer;
  readonly view: PlateView;
}

export function plateViewOf(shot: Shot, place: Placement, size: { width: number; height: number }, box: () => DOMRect): PlateView {
  const { framing } = shot.settings;
  const toPlatePx = framingAffine(shot.plate, framing, framing);
  const toOutput = invertAffine(toPlatePx);
  const toPlate = (x: number, y: number): { x: number; y: number } => {
    const p = applyAffine(toPlatePx, (x - place.left) / place.scale, (y - place.top) / place.scale);
    return { x: p.x / shot.plate.width, y: p.y / shot.plate.height };
  };
  return {
    ...size,
    scale: place.scale * Math.hypot(toOutput.a, toOutput.d),
    toView: (x, y) => {
      const o = applyAffine(toOutput, x * shot.plate.width, y * shot.plate.height);
      return { x: place.left + o.x * place.scale, y: place.top + o.y * place.scale };
    },
    toPlate,
    pointer: ({ clientX, clientY }) => {
      const rect = box();
      return toPlate(clientX - rect.left, clientY - rect.top);
    },
  };
}

/** Follows a pointer from here to where it is let go, at most once a frame. `cancel` where the system takes the pointer away, `end` where not given. */
export function startDrag(event: React.PointerEvent, move: (event: PointerEvent) => void, end?: (moved: boolean) => void, cancel?: () => void): void {
  event.stopPropagation();
  let latest: PointerEvent | null = null;
  let frame = 0;
  let moved = false;
  const { clientX, clientY, pointerId } = event;
  const flush = (): void => {
    frame = 0;
    if (latest) move(latest);
    latest = null;
  };
  const onMove = (e: PointerEvent): void => {
    if (e.pointerId !== pointerId) return;
    if (!moved && Math.hypot(e.clientX - clientX, e.clientY - clientY) < 3) return;
    moved = true;
    latest = e;
    frame ||= requestAnimationFrame(flush);
  };
  const onUp = (e: PointerEvent): void => {
    if (e.pointerId !== pointerId) return;
    window.removeEventListener('pointermove', onMove);
    window.removeEventListener('pointerup', onUp);
    window.removeEventListener('pointercancel', onUp);
    if (frame) cancelAnimationFrame(frame);
    if (e.type === 'pointercancel' && cancel) {
      cancel();
      return;
    }
    flush();
    end?.(moved);
  };
  window.addEventListener('pointermove', onMove);
  window.addEventListener('pointerup', onUp);
  window.addEventListener('pointercancel', onUp);
}
