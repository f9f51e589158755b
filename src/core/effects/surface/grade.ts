import { linearToOklab, luminance, oklabToLinear } from '../../raster/colour';
import { newPicture, type Picture } from '../../raster/picture';
import { smoothstep } from '../../scalar';
import { degrees, percent, stops, toggle, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';

const ROWS_PER_LOOK = 32;
/** Middle grey, linear: contrast turns about it. */
const GREY = 0.18;
/** Added before logarithms, so that black stays black. */
const TOE = 1e-4;

const params = {
  exposure: stops({ section: 'Light', label: 'Exposure', min: -5, max: 5, lowest: -20, highest: 20, default: 0 }),
  contrast: percent({
    section: 'Light',
    label: 'Contrast',
    min: 25,
    max: 200,
    lowest: 0,
    highest: 400,
    default: 100,
    help: 'About middle grey, in stops',
  }),
  shadows: stops({
    section: 'Light',
    label: 'Shadows',
    min: -2,
    max: 2,
    lowest: -6,
    highest: 6,
    default: 0,
    help: 'Lifts or deepens what is darker than grey',
  }),
  highlights: stops({
    section: 'Light',
    label: 'Highlights',
    min: -2,
    max: 2,
    lowest: -6,
    highest: 6,
    default: 0,
    help: 'What is brighter than grey',
  }),
  temperature: percent({ section: 'Colour', label: 'Temperature', min: -100, max: 100, default: 0, help: 'Towards amber, or blue where negative' }),
  tint: percent({ section: 'Colour', label: 'Tint', min: -100, max: 100, default: 0, help: 'Towards magenta, or green where negative' }),
  saturation: percent({ section: 'Colour', label: 'Saturation', min: 0, max: 200, highest: 400, default: 100 }),
  hue: degrees({ section: 'Colour', label: 'Hue', min: -180, max: 180, decimals: 0, default: 0 }),
  mono: toggle({ section: 'Black and white', label: 'Black and white', default: false }),
  red: percent({
    section: 'Black and white',
    only: { mono: [true] },
    label: 'Red',
    min: -100,
    max: 200,
    default: 21,
    help: 'Share of each colour’s light in the grey',
  }),
  green: percent({ section: 'Black and white', only: { mono: [true] }, label: 'Green', min: -100, max: 200, default: 72 }),
  blue: percent({ section: 'Black and white', only: { mono: [true] }, label: 'Blue', min: -100, max: 200, default: 7 }),
};
export type GradeValues = ValuesOf<typeof params>;

type Matrix = readonly number[];

const times = (a: Matrix, b: Matrix): Matrix =>
  Array.from({ length: 9 }, (_, i) => [0, 1, 2].reduce((sum, k) => sum + a[3 * Math.floor(i / 3) + k]! * b[3 * k + (i % 3)]!, 0));

function inverted(m: Matrix): Matrix {
  const [a, b, c, d, e, f, g, h, i] = m as [number, number, number, number, number, number, number, number, number];
  const [A, B, C] = [e * i - f * h, c * h - b * i, b * f - c * e];
  const det = a * A + d * B + g * C;
  return [A, B, C, f * g - d * i, a * i - c * g, c * d - a * f, d * h - e * g, b * g - a * h, a * e - b * d].map((v) => v / det);
}

/** Linear sRGB to XYZ (IEC 61966-2-1), and XYZ to the cone responses of Bradford (Lam 1985). */
const RGB_TO_XYZ: Matrix = [0.4124564, 0.3575761, 0.1804375, 0.2126729, 0.7151522, 0.072175, 0.0193339, 0.119192, 0.9503041];
const BRADFORD: Matrix = [0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296];

/** Chromaticity of daylight of a colour temperature from 4000 K (Judd, MacAdam & Wyszecki 1964), and of black bodies below (Kim et al. 2002). */
function daylight(kelvin: number): readonly [number, number] {
  const t = 1000 / kelvin;
  if (kelvin < 4000) {
    const x = -0.2661239 * t ** 3 - 0.234358 * t ** 2 + 0.8776956 * t + 0.17991;
    return [x, -0.9549476 * x ** 3 - 1.37418593 * x ** 2 + 2.09137015 * x - 0.16748867];
  }
  const x = kelvin <= 7000 ? -4.607 * t ** 3 + 2.9678 * t ** 2 + 0.09911 * t + 0.244063 : -2.0064 * t ** 3 + 1.9018 * t ** 2 + 0.24748 * t + 0.23704;
  return [x, -3 * x * x + 2.87 * x - 0.275];
}

/** From a white to that of the display, in linear sRGB, by adaptation of the cones. Whites are compared as chromaticities, so equal ones give the identity. */
export function whiteBalance(temperature: number, tint: number): Matrix {
  if (temperature === 0 && tint === 0) return [1, 0, 0, 0, 1, 0, 0, 0, 1];
  const coneOf = ([x, y]: readonly [number, number]): number[] => {
    const xyz = [x / y, 1, (1 - x - y) / y];
    return [0, 1, 2].map((r) => [0, 1, 2].reduce((sum, k) => sum + BRADFORD[3 * r + k]! * xyz[k]!, 0));
  };
  const usual = daylight(6504);
  // even steps in 1/T are even to the eye: ±100 % spans about 3600 to 34 000 K
  const [x, y] = daylight(1e6 / (1e6 / 6504 - 1.24 * temperature));
  const from = coneOf([x, y + (tint / 100) * 0.035]);
  const to = coneOf(usual);
  const scale: Matrix = [to[0]! / from[0]!, 0, 0, 0, to[1]! / from[1]!, 0, 0, 0, to[2]! / from[2]!];
  const adapt = times(inverted(BRADFORD), times(scale, BRADFORD));
  const m = times(inverted(RGB_TO_XYZ), times(adapt, RGB_TO_XYZ));
  // grey keeps its brightness
  const luma = luminance(m[0]! + m[1]! + m[2]!, m[3]! + m[4]! + m[5]!, m[6]! + m[7]! + m[8]!);
  return m.map((v) => v / luma);
}

/** What exposure, contrast, shadows and highlights make of a luminance: a factor. */
export function toneFactor(
  { exposure, contrast, shadows, highlights }: Pick<GradeValues, 'exposure' | 'contrast' | 'shadows' | 'highlights'>,
  light: number,
): number {
  const gain = 2 ** exposure;
  if (contrast === 100 && shadows === 0 && highlights === 0) return gain;
  const before = Math.log2((Math.max(0, light) * gain + TOE) / (GREY + TOE));
  const turned = (before * contrast) / 100;
  // full six stops from grey, nothing at it
  const lifted = turned + shadows * smoothstep(0, 6, -before) + highlights * smoothstep(0, 6, before);
  const after = Math.max(0, 2 ** lifted * (GREY + TOE) - TOE);
  return light > 0 ? after / light : gain;
}

/** A colour of linear light turned and stretched about the grey axis of OKLab, in place. */
function turnColour(rgb: Float64Array, saturation: number, cos: number, sin: number): void {
  const [lightness, a, b] = linearToOklab(rgb[0]!, rgb[1]!, rgb[2]!);
  const turned = oklabToLinear(lightness, saturation * (cos * a - sin * b), saturation * (sin * a + cos * b));
  rgb[0] = Math.max(0, turned[0]);
  rgb[1] = Math.max(0, turned[1]);
  rgb[2] = Math.max(0, turned[2]);
}

/** Steps of the table of tone factors, over 24 stops. */
const TABLE = 2048;
const LOWEST = -16;
const STOPS = 24;

/** Factors for luminances from 2^LOWEST on; what is brighter never becomes darker than what is less bright. */
function toneTable(p: GradeValues): Float32Array {
  let brightest = 0;
  return Float32Array.from({ length: TABLE + 1 }, (_, i) => {
    const light = 2 ** (LOWEST + (STOPS * i) / TABLE);
    brightest = Math.max(brightest, light * toneFactor(p, light));
    return brightest / light;
  });
}

function apply({ picture, params: p, run }: EffectInput<GradeValues>): Picture {
  const { width, height, data } = picture;
  const out = newPicture(width, height, run.shared);
  const balance = whiteBalance(p.temperature, p.tint);
  const balanced = p.temperature !== 0 || p.tint !== 0;
  const turns = p.saturation !== 100 || p.hue !== 0;
  const even = p.contrast === 100 && p.shadows === 0 && p.highlights === 0;
  const factors = toneTable(p);
  const factorOf = (light: number): number => {
    if (even) return factors[0]!;
    const at = ((Math.log2(Math.max(1e-9, light)) - LOWEST) / STOPS) * TABLE;
    const i = Math.min(TABLE - 1, Math.max(0, Math.floor(at)));
    return factors[i]! + (factors[i + 1]! - factors[i]!) * Math.min(1, Math.max(0, at - i));
  };
  const [cos, sin] = [Math.cos((p.hue * Math.PI) / 180), Math.sin((p.hue * Math.PI) / 180)];
  const [kr, kg, kb] = [p.red / 100, p.green / 100, p.blue / 100];
  const rgb = new Float64Array(3);
  for (let y = 0; y < height; y++) {
    if (y % ROWS_PER_LOOK === 0) run.checkpoint(y / height);
    for (let o = y * width * 4; o < (y + 1) * width * 4; o += 4) {
      const alpha = data[o + 3]!;
      out.data[o + 3] = alpha;
      if (alpha <= 0) continue;
      const red = data[o]! / alpha;
      const green = data[o + 1]! / alpha;
      const blue = data[o + 2]! / alpha;
      const r = balanced ? Math.max(0, balance[0]! * red + balance[1]! * green + balance[2]! * blue) : red;
      const g = balanced ? Math.max(0, balance[3]! * red + balance[4]! * green + balance[5]! * blue) : green;
      const b = balanced ? Math.max(0, balance[6]! * red + balance[7]! * green + balance[8]! * blue) : blue;
      const factor = factorOf(luminance(r, g, b));
      rgb[0] = r * factor;
      rgb[1] = g * factor;
      rgb[2] = b * factor;
      if (turns) turnColour(rgb, p.saturation / 100, cos, sin);
      if (p.mono) rgb[0] = rgb[1] = rgb[2] = Math.max(0, kr * rgb[0] + kg * rgb[1] + kb * rgb[2]);
      out.data[o] = rgb[0] * alpha;
      out.data[o + 1] = rgb[1] * alpha;
      out.data[o + 2] = rgb[2] * alpha;
    }
  }
  return out;
}

const signed = (v: number): string => `${v > 0 ? '+' : v < 0 ? '−' : ''}${Math.abs(v).toFixed(1)} st`;

/** Light and colour of the plate: exposure and contrast in stops, temperature by adaptation (Bradford), saturation and hue in OKLab. */
export const grade = defineEffect({
  kind: 'grade',
  group: 'surface',
  label: 'Grade',
  help: 'Exposure, contrast and colour, of all or of a reach of distances',
  params,
  reach: true,
  needs: () => [],
  summary: (p) => (p.mono ? 'black, white' : p.exposure !== 0 ? signed(p.exposure) : 'colour'),
  apply,
});
