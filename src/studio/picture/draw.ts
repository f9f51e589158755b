import type { Size } from '../../core/picture';
import type { FramePart, PlayedFrame, PreviewPart } from '../../engine/messages/protocol';
import { tokens } from '../../theme/tokens';
import type { Compared } from '../state/chapterFacts';
import { SIDES } from '../state/seen';
import { viewOf, type ViewMode } from '../state/views';
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

type Seen = Pick<Scene, 'mode' | 'overlay' | 'wipe' | 'compares'>;
type Pictures = Partial<Record<FramePart, ImageBitmap | null>>;
interface Box extends Size {
  readonly left: number;
  readonly top: number;
}
type Paint = (bitmap: ImageBitmap | null | undefined, alpha?: number) => void;

const painter =
  (context: CanvasRenderingContext2D, { left, top, width, height }: Box): Paint =>
  (bitmap, alpha = 1) => {
    if (!bitmap || bitmap.width === 0) return;
    context.globalAlpha = alpha;
    context.drawImage(bitmap, left, top, width, height);
    context.globalAlpha = 1;
  };

/** Lays the pictures of a frame over each other, or beside each other, as the view shows them. */
function paintView(context: CanvasRenderingContext2D, paint: Paint, made: Pictures, { mode, overlay, wipe, compares }: Seen, box: Box): void {
  const view = viewOf(mode);
  const parts = view.parts({ result: made.picture ? 'picture' : 'plate', compared: SIDES[compares] });
  if (!view.splits) {
    for (const [k, part] of parts.entries()) paint(made[part], k > 0 ? overlay : 1);
    return;
  }
  const [before, after] = parts;
  paint(made[after!]);
  context.save();
  context.beginPath();
  context.rect(box.left, box.top, box.width * wipe, box.height);
  context.clip();
  paint(made[before!]);
  context.restore();
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
  const box = { left: place.left, top: place.top, width: w, height: h };
  const paint = painter(context, box);
  const depthAlone = viewOf(scene.mode).depth === 'alone';
  const result = scene.unfinished ? part.plate : (part.finished ?? part.plate);
  if (scene.peek === 'plate') paint(part.plate);
  else if (scene.peek === 'depth' || (depthAlone && !scene.check)) paint(part.depth);
  else if (scene.check && part.shown) paint(part.shown);
  else if (scene.check) {
    paint(depthAlone ? part.depth : part.plate, 0.4);
    paint(part.marks);
  } else paintView(context, paint, { plate: part.plate, picture: result, depth: part.depth, before: part.before }, scene, box);
  if (scene.lit) {
    context.fillStyle = 'rgba(20,20,19,0.45)';
    context.fillRect(place.left, place.top, w, h);
    paint(scene.lit);
  }
}

/** Draws a frame that plays over the whole of a canvas, as the view shows it. */
export function drawPlayed(context: CanvasRenderingContext2D, made: PlayedFrame, scene: Seen): void {
  const { width, height } = context.canvas;
  const box = { left: 0, top: 0, width, height };
  paintView(context, painter(context, box), made, scene, box);
}
