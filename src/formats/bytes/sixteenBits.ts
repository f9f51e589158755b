import { quickCurves } from '../../core/raster/colour';
import type { Plane, Raster } from '../../core/picture';

/**
 * Planes of red, green, blue and alpha, or of grey and alpha, as pixels of 16 bits, straight alpha. `linear`: they hold linear light and premultiplied
 * colours, which become sRGB; otherwise shares of full scale as they are encoded. What lies outside 0..1 is cut off.
 */
export function sixteenBits(planes: readonly Plane[], linear: boolean): Raster {
  const { width, height } = planes[0]!;
  const channels = planes.length as Raster['channels'];
  const colours = channels > 2 ? 3 : 1;
  const alpha = channels > colours ? planes[colours]!.data : null;
  const { encode } = quickCurves();
  const data = new Uint16Array(width * height * channels);
  const share = (v: number): number => (v > 0 ? Math.min(1, v) : 0);
  for (let i = 0, o = 0; i < width * height; i++, o += channels) {
    const a = alpha ? share(alpha[i]!) : 1;
    for (let k = 0; k < colours; k++) {
      const v = planes[k]!.data[i]!;
      data[o + k] = Math.round(65535 * (linear ? encode(share(a > 0 ? v / a : v)) : share(v)));
    }
    if (alpha) data[o + colours] = Math.round(65535 * a);
  }
  return { width, height, channels, data };
}
