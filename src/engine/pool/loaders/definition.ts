import type { FileRef } from '../../../core/need/fileRef';
import type { EstimateNeed, Need } from '../../../core/need/need';
import type { Plane } from '../../../core/picture';
import type { Engine, Job } from '../engine';
import type { HeldKind, HeldKinds } from '../../messages/holdings';

/** Where files and finished maps are kept. */
export interface Sources {
  file(ref: FileRef): Promise<Blob>;
  /** `of`: the frame of a clip that it is of, where it is of one */
  kept(key: string, of?: EstimateNeed): Promise<Plane | null>;
  keep(key: string, plane: Plane, of?: EstimateNeed): Promise<void>;
}

/** What is said of work that takes its time: while it runs, and where it was stopped. */
export interface Work {
  readonly doing: string;
  readonly stopped: string;
  readonly hint: string;
}

/** What a loader works with. What it gives is handed to every worker; an answer that is not wanted any more is dropped. */
export interface Loading {
  readonly engine: Engine;
  readonly sources: Sources;
  /** whether the need is still there, and nothing newer has been asked for it: to be asked after each wait */
  wanted(): boolean;
  /** hands something to every worker; nobody waits, since messages keep their order */
  hold<K extends HeldKind>(kind: K, key: string, value: HeldKinds[K]): void;
  /** says that workers hold something for the need: under its own key, or another where that is only the next best, such as a draft */
  given(key: string): void;
  /** says that there is none, and why */
  without(why: 'stopped'): void;
  /** runs what takes its time: shown with its progress, can be stopped there; null where it was */
  watch(work: Work, begin: (report: (share: number) => void) => Job<Plane>): Promise<Plane | null>;
}

/** Brings what one sort of need asks for. */
export type Loader<N extends Need> = (need: N, loading: Loading) => Promise<void>;
