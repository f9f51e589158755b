import { contentKey } from '../key';
import type { Quality } from './estimators';

/** Raised when the estimate's method changes, so that kept maps are made anew. */
export const ESTIMATE_VERSION = 10;

/** Address of the estimate of a plate. */
export const estimateKey = (sha256: string, quality: Quality): string => contentKey('estimate', ESTIMATE_VERSION, sha256, quality);
