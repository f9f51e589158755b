import type { Heard, LiveFrame } from '../definition';

/** What may be heard besides the channels of the source itself. */
export interface ChannelSource {
  readonly kind: string;
  readonly label: string;
  readonly help: string;
  /** begins it; `failed` says what is wrong and what to do */
  open(on: { heard(channels: Heard): void; failed(why: string, hint: string): void }): OpenChannels;
}

export interface OpenChannels {
  /** a picture arrived; `metres` tells the distance of a nearness 0..1. It is written again when this is over. */
  frame?(frame: LiveFrame, metres: (nearness: number) => number): void;
  close(): void;
}

export const defineChannels = (source: ChannelSource): ChannelSource => source;
