import type { Plane } from '../picture';
import { seenInBoth } from './align';
import type { Link } from './links';

/** How much a map flickers: the mean change of nearness from the frame before, along flow, over pixels that are seen in both. Null where nothing links them. */
export function flickerAt(map: Plane, mapBefore: Plane, link: Link | null): number | null {
  if (!link) return null;
  const { x, y } = seenInBoth(map, mapBefore, link, 2);
  if (x.length === 0) return null;
  let sum = 0;
  for (let i = 0; i < x.length; i++) sum += Math.abs(x[i]! - y[i]!);
  return sum / x.length;
}

/** How much maps flicker, frame by frame; `before`: links of each frame to the one before it. */
export const flickersOf = (maps: readonly Plane[], before: readonly (Link | null)[]): readonly (number | null)[] =>
  maps.map((map, t) => (t > 0 ? flickerAt(map, maps[t - 1]!, before[t] ?? null) : null));

/** The mean of what is known. */
export function meanFlicker(flickers: readonly (number | null)[]): number {
  const known = flickers.filter((f): f is number => f !== null);
  return known.length > 0 ? known.reduce((a, b) => a + b, 0) / known.length : 0;
}
