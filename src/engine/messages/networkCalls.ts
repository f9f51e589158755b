import type { FoundUse } from '../../core/estimate/own/guess';
import type { NetworkAnswer, NetworkRun } from '../../core/estimate/own/runs';

/** What was running when a network was stopped ends so. */
export const NETWORK_STOPPED = 'network-stopped';

/** How a network that is asked is reached from another worker. */
export type NetworkCall = (asked: NetworkRun) => Promise<NetworkAnswer>;

/** What the worker does that runs networks of somebody's own. */
export interface NetworkWorkerApi {
  /** what a file tells of its network */
  read(file: Blob, name: string): Promise<FoundUse>;
  /** readies a network for running, in place of any other */
  open(file: Blob, name: string): Promise<void>;
  run(asked: NetworkRun): Promise<NetworkAnswer>;
}
