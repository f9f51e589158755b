import Box from '@mui/material/Box';
import { useEffect, useRef } from 'react';
import type { PlayedFrame } from '../../engine/messages/protocol';
import { shotOf, useDocument } from '../state/documentStore';
import { player } from '../state/playback';
import { factsOf } from '../state/chapterFacts';
import { liveShown } from '../state/liveStore';
import { useSession } from '../state/sessionStore';
import { showOut } from '../state/showOut';
import { useView } from '../state/viewStore';
import { drawPlayed } from '../picture/draw';

/** Frames that are shown in a loop, or one after the other as they come. */
export interface Instead {
  /** how many there are */
  of(): number;
  at(frame: number): ImageBitmap | null;
  readonly fps: number;
}

interface Props {
  readonly place: { readonly left: number; readonly top: number; readonly scale: number };
  readonly output: { readonly width: number; readonly height: number };
  /** which frames are shown instead of those of the shot */
  readonly instead: Instead | null;
}

/** What is to be seen at a time, ms; null: the picture itself. */
function frameAt(now: number, instead: Instead | null): PlayedFrame | null {
  if (instead) {
    const of = instead.of();
    if (of === 0) return null;
    const wanted = Math.floor((now / 1000) * instead.fps) % of;
    // what is not there yet is stood for by the last one that is
    for (let k = 0; k < of; k++) {
      const found = instead.at((wanted - k + of) % of);
      if (found) return { picture: found };
    }
    return null;
  }
  const { frame, playing, peek, check } = useView.getState();
  if (peek || check) return null;
  const live = liveShown();
  if (live) return live;
  return playing || useSession.getState().settling ? player.at(frame) : null;
}

/** Frames that were made ahead, over the picture: while it plays, and while the picture of a frame is still being made. */
export function PlayCanvas({ place, output, instead }: Props) {
  const ref = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    let stopped = false;
    // undefined: what the canvas shows is not known
    let drawn: PlayedFrame | null | undefined = undefined;
    let [drawnOverlay, drawnWipe] = [0, 0];
    const draw = (now: number): void => {
      if (stopped) return;
      const canvas = ref.current;
      const made = frameAt(now, instead);
      const { mode, chapter, overlay, wipe } = useView.getState();
      if (canvas && (made !== drawn || overlay !== drawnOverlay || wipe !== drawnWipe)) {
        [drawn, drawnOverlay, drawnWipe] = [made, overlay, wipe];
        const size = made && Object.values(made).find((bitmap) => bitmap.width > 0);
        canvas.style.visibility = made ? 'visible' : 'hidden';
        canvas.dataset.showing = made ? 'yes' : 'no';
        if (made && size) {
          if (canvas.width !== size.width || canvas.height !== size.height) Object.assign(canvas, { width: size.width, height: size.height });
          const compares = factsOf(chapter).compares(shotOf(useDocument.getState()));
          if (made !== liveShown()) showOut(made.picture);
          drawPlayed(canvas.getContext('2d', { alpha: false })!, made, { mode: instead ? 'picture' : mode, overlay, wipe, compares });
        }
      }
      requestAnimationFrame(draw);
    };
    const handle = requestAnimationFrame(draw);
    return () => {
      stopped = true;
      cancelAnimationFrame(handle);
    };
  }, [instead]);
  return (
    <Box
      component="canvas"
      ref={ref}
      aria-hidden="true"
      data-testid="playing"
      style={{ left: place.left, top: place.top, width: output.width * place.scale, height: output.height * place.scale, visibility: 'hidden' }}
      sx={{ position: 'absolute', pointerEvents: 'none' }}
    />
  );
}
