import { valuesAt, type Drives } from './drive';
import { valuesSchema, type Params, type ValuesOf } from './params';

/** A place in a shot's time. */
export interface Moment {
  /** counted from 0; may lie between frames */
  readonly frame: number;
  /** frames a second */
  readonly fps: number;
}

/** Frame rates in use. */
export const RATES = [23.976, 24, 25, 29.97, 30, 48, 50, 59.94, 60] as const;

/** The frame rate of a shot that has none of its own. */
export const USUAL_FPS = 24;

/** The first frame of a shot. */
export const START: Moment = { frame: 0, fps: USUAL_FPS };

/** Something whose values are set, and driven, by a person: a layer, an effect, a step of clean-up, a move. */
export interface DrivenItem {
  readonly values: Readonly<Record<string, unknown>>;
  readonly drives?: Drives;
}

/** What values of a document were read as, by the parameters they were read by: parts of a document do not change, and are read often. */
const read = new WeakMap<object, WeakMap<Params, unknown>>();

/** The one reader of values: those of an item at a moment, by its definition. What is missing or unreadable takes its default. Not to be written. */
export function paramsAt<P extends Params>({ params }: { readonly params: P }, { values, drives }: DrivenItem, at: Moment): ValuesOf<P> {
  const driven = drives !== undefined && Object.keys(drives).length > 0;
  if (driven || !Object.isFrozen(values)) return valuesSchema(params).parse(valuesAt(values, drives, at.frame));
  let known = read.get(values);
  if (!known) read.set(values, (known = new WeakMap()));
  let found = known.get(params) as ValuesOf<P> | undefined;
  if (!found) known.set(params, (found = Object.freeze(valuesSchema(params).parse(values)) as ValuesOf<P>));
  return found;
}
