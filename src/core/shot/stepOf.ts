import type { Address } from '../key';
import { addressOf } from '../key';
import { remember, type Kept, type Stage, type StageCache } from './stage';

/** A value that changes the pixels of a step and not what they show: lengths in px of the rendering, a quick way of making it. */
export class Sized<T> {
  constructor(readonly value: T) {}
}

export const sized = <T>(value: T): Sized<T> => new Sized(value);

/** What steps are made of: stages of steps before, values of JSON, and values of one size. */
export type StepInputs = Readonly<Record<string, unknown>>;

/** What a step reads of its inputs: the pixels of stages, and the values themselves. */
export type StepReads<I extends StepInputs> = {
  readonly [K in keyof I]: I[K] extends Stage<infer T> | null ? T | (null extends I[K] ? null : never) : I[K] extends Sized<infer T> ? T : I[K];
};

const isAddress = (input: unknown): input is Address => typeof input === 'object' && input !== null && 'fingerprint' in input && 'key' in input;

/** The address of a step: everything that it can read names it. */
export const stepAddress = (name: string, inputs: StepInputs): Address =>
  addressOf((of) => [
    name,
    Object.fromEntries(
      Object.entries(inputs).map(([as, input]) => [
        as,
        isAddress(input)
          ? of({ fingerprint: input.fingerprint, key: input.key })
          : input instanceof Sized
            ? of({ fingerprint: null, key: input.value })
            : input,
      ]),
    ),
  ]);

/** Inputs as they are read: a stage is made when its pixels are asked for; what is no input cannot be read. */
export function readsOf<I extends StepInputs>(name: string, inputs: I): StepReads<I> {
  return new Proxy(inputs, {
    get: (all, as) => {
      if (typeof as !== 'string' || !Object.hasOwn(all, as)) throw new Error(`the step ${name} reads ${String(as)}, which is none of its inputs`);
      const input = all[as];
      if (input instanceof Sized || (isAddress(input) && 'value' in input)) return (input as { readonly value: unknown }).value;
      return input;
    },
    // what is read of a proxy is not what its target holds
  }) as StepReads<I>;
}

/**
 * A step of the chain: found under the address that its inputs give, or made of them when it is first read. `make` stands by itself and is given all
 * that it may read, so that there is nothing its address does not know.
 */
export const stepOf = <I extends StepInputs, T extends Kept>(cache: StageCache, name: string, inputs: I, make: (read: StepReads<I>) => T): Stage<T> =>
  remember(cache, stepAddress(name, inputs), () => make(readsOf(name, inputs)));
