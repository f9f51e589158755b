import type { SceneShape } from '../../core/mesh/scene';
import type { ChainInputs, ShotRequest } from '../../core/shot/stage';
import type { Params, ValuesOf } from '../../core/values/params';
import type { Encoders } from '../definition';

/** What of a shot goes out: each has a part of the Output panel. */
export const outputSorts = ['picture', 'depth', 'mesh', 'page'] as const;
export type OutputSort = (typeof outputSorts)[number];

/** What an output works with. */
export interface OutputInput<V> {
  readonly request: ShotRequest;
  readonly inputs: ChainInputs;
  readonly params: V;
  readonly encoders: Encoders;
  /** how the shot is called */
  readonly name: string;
  /** what it says to who does not see it */
  readonly words?: string | undefined;
  /** the shape of another shot of the same framing, in place of the shot's own */
  readonly shape?: SceneShape | undefined;
}

/** A file, and what there is to say of it. */
export interface Written {
  readonly bytes: Uint8Array;
  /** figures of what was made, such as how far off it is */
  readonly told?: string;
  /** its shape, which other shots of the same framing can use */
  readonly shape?: SceneShape;
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
  /** The file, at the size of the request. Throws Aborted, OmbrageError. */
  write(input: OutputInput<ValuesOf<P>>): Promise<Uint8Array | Written>;
}

/** Declares an output. Its button, its settings and the docs follow from this. */
export const defineOutput = <P extends Params>(definition: OutputDefinition<P>): OutputDefinition<P> => definition;

/** What an output has written, whichever way it says so. */
export const writtenOf = (made: Uint8Array | Written): Written => (made instanceof Uint8Array ? { bytes: made } : made);
