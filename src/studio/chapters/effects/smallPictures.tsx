import { useCallback, useEffect, useRef, type RefCallback } from 'react';
import type { Shot } from '../../../core/document/schema';
import type { Size } from '../../../core/raster/picture';
import { engine } from '../../../engine/engine';
import { notifyError } from '../../controls/noticeStore';
import { requestOf } from '../../state/previewLoop';
import { momentOf } from '../../state/shotNow';
import { useSession } from '../../state/sessionStore';

/** Device px of a small picture to one of the page. */
const DENSITY = 2;

/** How high a small picture of a shot is that is so wide, px of the page. */
export const heightOf = ({ settings: { framing } }: Shot, width: number, most: number): number =>
  Math.min(most, Math.round((width * framing.height) / framing.width));

/** Where a small picture is drawn: as large as it is made, and the page shows it at its own size. */
export const canvasSize = ({ width, height }: Size): Size => ({ width: DENSITY * width, height: DENSITY * height });

/**
 * Small pictures of a shot set otherwise, made one after the other on workers that the view does not use, while somebody looks. Answers what hangs
 * the picture of a name on a canvas. `key`: what they are made of besides the shot, which they show as it was when they were first asked for.
 */
export function useSmallPictures(
  names: readonly string[],
  size: Size,
  shotFor: (name: string) => Shot,
  key: string,
): (name: string) => RefCallback<HTMLCanvasElement> {
  const canvases = useRef(new Map<string, HTMLCanvasElement>());
  const made = useRef(new Map<string, ImageBitmap>());
  const given = useSession((s) => s.given);
  useEffect(() => {
    const pictures = made.current;
    let next = 0;
    const job = engine().frames(
      () => {
        const name = names[next];
        if (name === undefined) return null;
        const shot = shotFor(name);
        return { frame: next++, shot: requestOf(shot, canvasSize(size), momentOf(shot)), given };
      },
      (index, { picture }) => {
        const name = names[index]!;
        if (!picture) return;
        pictures.get(name)?.close();
        pictures.set(name, picture);
        show(canvases.current.get(name), picture);
      },
    );
    job.done.catch(notifyError);
    return () => {
      job.cancel();
      for (const picture of pictures.values()) picture.close();
      pictures.clear();
    };
    // they show the shot as it was when the list was opened
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key]);
  return useCallback(
    (name) => (canvas) => {
      if (!canvas) {
        canvases.current.delete(name);
        return;
      }
      canvases.current.set(name, canvas);
      show(canvas, made.current.get(name));
    },
    [],
  );
}

function show(canvas: HTMLCanvasElement | undefined, picture: ImageBitmap | undefined): void {
  if (!canvas || !picture || picture.width === 0) return;
  canvas.getContext('2d')!.drawImage(picture, 0, 0);
  canvas.setAttribute('data-made', 'yes');
}
