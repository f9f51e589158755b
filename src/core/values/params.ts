import { z } from 'zod';
import { OmbrageError } from '../error';

/** How a number is shown and read. */
export type Unit = 'm' | 'mm' | 'f/' | 'st' | '°' | '%' | 'px' | 'frames' | '';

interface Common<T> {
  readonly label: string;
  readonly default: T;
  readonly help?: string;
  /** rows of a panel are grouped under this heading */
  readonly section?: string;
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

/** Plain values of a set of parameters. */
export type ValuesOf<P extends Params> = {
  -readonly [K in keyof P]: P[K] extends NumberParam ? number : P[K] extends ToggleParam ? boolean : P[K] extends ChoiceParam<infer T> ? T : string;
};

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

/** The defaults of a set of parameters. */
export const defaultsOf = <P extends Params>(params: P): ValuesOf<P> =>
  Object.fromEntries(Object.entries(params).map(([name, p]) => [name, p.default])) as ValuesOf<P>;

/** Brings a number into what may be set. */
export function clampNumber(param: NumberParam, value: number): number {
  const v = Math.min(param.highest, Math.max(param.lowest, value));
  return param.whole ? Math.round(v) : v;
}

const schemaOf = (param: Param): z.ZodType => {
  if (param.type === 'number') return z.number().transform((v) => clampNumber(param, v));
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
  const schema = z.object(shape) as unknown as z.ZodType<ValuesOf<P>>;
  schemas.set(params, schema);
  return schema;
}

/** Unit suffixes that may be typed, in the parameter's own unit. */
const UNITS: Record<string, Record<string, number>> = {
  m: { m: 1, cm: 0.01, mm: 0.001, km: 1000, ft: 0.3048, in: 0.0254 },
  mm: { mm: 1, cm: 10, m: 1000, in: 25.4 },
  'f/': {},
  st: { st: 1, stop: 1, stops: 1 },
  '°': { '°': 1, deg: 1, rad: 180 / Math.PI },
  '%': { '%': 1 },
  px: { px: 1 },
  frames: { frames: 1, fr: 1 },
  '': {},
};

/**
 * Reads a typed number with its unit ("1.2m", "120 cm", "f/2", "∞"). Returns null where it cannot be read.
 * Infinity is read only where the parameter allows it.
 */
export function parseNumber(param: NumberParam, text: string): number | null {
  const t = text.trim().toLowerCase().replace(',', '.').replace('−', '-');
  if (/^(∞|inf|infinity)\s*m?$/.test(t)) return param.highest === Infinity ? Infinity : null;
  const match = /^(?:f\/?)?\s*([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)\s*([a-z°%]*)$/.exec(t);
  if (!match) return null;
  const unit = match[2]!;
  const scale = unit === '' ? 1 : UNITS[param.unit]![unit];
  if (scale === undefined) return null;
  return clampNumber(param, Number(match[1]) * scale);
}

/** Significant digits for a distance: 0.42, 1.20, 12.5, 140, 3000. */
const distanceDigits = (v: number): string => (v >= 100 ? v.toFixed(0) : v >= 10 ? v.toFixed(1) : v.toFixed(2));

/** A number as it is shown, with its unit. */
export function formatNumber(param: Pick<NumberParam, 'unit' | 'decimals' | 'names'>, value: number): string {
  const named = param.names?.[value];
  if (named) return named;
  if (value === Infinity) return '∞';
  if (param.unit === 'f/') return `f/${value >= 10 ? value.toFixed(0) : value.toFixed(1)}`;
  if (param.unit === 'm') return formatMetres(value);
  // a tenth of a pixel is nothing beside a hundred
  const decimals = param.unit === 'px' && Math.abs(value) >= 100 ? 0 : param.decimals;
  const digits = value.toFixed(decimals).replace('-', '−');
  if (param.unit === 'st') return `${value > 0 ? '+' : ''}${digits} st`;
  if (param.unit === '°') return `${digits}°`;
  return param.unit ? `${digits} ${param.unit}` : digits;
}

/** A distance with its unit; "∞" for infinity. */
export const formatMetres = (value: number): string => (value === Infinity ? '∞' : `${distanceDigits(value)} m`);

/** Position 0..1 of a value on the parameter's track, and back. */
export function trackPosition(param: NumberParam, value: number): number {
  const t =
    param.scale === 'log' && param.min > 0
      ? Math.log(value / param.min) / Math.log(param.max / param.min)
      : (value - param.min) / (param.max - param.min);
  return Math.min(1, Math.max(0, Number.isNaN(t) ? 0 : t));
}

export function valueAtTrack(param: NumberParam, t: number): number {
  const v = param.scale === 'log' && param.min > 0 ? param.min * (param.max / param.min) ** t : param.min + (param.max - param.min) * t;
  const digits = param.unit === 'm' ? (v >= 100 ? 0 : v >= 10 ? 1 : 2) : param.decimals;
  return clampNumber(param, Number(v.toFixed(digits)));
}

/** Sets one value from text, as the command line does. Throws with the name and what is allowed. */
export function readSetting(params: Params, name: string, text: string): number | boolean | string {
  const param = params[name];
  if (!param) throw new OmbrageError('unknown-setting', `There is no setting "${name}".`, `Settings: ${Object.keys(params).join(', ')}.`);
  const bad = (allowed: string): OmbrageError => new OmbrageError('bad-setting', `"${text}" is no value for ${name}.`, allowed);
  if (param.type === 'number') {
    const v = parseNumber(param, text);
    if (v === null) throw bad(`Give a number from ${param.lowest} to ${param.highest}${param.unit ? ` (${param.unit})` : ''}.`);
    return v;
  }
  if (param.type === 'toggle') {
    if (!/^(on|off|true|false|yes|no|1|0)$/i.test(text)) throw bad('Give on or off.');
    return /^(on|true|yes|1)$/i.test(text);
  }
  if (param.type === 'choice') {
    if (!param.options.some((o) => o.value === text)) throw bad(`Give one of ${param.options.map((o) => o.value).join(', ')}.`);
    return text;
  }
  if (!/^#[0-9a-f]{6}$/i.test(text)) throw bad('Give a colour such as #c9d2d8.');
  return text;
}
