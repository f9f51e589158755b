import type { Params, ValuesOf } from '../params';

/** What a step remembers from one sample to the next. */
export interface StepRun {
  /** The value after a sample: `seconds` since the one before (0 for the first). What is no number was not measured, and changes nothing. */
  next(value: number, seconds: number): number;
}

/** Something that is done to a signal: numbers that come one after the other, at any rate. */
export interface StepDefinition<P extends Params = Params> {
  readonly kind: string;
  readonly label: string;
  readonly help: string;
  readonly params: P;
  /** the step in words, as part of a sentence */
  sentence(values: ValuesOf<P>): string;
  begin(values: ValuesOf<P>): StepRun;
}

/** Declares a step of a signal. Its rows and docs follow from this. */
export const defineStep = <P extends Params>(definition: StepDefinition<P>): StepDefinition<P> => definition;

/** A step that remembers nothing. */
export const plainRun = (of: (value: number) => number): StepRun => ({ next: (value) => of(value) });
