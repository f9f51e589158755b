import { useMemo } from 'react';
import { nearnessHex } from '../../core/raster/colour';
import { hueOf, type HueSpread } from '../../core/depth/hues';
import { calibrationOf } from '../../core/document/defaults';
import { useSession } from '../state/sessionStore';
import { useShotNow } from '../state/shotNow';

/** How the hues lie over the depths that are shown; the same object while nothing in it changed. */
export function useHues(): HueSpread | null {
  return useSession(sameHues);
}

let latest: HueSpread | null = null;

function sameHues({ preview }: { readonly preview: { readonly hues?: HueSpread } | null }): HueSpread | null {
  const next = preview?.hues ?? null;
  if (!next || !latest || next.some((v, k) => Math.abs(v - latest![k]!) > 0.004)) latest = next;
  return latest;
}

/** The colour that a distance has in the open shot. */
export function useTint(): (metres: number) => string {
  const { calibration } = useShotNow()!.settings;
  const hues = useHues();
  return useMemo(() => {
    const c = calibrationOf(calibration);
    return (metres) => nearnessHex(hueOf(metres, c, hues));
  }, [calibration, hues]);
}
