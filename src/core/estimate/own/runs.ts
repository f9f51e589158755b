import type { NetworkUse } from '../../need/networkUse';

/** What a network is given: `dims` are the sides of `data`, outermost first; `input` and `output` its names for them. */
export interface NetworkRun extends Pick<NetworkUse, 'input' | 'output' | 'type'> {
  readonly data: Float32Array;
  readonly dims: readonly number[];
}

/** What it answers. */
export interface NetworkAnswer {
  readonly data: Float32Array;
  readonly dims: readonly number[];
  /** what the run alone took, s */
  readonly seconds?: number;
}

/** A network that is ready to run, wherever it does. */
export interface OpenNetwork {
  run(asked: NetworkRun): Promise<NetworkAnswer>;
  close(): Promise<void>;
}
