import type { Plane } from '../../core/picture';
import { defineChannels } from './definition';

/** So much of the picture may be nearer: single pixels are noise. */
const SHARE = 0.005;
const STRIDE = 7;
const BINS = 512;

/** The nearness than which so small a share of a map is nearer; null where nothing is known. */
export function nearestOf({ data }: Plane): number | null {
  const counts = new Uint32Array(BINS);
  let all = 0;
  for (let i = 0; i < data.length; i += STRIDE) {
    const v = data[i]!;
    if (!(v >= 0)) continue;
    counts[Math.min(BINS - 1, Math.floor(v * BINS))]!++;
    all++;
  }
  if (all === 0) return null;
  let left = SHARE * all;
  for (let k = BINS - 1; k >= 0; k--) {
    left -= counts[k]!;
    if (left < 0) return (k + 0.5) / BINS;
  }
  return 0;
}

/** How far the nearest thing is, told from the picture's own depth. */
export const nearestChannels = defineChannels({
  kind: 'nearest',
  label: 'The nearest thing',
  help: 'How far it is, m, from the depth that comes with the picture',
  open: ({ heard }) => ({
    frame: ({ nearness }, metres) => {
      const found = nearness && nearestOf(nearness);
      const distance = found === null ? Infinity : metres(found);
      if (Number.isFinite(distance)) heard({ 'nearest, m': distance });
    },
    close: () => undefined,
  }),
});
