import type { Params } from '../core/values/params';
import type { Plane, Raster } from '../core/picture';

/** What channels of a source are worth, by name. */
export type Heard = Readonly<Record<string, number>>;

/** A picture as it arrives. */
export interface LiveFrame {
  /** counted up in one feed, whatever the source counts: by it a picture is named, and freed */
  readonly id: number;
  /** counted by the source: what is missing in between was lost */
  readonly number: number;
  /** when it was taken, ms since 1970 by the clock of this machine */
  readonly at: number;
  /** sRGB, straight alpha; depth in alpha where the source sees it */
  readonly raster: Raster;
  /** that depth as nearness, 0..1; null where the source sees none */
  readonly nearness: Plane | null;
  /** channels as they were when it was taken */
  readonly channels: Heard;
  /** what white and black of its depth stand for, m, where the source tells */
  readonly ends?: { readonly near: number; readonly far: number };
}

/** How a source is doing; `why` and `hint` say what is wrong and what to do. */
export type LiveState =
  | { readonly is: 'waiting' }
  | { readonly is: 'running' }
  | { readonly is: 'gone'; readonly why: string; readonly hint: string; readonly again: boolean };

/** Who listens to a source. */
export interface LiveListener {
  frame(frame: LiveFrame): void;
  /** channels that came without a picture */
  heard(channels: Heard, at: number): void;
  state(state: LiveState): void;
}

/** A source that runs. */
export interface LiveFeed {
  /** its settings are others */
  set(values: LiveValues): void;
  /** nobody reads a frame any more: its memory may be written again */
  free(frame: LiveFrame): void;
  close(): void;
}

export type LiveValues = Readonly<Record<string, number | boolean | string>>;

/** Where live pictures come from. */
export interface LiveSource {
  readonly kind: string;
  readonly label: string;
  readonly help: string;
  /** its numbers and switches, as rows of a panel */
  readonly params: Params;
  /** settings that are text, such as an address: their label and what they are at first */
  readonly texts?: Readonly<Record<string, { readonly label: string; readonly default: string; readonly help: string }>>;
  /** what white and black of its alpha stand for, m; absent where it sees no depth */
  readonly ends?: { readonly near: number; readonly far: number };
  /** its horizontal field of view, degrees, where it is known */
  readonly hfovDegrees?: number;
  /** the size of its pictures, px; others are told by their frames */
  readonly size: { readonly width: number; readonly height: number };
  /** names of its channels, where they are known before it runs */
  readonly channels: readonly string[];
  /** begins it; it begins again by itself where it was lost and can be found again */
  open(values: LiveValues, on: LiveListener): LiveFeed;
}

export const defineSource = (source: LiveSource): LiveSource => source;
