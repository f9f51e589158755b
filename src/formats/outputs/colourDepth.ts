import type { Size } from '../../core/picture';

/** How colour and depth share a picture: depth right of the colours, below them, or in their alpha channel. */
export const colourLayouts = ['beside', 'below', 'alpha'] as const;
export type ColourLayout = (typeof colourLayouts)[number];

/** px of a picture that holds both. */
export const sizeWithColour = ({ width, height }: Size, layout: ColourLayout): Size => ({
  width: layout === 'beside' ? 2 * width : width,
  height: layout === 'below' ? 2 * height : height,
});

/**
 * Colours (RGBA, 8 bits) and nearness (0..1) of the same size in one picture. In alpha the farthest is 1 and not 0: what has no alpha loses its colour on the way.
 */
export function withDepth(
  rgba: Uint8ClampedArray,
  nearness: Float32Array,
  { width, height }: Size,
  layout: ColourLayout,
): Uint8ClampedArray<ArrayBuffer> {
  const whole = sizeWithColour({ width, height }, layout);
  const out = new Uint8ClampedArray(whole.width * whole.height * 4);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const grey = Math.round(255 * nearness[i]!);
      const at = (y * whole.width + x) * 4;
      for (let c = 0; c < 3; c++) out[at + c] = rgba[i * 4 + c]!;
      out[at + 3] = layout === 'alpha' ? Math.max(1, grey) : 255;
      if (layout === 'alpha') continue;
      const beside = layout === 'beside' ? at + width * 4 : at + height * whole.width * 4;
      out.fill(grey, beside, beside + 3);
      out[beside + 3] = 255;
    }
  return out;
}

/** px of each picture of a clip, where its frames are of a size: wider or taller where colour and depth share it. */
export function pictureSize(output: { readonly page?: true; readonly colour?: ColourLayout }, size: Size): Size {
  if (output.page) return { width: 2 * size.width, height: 2 * size.height };
  return output.colour ? sizeWithColour(size, output.colour) : size;
}
