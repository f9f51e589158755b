import type * as z from 'zod';
import { frames, type NumberParam } from '../params';

/** What a fresh drive begins with. */
export interface DriveStart {
  /** what the number is set to */
  readonly set: number;
  /** a range to swing in */
  readonly swing: number;
  readonly frame: number;
  /** of the shot, frames */
  readonly length: number;
}

/** A number of a drive, as a row shows it. */
export interface DriveField<D> {
  readonly param: NumberParam;
  get(drive: D): number;
  put(drive: D, value: number): D;
}

/** A way in which a number changes over time. */
export interface DriveDefinition<D extends { readonly kind: string }> {
  readonly kind: D['kind'];
  readonly label: string;
  readonly help: string;
  readonly schema: z.ZodType<D>;
  begin(start: DriveStart): D;
  /** the value at a frame, which may lie between two; `set`: what the number is set to without the drive */
  value(drive: D, set: number, frame: number): number;
  /** the frames that stand on its track */
  pins?(drive: D): readonly number[];
  /** the drive with every value that it gives changed, what it swings by as well */
  map(drive: D, change: (value: number) => number): D;
  /** the drive that gives a value at a frame, as near to the old one as it can; absent where it goes about the set value, which is changed itself */
  record?(drive: D, value: number, frame: number): D;
  /** its numbers, for a number that is driven; absent where it has an editor of its own */
  fields?(param: NumberParam): readonly DriveField<D>[];
}

export const defineDrive = <D extends { readonly kind: string }>(definition: DriveDefinition<D>): DriveDefinition<D> => definition;

/** By how much a number swings: its own unit, without its bounds. */
export const amountParam = (param: NumberParam): NumberParam => ({
  ...param,
  label: 'Amount',
  names: {},
  scale: 'linear',
  min: 0,
  max: (param.max - param.min) / 2,
  lowest: -1e6,
  highest: 1e6,
  whole: false,
});

/** Frames that may be told in seconds too. */
export const driveFrames = (label: string, usual = 0, lowest = 0): NumberParam =>
  frames({ label, min: lowest, max: 480, lowest, highest: 36000, default: usual, help: 'Frames, or seconds such as 2 s' });
