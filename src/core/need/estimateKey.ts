import { contentKey } from '../key';
import { networkOf, type EstimateBy } from './estimators';
import { networkUseKey } from './networkUse';

/** Raised when the estimate's method changes, so that kept maps are made anew. */
export const ESTIMATE_VERSION = 10;

/** Address of the estimate of a plate. */
export function estimateKey(sha256: string, by: EstimateBy): string {
  const network = networkOf(by);
  return network ? contentKey('estimate', sha256, by.quality, networkUseKey(network)) : contentKey('estimate', ESTIMATE_VERSION, sha256, by.quality);
}
