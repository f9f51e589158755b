import type { PlayedFrame, PreviewPart } from '../../engine/protocol';
import { tokens } from '../../theme/tokens';
import { SIDES, type Compared } from '../state/seen';
import type { ViewMode } from '../state/viewStore';
import type { Placement } from './geometry';

export interface Scene {
  readonly part: PreviewPart;
  readonly mode: ViewMode;
  readonly peek: 'plate' | 'depth' | null;
  readonly overlay: number;
  /** share of the output left of the divider */
  readonly wipe: number;
  readonly check: boolean;
  readonly compares: Compared;
  /** the plate as it is, before any effect */
  readonly unfinished: boolean;
  readonly lit: ImageBitmap | null;
  readonly output: { readonly width: number; readonly height: number };
}

/** The canvas in screen px, covered with the neutral surround. */
function cleared(canvas: HTMLCanvasElement, ratio: number): CanvasRenderingContext2D | null {
  const context = canvas.getContext('2d', { alpha: false });
  if (!context) return null;
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  context.fillStyle = tokens.surround;
  context.fillRect(0, 0, canvas.width / ratio, canvas.height / ratio);
  return context;
}

/** Draws a picture of other pixels than the output's in its place. One of another shape is none of this output: nothing is drawn. */
export function drawLast(
  canvas: HTMLCanvasElement,
  picture: CanvasImageSource & { readonly width: number; readonly height: number },
  output: { readonly width: number; readonly height: number },
  place: Placement,
  ratio: number,
): void {
  const context = cleared(canvas, ratio);
  if (!context || Math.abs((picture.width / picture.height) * (output.height / output.width) - 1) > 0.02) return;
  context.drawImage(picture, place.left, place.top, output.width * place.scale, output.height * place.scale);
}

/** Draws the bitmaps that workers made; nothing is computed here. */
export function drawScene(canvas: HTMLCanvasElement, scene: Scene, place: Placement, ratio: number): void {
  const context = cleared(canvas, ratio);
  if (!context) return;
  const { part, output } = scene;
  const w = output.width * place.scale;
  const h = output.height * place.scale;
  context.imageSmoothingEnabled = place.scale * ratio * (output.width / part.size.width) < 3;
  // careful filtering is slow and only shows where the picture is made smaller
  context.imageSmoothingQuality = w * ratio < 0.75 * part.size.width ? 'high' : 'low';
  const paint = (bitmap: ImageBitmap | null, alpha = 1): void => {
    if (!bitmap || bitmap.width === 0) return;
    context.globalAlpha = alpha;
    context.drawImage(bitmap, place.left, place.top, w, h);
    context.globalAlpha = 1;
  };
  const result = scene.unfinished ? part.plate : (part.finished ?? part.plate);
  if (scene.peek === 'plate') paint(part.plate);
  else if (scene.peek === 'depth' || (scene.mode === 'depth' && !scene.check)) paint(part.depth);
  else if (scene.check && part.shown) paint(part.shown);
  else if (scene.check) {
    paint(scene.mode === 'depth' ? part.depth : part.plate, 0.4);
    paint(part.marks);
  } else if (scene.mode === 'overlay') {
    paint(result);
    paint(part.depth, scene.overlay);
  } else if (scene.mode === 'wipe') {
    const [before, after] = scene.compares === 'picture' ? [part.plate, result] : [scene.compares === 'depth' ? part.plate : part.before, part.depth];
    paint(after);
    context.save();
    context.beginPath();
    context.rect(place.left, place.top, w * scene.wipe, h);
    context.clip();
    paint(before);
    context.restore();
  } else paint(result);
  if (scene.lit) {
    context.fillStyle = 'rgba(20,20,19,0.45)';
    context.fillRect(place.left, place.top, w, h);
    paint(scene.lit);
  }
}

/** Draws a frame that plays over the whole of a canvas, as the view shows it. */
export function drawPlayed(
  context: CanvasRenderingContext2D,
  made: PlayedFrame,
  { mode, overlay, wipe, compares }: Pick<Scene, 'mode' | 'overlay' | 'wipe' | 'compares'>,
): void {
  const { width, height } = context.canvas;
  const paint = (bitmap: ImageBitmap | undefined, alpha = 1, share = 1): void => {
    if (!bitmap || bitmap.width === 0) return;
    context.save();
    context.globalAlpha = alpha;
    context.beginPath();
    context.rect(0, 0, width * share, height);
    context.clip();
    context.drawImage(bitmap, 0, 0, width, height);
    context.restore();
  };
  if (mode === 'wipe') {
    const [before, after] = SIDES[compares];
    paint(made[after]);
    paint(made[before], 1, wipe);
    return;
  }
  if (mode !== 'depth') paint(made.picture ?? made.plate);
  if (mode !== 'picture') paint(made.depth, mode === 'overlay' ? overlay : 1);
}
