import { boxMean } from '../../raster/filters';
import { newPlane } from '../../picture';
import { bandShare, greyStep } from '../cleanup/bands';
import type { CheckDefinition } from './definition';

const BINS = 64;
/** Local differences of this many grey steps are drawn at full strength. */
const FULL = 1;
const FINEST = 1 / 1024;

/** Local contrast of the map, stretched until single steps of grey show. */
export const banding: CheckDefinition = {
  kind: 'banding',
  label: 'Banding',
  help: 'Local contrast of the map, stretched until single steps of grey show',
  run: ({ raw }) => {
    const { width, height, data } = raw;
    const mean = boxMean(boxMean(raw, 5), 5);
    const step = Math.max(FINEST, greyStep(raw));
    const marks = newPlane(width, height);
    for (let i = 0; i < data.length; i++) {
      const d = Math.abs(data[i]! - mean.data[i]!) / (FULL * step);
      // edges of things are no bands
      marks.data[i] = d > 6 ? 0 : Math.min(1, d);
    }
    const bins = new Array<number>(BINS).fill(0);
    for (const v of data) bins[Math.min(BINS - 1, Math.floor(v * BINS))]! += 1 / data.length;
    const greys = greyStep(raw) > 0 ? `, ${Math.round(1 / greyStep(raw)) + 1} greys` : '';
    return {
      marks,
      figure: `${(100 * bandShare(raw)).toFixed(0)} % in flat steps${greys}`,
      chart: { bins, from: 'far', to: 'near', title: 'Grey of the map' },
    };
  },
};
