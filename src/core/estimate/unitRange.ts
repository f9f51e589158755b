import type { Plane } from '../picture';
import { quantile } from '../raster/filters';

/** Stretched in place to 0..1 between its lowest and highest half per cent. */
export function unitRange(map: Plane): Plane {
  const low = quantile(map, 0.005);
  const high = Math.max(low + 1e-3, quantile(map, 0.995));
  for (let i = 0; i < map.data.length; i++) map.data[i] = Math.min(1, Math.max(0, (map.data[i]! - low) / (high - low)));
  return map;
}
