import { newPlane, type Plane } from '../picture';
import type { Blend } from './blend';
import type { LayerResult } from './definition';

/** Grey of a plate for which no layer has anything yet. */
export const EMPTY_RAW = 0.5;

/** What lies under the lowest layer: even grey where nothing has been made, the far end where something has. */
export function emptyStack(width: number, height: number, nothing: boolean, shared = false): Plane {
  const out = newPlane(width, height, shared);
  if (nothing) out.data.fill(EMPTY_RAW);
  return out;
}

/**
 * Lays one layer over `below`, in place. `opacity` 0..1. A map that covers everything and lies lowest has nothing below it to
 * show through, so `lowest` makes it opaque.
 */
export function layOver(below: Plane, { nearness, coverage }: LayerResult, blend: Blend, opacity: number, lowest: boolean): void {
  const { data } = below;
  const top = nearness.data;
  const cover = coverage?.data ?? null;
  const k = lowest && !cover ? 1 : opacity;
  if (lowest && !cover && blend === 'replace') {
    data.set(top);
    return;
  }
  for (let i = 0; i < data.length; i++) {
    const a = cover ? k * cover[i]! : k;
    if (a === 0) continue;
    const b = data[i]!;
    let v = top[i]!;
    if (b !== b) {
      // what lies below is not known: it cannot show through
      if (a >= 0.5) data[i] = v;
      continue;
    }
    if (v !== v && !lowest) continue;
    if (blend === 'nearer') v = v > b ? v : b;
    else if (blend === 'farther' && !(lowest && !cover)) v = v < b ? v : b;
    else if (blend === 'add') v = v + b > 1 ? 1 : v + b;
    data[i] = b + a * (v - b);
  }
}
