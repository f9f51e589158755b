import { newPlane, type Plane } from '../../picture';
import type { CheckDefinition } from './definition';

const RANKS = 1024;
const BINS = 40;

/** Every value as the share of the plane that lies below it. */
function ranks(plane: Plane): Float32Array {
  const counts = new Float64Array(RANKS + 1);
  const at = (v: number): number => Math.min(RANKS - 1, Math.max(0, Math.floor(v * RANKS)));
  for (const v of plane.data) counts[at(v)]!++;
  const below = new Float64Array(RANKS);
  let sum = 0;
  for (let k = 0; k < RANKS; k++) {
    below[k] = (sum + counts[k]! / 2) / plane.data.length;
    sum += counts[k]!;
  }
  return Float32Array.from(plane.data, (v) => below[at(v)]!);
}

/** Where the map and an estimate from the picture put things in another order. */
export const againstEstimate: CheckDefinition = {
  kind: 'against-estimate',
  label: 'Against estimate',
  help: 'Where the map and an estimate from the picture alone put things in another order',
  needsEstimate: true,
  run: ({ raw, estimate }) => {
    const marks = newPlane(raw.width, raw.height);
    if (!estimate) return { marks, figure: 'estimating…' };
    const a = ranks(raw);
    const b = ranks(estimate);
    const bins = new Array<number>(BINS).fill(0);
    let sum = 0;
    let ab = 0;
    for (let i = 0; i < a.length; i++) {
      const d = a[i]! - b[i]!;
      marks.data[i] = Math.min(1, Math.max(0, (Math.abs(d) - 0.1) / 0.5));
      sum += d * d;
      ab += (a[i]! - 0.5) * (b[i]! - 0.5);
      bins[Math.min(BINS - 1, Math.floor(((d + 1) / 2) * BINS))]! += 1 / a.length;
    }
    let aa = 0;
    let bb = 0;
    for (let i = 0; i < a.length; i++) {
      aa += (a[i]! - 0.5) ** 2;
      bb += (b[i]! - 0.5) ** 2;
    }
    // Spearman's rank correlation; without spread on either side there is no order to compare
    const rho = aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : 0;
    const words = rho < -0.2 ? 'the other way round' : `order agrees ${Math.round(50 + 50 * rho)} %`;
    return {
      marks,
      figure: `${words}, off by ${(100 * Math.sqrt(sum / a.length)).toFixed(0)} % of ranks`,
      chart: { bins, from: 'estimate nearer', to: 'map nearer', title: 'Difference of rank' },
    };
  },
};
