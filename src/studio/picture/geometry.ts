import type { Size } from '../../core/picture';
import type { Zoom } from '../state/viewStore';

export const SMALLEST_ZOOM = 0.02;
export const LARGEST_ZOOM = 32;

/** Where the output lies in the view: screen px per output px, and its upper left corner. */
export interface Placement {
  readonly scale: number;
  readonly left: number;
  readonly top: number;
}

export const fitScale = (view: Size, output: Size): number =>
  Math.max(SMALLEST_ZOOM, Math.min(view.width / output.width, view.height / output.height, 4));

export function placementOf(view: Size, output: Size, zoom: Zoom): Placement {
  if (!zoom) {
    const scale = fitScale(view, output);
    return { scale, left: (view.width - output.width * scale) / 2, top: (view.height - output.height * scale) / 2 };
  }
  return { scale: zoom.scale, left: view.width / 2 - zoom.x * zoom.scale, top: view.height / 2 - zoom.y * zoom.scale };
}

/** Zooms about a point of the view, which stays where it is. */
export function zoomAt(view: Size, output: Size, zoom: Zoom, factor: number, x: number, y: number): Zoom {
  const p = placementOf(view, output, zoom);
  const scale = Math.min(LARGEST_ZOOM, Math.max(SMALLEST_ZOOM, p.scale * factor));
  const ox = (x - p.left) / p.scale;
  const oy = (y - p.top) / p.scale;
  return within(output, { scale, x: ox - (x - view.width / 2) / scale, y: oy - (y - view.height / 2) / scale });
}

/** Moves the picture by screen px. */
export function panBy(view: Size, output: Size, zoom: Zoom, dx: number, dy: number): Zoom {
  const p = placementOf(view, output, zoom);
  return within(output, { scale: p.scale, x: (view.width / 2 - p.left - dx) / p.scale, y: (view.height / 2 - p.top - dy) / p.scale });
}

/** The middle of the view stays on the picture. */
const within = (output: Size, z: NonNullable<Zoom>): Zoom => ({
  scale: z.scale,
  x: Math.min(output.width, Math.max(0, z.x)),
  y: Math.min(output.height, Math.max(0, z.y)),
});
