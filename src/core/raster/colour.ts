import { encodeLight } from '../kernels/lightHost';
import { clampUnit } from '../scalar';
import type { Picture } from '../picture';

/** sRGB to linear light (IEC 61966-2-1), both 0..1. */
export const srgbToLinear = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);

/** Linear light to sRGB, both 0..1; not clipped above 1. */
export const linearToSrgb = (v: number): number => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055);

/** Steps of the tables of quickSrgb and quickLinear. */
const QUICK = 65536;
let quick: { readonly encode: Float64Array; readonly decode: Float64Array } | null = null;

/** Tables of both curves, of 65 536 steps and one beyond: sRGB over the root of light, and light over sRGB. */
export const quickTables = (): NonNullable<typeof quick> =>
  (quick ??= {
    // over the root of light, where the curve is even
    encode: Float64Array.from({ length: QUICK + 2 }, (_, i) => linearToSrgb((i / QUICK) ** 2)),
    decode: Float64Array.from({ length: QUICK + 2 }, (_, i) => srgbToLinear(i / QUICK)),
  });

/** Functions like linearToSrgb and srgbToLinear to within 1e-9 (1e-6 where their two parts meet), for millions of pixels; what is below 0 is 0. */
export function quickCurves(): { encode(v: number): number; decode(v: number): number } {
  const { encode, decode } = quickTables();
  return {
    encode: (v) => {
      if (v >= 1) return linearToSrgb(v);
      const t = v > 0 ? Math.sqrt(v) * QUICK : 0;
      const i = t | 0;
      return encode[i]! + (encode[i + 1]! - encode[i]!) * (t - i);
    },
    decode: (v) => {
      if (v >= 1) return srgbToLinear(v);
      const t = v > 0 ? v * QUICK : 0;
      const i = t | 0;
      return decode[i]! + (decode[i + 1]! - decode[i]!) * (t - i);
    },
  };
}

const decodeTables = new Map<number, Float32Array>();

/** Table from encoded steps 0..top to linear light. */
export function decodeTable(top: 255 | 65535): Float32Array {
  let table = decodeTables.get(top);
  if (!table) {
    table = Float32Array.from({ length: top + 1 }, (_, i) => srgbToLinear(i / top));
    decodeTables.set(top, table);
  }
  return table;
}

const ENCODE_STEPS = 16384;
let encode8: Uint8Array | null = null;

/** Encodes linear RGBA (premultiplied) as 8-bit sRGB RGBA with straight alpha; what lies outside 0..1 is clipped. */
export function encodePicture8(picture: Picture, out: Uint8ClampedArray): void {
  encode8 ??= Uint8Array.from({ length: ENCODE_STEPS + 1 }, (_, i) => Math.round(255 * linearToSrgb(i / ENCODE_STEPS)));
  encodeLight(picture.data, encode8, out);
}

/** Encodes linear RGBA as 16-bit sRGB with straight alpha, `channels` 3 or 4. */
export function encodePicture16(picture: Picture, channels: 3 | 4): Uint16Array {
  const { width, height, data } = picture;
  const out = new Uint16Array(width * height * channels);
  // as quickCurves encodes, written out: this runs for every sample of what is exported
  const { encode } = quickTables();
  for (let i = 0, o = 0; i < data.length; i += 4, o += channels) {
    const alpha = data[i + 3]!;
    const scale = alpha > 0 && alpha < 1 ? 1 / alpha : 1;
    for (let k = 0; k < 3; k++) {
      const v = data[i + k]! * scale;
      const t = v > 0 ? (v < 1 ? Math.sqrt(v) * QUICK : QUICK) : 0;
      const step = t | 0;
      const from = encode[step]!;
      out[o + k] = 65535 * (from + (encode[step + 1]! - from) * (t - step)) + 0.5;
    }
    if (channels === 4) out[o + 3] = Math.round(65535 * Math.min(1, Math.max(0, alpha)));
  }
  return out;
}

/** Relative luminance of linear RGB (Rec. 709). */
export const luminance = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;

export type Rgb = readonly [number, number, number];

/** "#rrggbb" to sRGB 0..1. */
export const parseHex = (hex: string): Rgb => {
  const n = parseInt(hex.slice(1), 16);
  return [((n >> 16) & 255) / 255, ((n >> 8) & 255) / 255, (n & 255) / 255];
};

const toHex = (c: Rgb): string =>
  `#${c
    .map((v) =>
      Math.round(255 * Math.min(1, Math.max(0, v)))
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;

/** Linear light to OKLab (Ottosson 2020). */
export function linearToOklab(r: number, g: number, b: number): Rgb {
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
  return [
    0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s,
    1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s,
    0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s,
  ];
}

/** sRGB to OKLab. */
export const toOklab = ([r, g, b]: Rgb): Rgb => linearToOklab(srgbToLinear(r), srgbToLinear(g), srgbToLinear(b));

/** OKLab to linear light, which lies outside 0..1 for colours that the display has not. */
export function oklabToLinear(lightness: number, a: number, b: number): Rgb {
  const l = (lightness + 0.3963377774 * a + 0.2158037573 * b) ** 3;
  const m = (lightness - 0.1055613458 * a - 0.0638541728 * b) ** 3;
  const s = (lightness - 0.0894841775 * a - 1.291485548 * b) ** 3;
  return [
    4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
    -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
    -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s,
  ];
}

/** OKLab to sRGB, clipped to 0..1. */
export function fromOklab([lightness, a, b]: Rgb): Rgb {
  const clip = (v: number): number => linearToSrgb(clampUnit(v));
  const [r, g, blue] = oklabToLinear(lightness, a, b);
  return [clip(r), clip(g), clip(blue)];
}

/** The only hues of the product: distance, from near to far. */
export const DISTANCE_HUES = { near: '#f0a04b', mid: '#c4b393', far: '#6a9cc4' } as const;

const STOPS = [DISTANCE_HUES.near, DISTANCE_HUES.mid, DISTANCE_HUES.far].map((h) => toOklab(parseHex(h)));

/** sRGB colour that stands for a nearness (1 near … 0 far), mixed in OKLab. */
export function nearnessColour(nearness: number): Rgb {
  const t = 2 * (1 - Math.min(1, Math.max(0, nearness)));
  const [a, b] = t < 1 ? [STOPS[0]!, STOPS[1]!] : [STOPS[1]!, STOPS[2]!];
  const f = t < 1 ? t : t - 1;
  return fromOklab([a[0] + (b[0] - a[0]) * f, a[1] + (b[1] - a[1]) * f, a[2] + (b[2] - a[2]) * f]);
}

export const nearnessHex = (nearness: number): string => toHex(nearnessColour(nearness));
