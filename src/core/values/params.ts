import * as z from 'zod';
import { anyNumber } from './anyNumber';

/** How a number is shown and read. */
export type Unit = 'm' | 'cm' | 'mm' | 'f/' | 'st' | '°' | '%' | 'px' | 'frames' | 'm/s' | '/s' | '';

interface Common<T> {
  readonly label: string;
  readonly default: T;
  readonly help?: string;
  /** rows of a panel are grouped under this heading */
  readonly section?: string;
  /** its row is there only where choices are set so: their names, and the values of which one is wanted */
  readonly only?: Readonly<Record<string, readonly (string | boolean)[]>>;
  /** has a say where the plate is a clip, for all of it at once: it is not driven */
  readonly ofClips?: boolean;
}

export interface NumberParam extends Common<number> {
  readonly type: 'number';
  readonly unit: Unit;
  /** the range of the track */
  readonly min: number;
  readonly max: number;
  /** what may be typed; the track's range where not given */
  readonly lowest: number;
  readonly highest: number;
  readonly step: number;
  readonly decimals: number;
  readonly scale: 'linear' | 'log';
  /** a whole number */
  readonly whole: boolean;
  /** words shown in place of certain values */
  readonly names?: Readonly<Record<number, string>>;
  /** sets a distance: its control is tinted by it */
  readonly distance: boolean;
}

export interface ToggleParam extends Common<boolean> {
  readonly type: 'toggle';
}

export interface ChoiceParam<T extends string = string> extends Common<T> {
  readonly type: 'choice';
  readonly options: readonly { readonly value: T; readonly label: string }[];
}

export interface ColourParam extends Common<string> {
  readonly type: 'colour';
}

export type Param = NumberParam | ToggleParam | ChoiceParam | ColourParam;
export type Params = Readonly<Record<string, Param>>;

/** The plain value of one parameter. */
export type ValueOf<T extends Param> = T extends NumberParam ? number : T extends ToggleParam ? boolean : T extends ChoiceParam<infer V> ? V : string;

/** Plain values of a set of parameters. */
export type ValuesOf<P extends Params> = { -readonly [K in keyof P]: ValueOf<P[K]> };

type NumberOptions = Common<number> &
  Partial<Pick<NumberParam, 'lowest' | 'highest' | 'step' | 'decimals' | 'scale' | 'names'>> & { min: number; max: number };

const number = (unit: Unit, o: NumberOptions, extra: Partial<NumberParam>): NumberParam => ({
  ...o,
  type: 'number',
  unit,
  lowest: o.lowest ?? o.min,
  highest: o.highest ?? o.max,
  step: o.step ?? 0.01,
  decimals: o.decimals ?? 2,
  scale: o.scale ?? 'linear',
  whole: false,
  distance: false,
  ...extra,
});

export const metres = (o: NumberOptions): NumberParam => number('m', { scale: 'log', ...o }, { distance: true });
/** A place or a length that is no distance from the camera. */
export const metresAside = (o: NumberOptions): NumberParam => number('m', o, {});
export const metresPerSecond = (o: NumberOptions): NumberParam => number('m/s', o, {});
export const perSecond = (o: NumberOptions): NumberParam => number('/s', o, {});
export const centimetres = (o: NumberOptions): NumberParam => number('cm', { decimals: 1, step: 0.5, ...o }, {});
export const frames = (o: NumberOptions): NumberParam => number('frames', { decimals: 0, step: 1, ...o }, {});
export const millimetres = (o: NumberOptions): NumberParam => number('mm', { decimals: 1, step: 1, ...o }, {});
export const fStop = (o: NumberOptions): NumberParam => number('f/', { scale: 'log', decimals: 1, step: 0.1, ...o }, {});
export const stops = (o: NumberOptions): NumberParam => number('st', { decimals: 1, step: 0.1, ...o }, {});
export const degrees = (o: NumberOptions): NumberParam => number('°', { decimals: 1, step: 1, ...o }, {});
export const percent = (o: NumberOptions): NumberParam => number('%', { decimals: 0, step: 1, ...o }, {});
export const pixels = (o: NumberOptions): NumberParam => number('px', { decimals: 1, step: 0.5, ...o }, {});
export const level = (o: NumberOptions): NumberParam => number('', { decimals: 2, ...o }, {});
export const count = (o: NumberOptions): NumberParam => number('', { decimals: 0, step: 1, ...o }, { whole: true });
export const toggle = (o: Common<boolean>): ToggleParam => ({ ...o, type: 'toggle' });
export const colour = (o: Common<string>): ColourParam => ({ ...o, type: 'colour' });
export const choice = <T extends string>(o: Common<T> & { options: readonly { value: T; label: string }[] }): ChoiceParam<T> => ({
  ...o,
  type: 'choice',
});

/** Whether a parameter has a say with these values. */
export const hasSay = ({ only }: Param, values: Readonly<Record<string, unknown>>, params: Params): boolean =>
  !only || Object.entries(only).every(([name, wanted]) => (wanted as readonly unknown[]).includes(values[name] ?? params[name]?.default));

/** The defaults of a set of parameters. */
export const defaultsOf = <P extends Params>(params: P): ValuesOf<P> =>
  Object.fromEntries(Object.entries(params).map(([name, p]) => [name, p.default])) as ValuesOf<P>;

/** Brings a number into what may be set. */
export function clampNumber(param: NumberParam, value: number): number {
  const v = Math.min(param.highest, Math.max(param.lowest, value));
  return param.whole ? Math.round(v) : v;
}

const schemaOf = (param: Param): z.ZodType => {
  if (param.type === 'number') return anyNumber.transform((v) => clampNumber(param, v));
  if (param.type === 'toggle') return z.boolean();
  if (param.type === 'choice') return z.enum(param.options.map((o) => o.value) as [string, ...string[]]);
  return z.string().regex(/^#[0-9a-f]{6}$/i);
};

/** Zod schema of one value: wrong kinds are refused, numbers outside the range are brought into it. */
export const looseSchema = (param: Param): z.ZodType => schemaOf(param);

const schemas = new WeakMap<Params, z.ZodType>();

/** Zod schema of plain values; what is missing or unreadable takes its default. */
export function valuesSchema<P extends Params>(params: P): z.ZodType<ValuesOf<P>> {
  const kept = schemas.get(params);
  if (kept) return kept as z.ZodType<ValuesOf<P>>;
  const shape = Object.fromEntries(Object.entries(params).map(([name, p]) => [name, schemaOf(p).catch(p.default as never)]));
  const schema = z.object(shape) as z.ZodType<ValuesOf<P>>;
  schemas.set(params, schema);
  return schema;
}

/** Unit suffixes that may be typed, in the parameter's own unit. */
const UNITS: Record<string, Record<string, number>> = {
  m: { m: 1, cm: 0.01, mm: 0.001, km: 1000, ft: 0.3048, "'": 0.3048, in: 0.0254, '"': 0.0254, yd: 0.9144 },
  cm: { cm: 1, m: 100, mm: 0.1, ft: 30.48, "'": 30.48, in: 2.54, '"': 2.54, yd: 91.44 },
  mm: { mm: 1, cm: 10, m: 1000, in: 25.4, '"': 25.4 },
  'f/': {},
  st: { st: 1, stop: 1, stops: 1 },
  '°': { '°': 1, deg: 1, rad: 180 / Math.PI },
  '%': { '%': 1 },
  px: { px: 1 },
  frames: { frames: 1, fr: 1 },
  'm/s': { 'm/s': 1, 'km/h': 1 / 3.6 },
  '/s': { '/s': 1 },
  '': {},
};

/** Thousands stand in groups of three, parted by spaces, commas, points or apostrophes, always the same one. */
const GROUPED = /^[+-]?\d{1,3}(?:([ ,.'])\d{3})(?:\1\d{3})*/;

/**
 * Digits as people write them. A point is the decimal mark; a comma is one too, unless three digits follow it ("1,500" is fifteen hundred,
 * "1,5" one and a half). Spaces, commas and apostrophes part groups of three; points do so only where a decimal comma follows
 * ("1.500,5"). Fractions are read: "3/4", "1 1/2". Null where it is no number.
 */
function readDigits(text: string): number | null {
  const t = text
    .replace(/[\u00a0\u2009\u202f]/g, ' ')
    .replace(/[’]/g, "'")
    .trim();
  const fraction = /^([+-]?)(?:(\d+) )?(\d+)\/(\d+)$/.exec(t);
  if (fraction) {
    const value = Number(fraction[2] ?? 0) + Number(fraction[3]) / Number(fraction[4]);
    return Number.isFinite(value) ? (fraction[1] === '-' ? -value : value) : null;
  }
  let plain = t;
  const grouped = GROUPED.exec(t);
  if (grouped) {
    const [whole, mark] = [grouped[0], grouped[1]!];
    const rest = t.slice(whole.length);
    const decimal = mark === ',' ? /^(\.\d*)?$/ : mark === '.' ? /^,\d+$/ : /^([.,]\d*)?$/;
    if (decimal.test(rest)) plain = whole.split(mark).join('') + rest.replace(',', '.');
  }
  plain = plain.replace(/^([+-]?\d*),(\d+)$/, '$1.$2');
  return /^[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?$/.test(plain) ? Number(plain) : null;
}

/** A number with its unit in the parameter's own unit; several parts add up ("5'6\"", "5 ft 6 in"). Null where it cannot be read. */
function readMeasure(param: NumberParam, text: string, fps: number | undefined): number | null {
  const units = param.unit === 'frames' && fps ? { ...UNITS.frames, s: fps, sec: fps } : UNITS[param.unit]!;
  const names = Object.keys(units).sort((a, b) => b.length - a.length);
  const plain = readDigits(text);
  if (plain !== null) return plain;
  let sum = 0;
  let before = '';
  let rest = text.trim();
  for (let parts = 0; rest !== ''; parts++) {
    // the shortest beginning that is a number before a unit; the last part of feet may go without one
    let found: { value: number; length: number; unit: string } | null = null;
    for (let end = 1; end <= rest.length && !found; end++) {
      const follows = (n: string): string => rest.slice(end + n.length);
      // three digits after an apostrophe are thousands
      const name = names.find((n) => rest.startsWith(n, end) && !/^[a-z]/.test(follows(n)) && !(n === "'" && /^\d{3}(?!\d)/.test(follows(n))));
      const digits = name === undefined ? null : readDigits(rest.slice(0, end));
      if (name !== undefined && digits !== null) found = { value: digits * units[name]!, length: end + name.length, unit: name };
    }
    const inches = before === "'" || before === 'ft' ? readDigits(rest) : null;
    if (!found && inches !== null) found = { value: inches * units.in!, length: rest.length, unit: 'in' };
    if (!found || (parts > 0 && (sum < 0 || found.value < 0))) return null;
    sum += found.value;
    before = found.unit;
    rest = rest.slice(found.length).trim();
  }
  return text.trim() === '' ? null : sum;
}

export type ReadNumber =
  | {
      readonly value: number;
      /** said where what was typed was more than may be set */
      readonly limited?: string;
    }
  | { readonly value: null; readonly reason: string };

/**
 * Reads a typed number with its unit ("1.2m", "120 cm", "f/2", "1,500 m", "5'6\"", "1/2 m", "∞"). What is above the range is brought into
 * it; what is below a range that begins above nothing, such as a distance of 0, is refused with the reason. Infinity is read only
 * where the parameter allows it. With a frame rate, frames may be given in seconds ("2 s").
 */
export function readNumber(param: NumberParam, text: string, fps?: number): ReadNumber {
  const t = text.trim().toLowerCase().replace(/[−–]/g, '-').replace(/[″”“]/g, '"').replace(/′/g, "'");
  if (/^(∞|inf|infinity)\s*m?$/.test(t))
    return param.highest === Infinity
      ? { value: Infinity }
      : { value: null, reason: `${param.label} cannot be infinite: up to ${formatNumber(param, param.highest)}.` };
  const value = readMeasure(param, param.unit === 'f/' ? t.replace(/^f\/?\s*/, '') : t, fps);
  if (value === null) {
    const unit = param.unit === 'f/' ? 'an f-number such as f/2.8' : `a number${param.unit ? ` in ${param.unit}` : ''}`;
    return { value: null, reason: `“${text.trim().slice(0, 30)}” cannot be read. Give ${unit}.` };
  }
  if (param.lowest > 0 && value < param.lowest)
    return { value: null, reason: `${param.label} must be at least ${formatNumber({ ...param, names: {} }, param.lowest)}.` };
  const taken = clampNumber(param, value);
  if (value <= param.highest || !Number.isFinite(param.highest)) return { value: taken };
  return { value: taken, limited: `${param.label} goes up to ${formatNumber({ ...param, names: {} }, param.highest)}.` };
}

/** What readNumber reads, or null. */
export const parseNumber = (param: NumberParam, text: string): number | null => readNumber(param, text).value;

/** Significant digits for a distance: 0.42, 1.20, 12.5, 140, 3000. */
const distanceDigits = (v: number): string => (v >= 100 ? v.toFixed(0) : v >= 10 ? v.toFixed(1) : v.toFixed(2));

/** A number as it is shown, with its unit. */
export function formatNumber(param: Pick<NumberParam, 'unit' | 'decimals' | 'names'>, value: number): string {
  const named = param.names?.[value];
  if (named) return named;
  if (value === Infinity) return '∞';
  if (param.unit === 'f/') return `f/${value >= 10 ? value.toFixed(0) : value >= 0.5 ? value.toFixed(1) : value.toFixed(2)}`;
  if (param.unit === 'm') return formatMetres(value);
  // a tenth of a pixel is nothing beside a hundred
  const decimals = param.unit === 'px' && Math.abs(value) >= 100 ? 0 : param.decimals;
  const digits = value.toFixed(decimals).replace('-', '−');
  if (param.unit === 'st') return `${value > 0 ? '+' : ''}${digits} st`;
  if (param.unit === '°') return `${digits}°`;
  return param.unit ? `${digits} ${param.unit}` : digits;
}

/** A distance with its unit; "∞" for infinity. */
export const formatMetres = (value: number): string => (value === Infinity ? '∞' : `${distanceDigits(value).replace('-', '−')} m`);

/** Two distances in few letters: "0.50–3.20 m". */
export const formatSpan = (a: number, b: number): string => `${distanceDigits(Math.min(a, b))}–${formatMetres(Math.max(a, b))}`;

/** Position 0..1 of a value on the parameter's track, and back. */
export function trackPosition(param: NumberParam, value: number): number {
  const t =
    param.scale === 'log' && param.min > 0
      ? Math.log(value / param.min) / Math.log(param.max / param.min)
      : (value - param.min) / (param.max - param.min);
  return Math.min(1, Math.max(0, Number.isNaN(t) ? 0 : t));
}

export function valueAtTrack(param: NumberParam, t: number): number {
  // the end of a logarithmic track stands for nothing at all, where that may be set
  if (t <= 0 && param.scale === 'log' && param.lowest === 0) return 0;
  const v = param.scale === 'log' && param.min > 0 ? param.min * (param.max / param.min) ** t : param.min + (param.max - param.min) * t;
  const digits = param.unit === 'm' ? (v >= 100 ? 0 : v >= 10 ? 1 : 2) : param.unit === 'f/' && v < 0.5 ? 2 : param.decimals;
  return clampNumber(param, Number(v.toFixed(digits)));
}
