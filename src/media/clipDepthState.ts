import { estimatesOf, seriesOf, type ClipDepthSpec } from '../core/motion/clipSpec';
import { keptFrames, keptReport, type DepthReport } from './clipStore';

/** What there is of a clip's depth: frames estimated, frames finished, and how steady they are. */
export interface ClipDepthState {
  readonly estimated: readonly number[];
  readonly finished: readonly number[];
  readonly report: DepthReport | null;
}

export async function stateOf(spec: ClipDepthSpec): Promise<ClipDepthState> {
  const estimates = estimatesOf(spec);
  const [estimated, finished, report] = await Promise.all([
    estimates === null ? [] : keptFrames(estimates),
    keptFrames(seriesOf(spec)),
    keptReport(seriesOf(spec)),
  ]);
  return { estimated, finished, report };
}

/** Whether there is anything to find: the frames of a clip of maps are there as they are. */
export const isFound = ({ to, source, steady }: ClipDepthSpec): boolean => to >= 1 && (source.is === 'estimate' || steady > 0);

/** How many frames have the depth that was asked for: steady, or as it was estimated. */
export const framesDone = ({ steady }: ClipDepthSpec, { estimated, finished }: ClipDepthState): number => (steady > 0 ? finished : estimated).length;
