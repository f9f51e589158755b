import type { ChainInputs, ShotRequest } from '../../core/shot/stage';
import type { Params, ValuesOf } from '../../core/values/params';
import type { Encoders } from '../definition';

/** What of a shot goes out: each has a part of the Output panel. */
export const outputSorts = ['picture', 'depth'] as const;
export type OutputSort = (typeof outputSorts)[number];

/** What an output works with. */
export interface OutputInput<V> {
  readonly request: ShotRequest;
  readonly inputs: ChainInputs;
  readonly params: V;
  readonly encoders: Encoders;
}

/** A way in which a shot goes out as a file. */
export interface OutputDefinition<P extends Params = Params> {
  readonly kind: string;
  readonly of: OutputSort;
  readonly label: string;
  /** what it is, in a line under its button */
  readonly note: string;
  readonly extension: string;
  readonly mime: string;
  readonly params: P;
  /** The bytes of the file, at the size of the request. Throws Aborted, OmbrageError. */
  write(input: OutputInput<ValuesOf<P>>): Promise<Uint8Array>;
}

/** Declares an output. Its button, its settings and the docs follow from this. */
export const defineOutput = <P extends Params>(definition: OutputDefinition<P>): OutputDefinition<P> => definition;
