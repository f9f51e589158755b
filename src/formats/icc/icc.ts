import { linearToSrgb } from '../../core/raster/colour';
import { hasText, view } from '../bytes/bytes';

/** How a profile's colours become sRGB: each channel's curve to linear light, then a matrix to linear sRGB. */
export interface ColourProfile {
  /** linear light 0..1 of a value 0..1, for red, green, blue, or one curve for grey */
  readonly curves: readonly ((value: number) => number)[];
  /** rows of the matrix to linear sRGB; null for grey, which has no colour to turn */
  readonly matrix: readonly number[] | null;
}

/** From the profile connection space, XYZ under D50 (ICC.1:2022, 7.2.16), to linear sRGB (Bradford-adapted primaries of IEC 61966-2-1). */
const D50_TO_SRGB = [3.1341359, -1.6173863, -0.4906619, -0.9787955, 1.9162543, 0.0334427, 0.0719554, -0.2289768, 1.4053861];

/**
 * Reads an RGB or grey profile that works by curves and a matrix (ICC.1:2022, 8.3 and 8.4). Null where it works otherwise, such as by
 * tables, or cannot be read.
 */
export function readProfile(bytes: Uint8Array): ColourProfile | null {
  if (bytes.length < 132 || !hasText(bytes, 36, 'acsp')) return null;
  const data = view(bytes);
  const tags = new Map<string, { readonly at: number; readonly size: number }>();
  const count = data.getUint32(128);
  if (count > 1000 || 132 + count * 12 > bytes.length) return null;
  for (let i = 0; i < count; i++) {
    const p = 132 + i * 12;
    const [at, size] = [data.getUint32(p + 4), data.getUint32(p + 8)];
    if (at + size > bytes.length) return null;
    tags.set(String.fromCharCode(...bytes.subarray(p, p + 4)), { at, size });
  }
  const curve = (name: string): ((value: number) => number) | null => {
    const tag = tags.get(name);
    return tag ? readCurve(bytes, tag.at, tag.size) : null;
  };
  if (hasText(bytes, 16, 'GRAY')) {
    const grey = curve('kTRC');
    return grey && { curves: [grey], matrix: null };
  }
  if (!hasText(bytes, 16, 'RGB ') || !hasText(bytes, 20, 'XYZ ')) return null;
  const curves = ['rTRC', 'gTRC', 'bTRC'].map(curve);
  const columns = ['rXYZ', 'gXYZ', 'bXYZ'].map((name) => {
    const tag = tags.get(name);
    if (!tag || tag.size < 20 || !hasText(bytes, tag.at, 'XYZ ')) return null;
    return [0, 1, 2].map((k) => data.getInt32(tag.at + 8 + 4 * k) / 65536);
  });
  if (curves.includes(null) || columns.includes(null)) return null;
  const matrix = Array.from({ length: 9 }, (_, i) => {
    const [row, column] = [Math.floor(i / 3), i % 3];
    return [0, 1, 2].reduce((sum, k) => sum + D50_TO_SRGB[row * 3 + k]! * columns[column]![k]!, 0);
  });
  return { curves: curves as ((value: number) => number)[], matrix };
}

/** A curve of samples or of parameters (ICC.1:2022, 10.6 and 10.18). */
function readCurve(bytes: Uint8Array, at: number, size: number): ((value: number) => number) | null {
  const data = view(bytes);
  if (hasText(bytes, at, 'curv') && size >= 12) {
    const count = data.getUint32(at + 8);
    if (count === 0) return (v) => v;
    if (12 + 2 * count > size) return null;
    if (count === 1) {
      const gamma = data.getUint16(at + 12) / 256;
      return (v) => v ** gamma;
    }
    const samples = Float64Array.from({ length: count }, (_, i) => data.getUint16(at + 12 + 2 * i) / 65535);
    return (v) => {
      const x = v * (count - 1);
      const i = Math.min(count - 2, Math.floor(x));
      return samples[i]! + (samples[i + 1]! - samples[i]!) * (x - i);
    };
  }
  if (!hasText(bytes, at, 'para') || size < 16) return null;
  const kind = data.getUint16(at + 8);
  const needed = [1, 3, 4, 5, 7][kind];
  if (needed === undefined || 12 + 4 * needed > size) return null;
  const [g, a = 1, b = 0, c = 0, d = 0, e = 0, f = 0] = Array.from({ length: needed }, (_, i) => data.getInt32(at + 12 + 4 * i) / 65536) as [
    number,
    ...number[],
  ];
  const power = (v: number): number => Math.max(0, a * v + b) ** g;
  switch (kind) {
    case 0:
      return (v) => v ** g;
    case 1:
      return (v) => (v >= -b / a ? power(v) : 0);
    case 2:
      return (v) => (v >= -b / a ? power(v) + c : c);
    case 3:
      return (v) => (v >= d ? power(v) : c * v);
    default:
      return (v) => (v >= d ? power(v) + e : c * v + f);
  }
}

/** Steps of the table that turns linear light back to sRGB. */
const STEPS = 1 << 17;
let encoded: Uint16Array | null = null;

/** Turns 16-bit samples of a profile into 16-bit sRGB, in place; alpha is left alone. Colours outside sRGB are cut off. */
export function toSrgb16(data: Uint16Array, channels: 1 | 2 | 3 | 4, profile: ColourProfile): void {
  // the root spreads the steps as the eye does: one of them is less than one of 65 536
  encoded ??= Uint16Array.from({ length: STEPS + 1 }, (_, i) => Math.round(65535 * linearToSrgb((i / STEPS) ** 2)));
  const table = encoded;
  const encode = (light: number): number => table[Math.round(STEPS * Math.sqrt(Math.min(1, Math.max(0, light))))]!;
  const linear = profile.curves.map((curve) => Float32Array.from({ length: 65536 }, (_, v) => curve(v / 65535)));
  const { matrix: m } = profile;
  if (channels < 3 || !m) {
    // a grey profile on colours is none
    if (channels >= 3) return;
    const [grey, g, b] = linear;
    for (let p = 0; p < data.length; p += channels) {
      const v = data[p]!;
      data[p] = encode(g && b ? (grey![v]! + g[v]! + b[v]!) / 3 : grey![v]!);
    }
    return;
  }
  const [red, green, blue] = linear as [Float32Array, Float32Array, Float32Array];
  for (let p = 0; p < data.length; p += channels) {
    const [r, g, b] = [red[data[p]!]!, green[data[p + 1]!]!, blue[data[p + 2]!]!];
    data[p] = encode(m[0]! * r + m[1]! * g + m[2]! * b);
    data[p + 1] = encode(m[3]! * r + m[4]! * g + m[5]! * b);
    data[p + 2] = encode(m[6]! * r + m[7]! * g + m[8]! * b);
  }
}
