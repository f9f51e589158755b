import type { Plane } from '../../../picture';
import { stretch } from '../../../raster/resample';
import { contentKey } from '../../../key';
import type { Drawing, ShapesContent } from './content';
import { shapeCover } from './cover';

/** Every frame on which the shapes were drawn, with what was drawn there, in order; the last one drawn on a frame holds. */
export function drawingsOf({ shapes, follow }: ShapesContent): readonly Drawing[] {
  if (!follow) return [];
  const all = new Map<number, Drawing>();
  for (const drawing of [...follow.earlier, { frame: follow.at, shapes }]) all.set(drawing.frame, drawing);
  return [...all.values()].sort((a, b) => a.frame - b.frame);
}

/** Where the carried region lies, frame by frame; null where the shapes do not follow. */
export function followSeries(plate: string, content: ShapesContent): string | null {
  const drawings = drawingsOf(content);
  if (drawings.length === 0) return null;
  const outlines = drawings.map((d) => [d.frame, d.shapes.map(({ points, feather, grow }) => [points, feather, grow])]);
  return `region ${contentKey(outlines)} along ${plate}`;
}

/** Frames that are carried from each drawing: those to which it is the nearest. */
export function spansOf<D extends { readonly frame: number }>(
  drawings: readonly D[],
  from: number,
  to: number,
): readonly { readonly drawing: D; readonly from: number; readonly to: number }[] {
  return drawings.map((drawing, k) => {
    const before = drawings[k - 1];
    const after = drawings[k + 1];
    return {
      drawing,
      from: before ? Math.floor((before.frame + drawing.frame) / 2) + 1 : from,
      to: after ? Math.floor((drawing.frame + after.frame) / 2) : to,
    };
  });
}

/** What shapes cover of the plate, 0..1, at another size. */
export function regionOf(
  { shapes }: Drawing,
  size: { readonly width: number; readonly height: number },
  plate: { readonly width: number; readonly height: number },
): Plane {
  const data = new Float32Array(size.width * size.height);
  const framing = stretch(plate, size.width, size.height);
  for (const shape of shapes) {
    const cover = shapeCover(shape, { ...size, framing, plateSize: plate });
    if (!cover) continue;
    for (let y = 0; y < cover.height; y++)
      for (let x = 0; x < cover.width; x++) {
        const i = (cover.y0 + y) * size.width + cover.x0 + x;
        data[i] = Math.max(data[i]!, cover.data[y * cover.width + x]!);
      }
  }
  return { width: size.width, height: size.height, data };
}
