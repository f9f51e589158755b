import { useMemo } from 'react';
import { nearnessHex } from '../../core/raster/colour';
import { hueNearness } from '../../core/depth/calibrate';
import { calibrationOf } from '../../core/document/defaults';
import { useSettings } from '../state/documentStore';

/** The colour that a distance has in the open shot. */
export function useTint(): (metres: number) => string {
  const { calibration } = useSettings();
  return useMemo(() => {
    const c = calibrationOf(calibration);
    return (metres) => nearnessHex(hueNearness(metres, c));
  }, [calibration]);
}
