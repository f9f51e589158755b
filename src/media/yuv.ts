/**
 * 8-bit sRGB with straight alpha as planes of video: BT.709, video range (ITU-R BT.709-6, sec. 3), chroma halved by the mean of 2x2 pixels;
 * with `alpha` a fourth plane of it. Both sides even.
 */
export function toI420(rgba: Uint8Array | Uint8ClampedArray, width: number, height: number, alpha = false): Uint8Array<ArrayBuffer> {
  const n = width * height;
  const [cw, ch] = [width / 2, height / 2];
  const out = new Uint8Array(n + 2 * cw * ch + (alpha ? n : 0));
  for (let i = 0; i < n; i++) {
    const p = i * 4;
    out[i] = 16.5 + 0.18258588 * rgba[p]! + 0.61423059 * rgba[p + 1]! + 0.06200706 * rgba[p + 2]!;
    if (alpha) out[n + 2 * cw * ch + i] = rgba[p + 3]!;
  }
  for (let y = 0; y < ch; y++)
    for (let x = 0; x < cw; x++) {
      const p = (2 * y * width + 2 * x) * 4;
      const q = p + width * 4;
      const r = (rgba[p]! + rgba[p + 4]! + rgba[q]! + rgba[q + 4]!) / 4;
      const g = (rgba[p + 1]! + rgba[p + 5]! + rgba[q + 1]! + rgba[q + 5]!) / 4;
      const b = (rgba[p + 2]! + rgba[p + 6]! + rgba[q + 2]! + rgba[q + 6]!) / 4;
      const o = n + y * cw + x;
      out[o] = 128.5 - 0.10064373 * r - 0.33857195 * g + 0.43921569 * b;
      out[o + cw * ch] = 128.5 + 0.43921569 * r - 0.39894216 * g - 0.04027352 * b;
    }
  return out;
}

/** Greys as planes of video, video range, without colour. Both sides even. */
export function greyToI420(grey: Float32Array, width: number, height: number): Uint8Array<ArrayBuffer> {
  const n = width * height;
  const out = new Uint8Array(n + n / 2).fill(128);
  for (let i = 0; i < n; i++) out[i] = 16.5 + 219 * Math.min(1, Math.max(0, grey[i]!));
  return out;
}

/**
 * 16-bit greys as planes of a clip without loss: the high byte in Y, the low byte in U, turned over where the high byte is odd, so that it
 * never jumps from 255 to 0; V holds 128. 4:4:4, full range.
 */
export function packGrey16(grey: Uint16Array): Uint8Array<ArrayBuffer> {
  const n = grey.length;
  const out = new Uint8Array(n * 3).fill(128, n * 2);
  for (let i = 0; i < n; i++) {
    const high = grey[i]! >> 8;
    const low = grey[i]! & 255;
    out[i] = high;
    out[n + i] = high & 1 ? 255 - low : low;
  }
  return out;
}

/** What V holds there. */
export const EVEN = 128;

/** A grey of 16 bits from its high byte and its folded low one. */
export const unfoldGrey = (high: number, low: number): number => (high << 8) | (high & 1 ? 255 - low : low);

/** The greys again. */
export function unpackGrey16(planes: Uint8Array, count: number): Uint16Array {
  return Uint16Array.from({ length: count }, (_, i) => unfoldGrey(planes[i]!, planes[count + i]!));
}
