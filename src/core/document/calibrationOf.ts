import type { Calibration } from '../depth/calibrate';
import type { StoredCalibration } from './schema';

/** The calibration to compute with: infinity as a number. */
export const calibrationOf = (c: StoredCalibration): Calibration => ({ ...c, far: c.far === 'infinite' ? Infinity : c.far });
export const storedFar = (far: number): StoredCalibration['far'] => (Number.isFinite(far) && far < 1e7 ? far : 'infinite');
