import { useEffect, useRef, type RefObject } from 'react';
import type { Size } from '../../core/picture';
import { drawLast, drawScene } from '../picture/draw';
import type { Placement } from '../picture/geometry';
import { useShot } from '../state/documentStore';
import { factsOf } from '../state/chapterFacts';
import { viewOf } from '../state/views';
import { useSession } from '../state/sessionStore';
import { useViewPart } from '../state/viewStore';
import { useLitPixels } from './useLitPixels';

/** A canvas on which what is looked at is drawn, at the screen's own pixels; until the shot has a picture, its last one from the shelf. */
export function useDrawnPicture(size: Size, output: Size, place: Placement, ratio: number): RefObject<HTMLCanvasElement | null> {
  const canvasRef = useRef<HTMLCanvasElement>(null);
  const shot = useShot();
  // read again as each comes: the effect below draws after every rendering
  useSession((s) => s.preview);
  const lastPicture = useSession((s) => s.lastPicture);
  const view = useViewPart('mode', 'peek', 'overlay', 'wipe', 'check', 'chapter');
  const lit = useLitPixels();
  const compares = factsOf(view.chapter).compares(shot);
  useEffect(() => {
    const canvas = canvasRef.current;
    if (!canvas || size.width === 0) return;
    const frame = requestAnimationFrame(() => {
      const w = Math.round(size.width * ratio);
      const h = Math.round(size.height * ratio);
      if (canvas.width !== w || canvas.height !== h) Object.assign(canvas, { width: w, height: h });
      const part = useSession.getState().preview;
      const { mode, peek, overlay, wipe, check, chapter } = view;
      const unfinished = factsOf(chapter).result === 'plate' && !viewOf(mode).splits;
      if (part) drawScene(canvas, { part, mode, peek, overlay, wipe, check: check !== null, compares, unfinished, lit, output }, place, ratio);
      else if (lastPicture && mode === 'picture' && factsOf(chapter).result === 'picture' && !check)
        drawLast(canvas, lastPicture, output, place, ratio);
    });
    return () => cancelAnimationFrame(frame);
  });
  return canvasRef;
}
