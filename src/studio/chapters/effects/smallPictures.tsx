import { useCallback, useEffect, useRef } from 'react';
import type { Shot } from '../../../core/document/schema';
import type { Size } from '../../../core/picture';
import { engine } from '../../../engine/pool/engine';
import { notifyError } from '../../notices/noticeStore';
import { requestOf } from '../../state/previewLoop';
import { momentOf } from '../../state/shotNow';
import { useSession } from '../../state/sessionStore';

/** Device px of a small picture to one of the page. */
const DENSITY = 2;

/** Pictures that are being made, by name. */
interface SmallPictures {
  readonly size: Size;
  /** shows the picture of a name on a canvas; answers what takes it off */
  hang(name: string, canvas: HTMLCanvasElement): () => void;
}

/** How high a small picture of a shot is that is so wide, px of the page. */
export const heightOf = ({ settings: { framing } }: Shot, width: number, most: number): number =>
  Math.min(most, Math.round((width * framing.height) / framing.width));

/** As large as it is made; the page shows it smaller. */
const canvasSize = ({ width, height }: Size): Size => ({ width: DENSITY * width, height: DENSITY * height });

/**
 * Small pictures of a shot set otherwise, made one after the other on workers that the view does not use, while somebody looks: what `SmallPicture`
 * shows. `key`: what they are made of besides the shot, which they show as it was when they were first asked for.
 */
export function useSmallPictures(names: readonly string[], size: Size, shotFor: (name: string) => Shot, key: string): SmallPictures {
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
  const hang = useCallback((name: string, canvas: HTMLCanvasElement) => {
    canvases.current.set(name, canvas);
    show(canvas, made.current.get(name));
    return () => void canvases.current.delete(name);
  }, []);
  return { size, hang };
}

/** The picture of a name, once it is made. */
export function SmallPicture({ of: { size, hang }, name, rounded = false }: { of: SmallPictures; name: string; rounded?: boolean }) {
  const ref = useCallback((canvas: HTMLCanvasElement | null) => (canvas ? hang(name, canvas) : undefined), [hang, name]);
  return (
    <canvas
      ref={ref}
      {...canvasSize(size)}
      style={{ display: 'block', flexShrink: 0, background: 'var(--surround)', borderRadius: rounded ? 3 : 0, ...size }}
      aria-hidden="true"
    />
  );
}

function show(canvas: HTMLCanvasElement | undefined, picture: ImageBitmap | undefined): void {
  if (!canvas || !picture || picture.width === 0) return;
  canvas.getContext('2d')!.drawImage(picture, 0, 0);
  canvas.setAttribute('data-made', 'yes');
}
