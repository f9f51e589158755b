import { registryOf } from '../core/values/registry';
import type { LiveSource } from './definition';
import { cameraSource } from './sources/camera';
import { deviceSource } from './sources/device';
import { simulatedSource } from './sources/simulated';

/** Every place that live pictures may come from, as they are offered. */
export const liveSources = registryOf<LiveSource>('live source', [simulatedSource, deviceSource, cameraSource]);
