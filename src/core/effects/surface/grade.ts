import { workedRows } from '../../kernels/workedRows';
import { linearToOklab, luminance, oklabToLinear, type Rgb } from '../../raster/colour';
import type { Picture } from '../../picture';
import { smoothstep } from '../../scalar';
import { degrees, percent, stops, toggle, type ValuesOf } from '../../values/params';
import { defineEffect, type EffectInput } from '../definition';

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

/** What the kernel is told of what there is to do, as bits. */
const DOES = { balanced: 1, even: 2, turned: 4, mono: 8 } as const;

/** Settings as the kernel and its twin take them. */
export interface GradePlan {
  /** white balance, 9; saturation times cosine and sine of the turn of hue; shares of red, green and blue in grey */
  readonly numbers: Float32Array;
  readonly table: Float32Array;
  readonly balanced: boolean;
  /** one factor for all light */
  readonly even: boolean;
  readonly turned: boolean;
  readonly mono: boolean;
}

export function gradePlan(p: GradeValues): GradePlan {
  const hue = (p.hue * Math.PI) / 180;
  const stretch = p.saturation / 100;
  return {
    numbers: Float32Array.from([
      ...whiteBalance(p.temperature, p.tint),
      stretch * Math.cos(hue),
      stretch * Math.sin(hue),
      p.red / 100,
      p.green / 100,
      p.blue / 100,
    ]),
    table: toneTable(p),
    balanced: p.temperature !== 0 || p.tint !== 0,
    even: p.contrast === 100 && p.shadows === 0 && p.highlights === 0,
    turned: p.saturation !== 100 || p.hue !== 0,
    mono: p.mono,
  };
}

/** What the kernel does to one pixel of light that is not premultiplied. */
export function gradeTwin({ numbers: n, table, ...does }: GradePlan, [red, green, blue]: Rgb): Rgb {
  const of = (at: number, r: number, g: number, b: number): number => Math.max(0, n[at]! * r + n[at + 1]! * g + n[at + 2]! * b);
  let rgb: Rgb = does.balanced ? [of(0, red, green, blue), of(3, red, green, blue), of(6, red, green, blue)] : [red, green, blue];
  const stops = Math.log2(Math.max(1e-9, luminance(...rgb))) - LOWEST;
  const at = Math.min(TABLE, Math.max(0, (TABLE * stops) / STOPS));
  const step = Math.min(TABLE - 1, Math.floor(at));
  const factor = does.even ? table[0]! : table[step]! + (table[step + 1]! - table[step]!) * (at - step);
  rgb = [rgb[0] * factor, rgb[1] * factor, rgb[2] * factor];
  if (does.turned) {
    const [lightness, a, b] = linearToOklab(...rgb);
    const [r, g, bl] = oklabToLinear(lightness, n[9]! * a - n[10]! * b, n[10]! * a + n[9]! * b);
    rgb = [Math.max(0, r), Math.max(0, g), Math.max(0, bl)];
  }
  if (!does.mono) return rgb;
  const grey = of(11, ...rgb);
  return [grey, grey, grey];
}

function apply({ picture, params: p, run }: EffectInput<GradeValues>): Picture {
  const plan = gradePlan(p);
  const how = Object.entries(DOES).reduce((sum, [does, bit]) => sum + (plan[does as keyof typeof DOES] ? bit : 0), 0);
  return workedRows(picture, run, (k, row) => {
    const [numbers, table] = [k.put(plan.numbers), k.put(plan.table)];
    return () => k.run.gradeRow(row, picture.width, numbers, table, how);
  });
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
