import { registryOf } from '../core/values/registry';
import type { LiveSource } from './definition';
import { simulatedSource } from './sources/simulated';

/** Every place that live pictures may come from, as they are offered. */
export const liveSources = registryOf<LiveSource>('live source', [simulatedSource]);
