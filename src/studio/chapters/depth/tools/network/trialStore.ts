import { create } from 'zustand';
import type { GivenDepth, NetworkUse, ValueScale } from '../../../../../core/need/networkUse';
import type { NetworkTrial } from '../../../../../engine/messages/estimateApi';
import type { NetworkRow } from '../../../../../store/database';

/** A way of asking a network: tried, failed, or not yet there. */
export type Tried =
  | { readonly trial: NetworkTrial; readonly size: NetworkUse['size']; readonly failed?: undefined }
  | { readonly failed: string; readonly trial?: undefined }
  | null;

export interface Trials {
  readonly row: Pick<NetworkRow, 'sha256' | 'name' | 'found'>;
  readonly tried: Readonly<Record<ValueScale, Tried>>;
  /** what somebody said that it gives; null: as each trial tells */
  readonly gives: GivenDepth | null;
  readonly sharper: boolean;
}

/** Ways of asking a network that are being tried on the open shot, for somebody to choose from. */
export const useTrials = create<{ readonly trials: Trials | null }>()(() => ({ trials: null }));

export const changeTrials = (change: Partial<Pick<Trials, 'gives' | 'sharper'>>): void =>
  useTrials.setState(({ trials }) => ({ trials: trials && { ...trials, ...change } }));

/** What a trial's answer is taken for. */
export const givesOf = (trials: Trials, { gives }: NetworkTrial): GivenDepth => trials.gives ?? gives;
