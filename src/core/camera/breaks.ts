import type { Plane } from '../picture';

/** Numbers kept of each cut: inverse distance, 1/m; how clean it is, 0 to 1; share of the picture that is nearer. Nearest first. */
const BREAK = 3;
/** Distances at which a cut is tried, and the share of inverse distance by which neighbours that it parts must differ to be two things. */
const CUTS = 96;
const APART = 0.05;
/** What lies beyond so many times the nearest distance is not told apart. */
const DEEPEST = 1000;

/** How clean a cut at each distance would be: the share of its outline that runs along jumps of depth. `least` and `most`: ends of inverse distance. */
export function breaksOf({ width: w, height: h, data }: Plane, [least, most]: readonly [number, number]): Float32Array {
  const far = Math.max(least, most / DEEPEST);
  const span = Math.log(most / far) || 1;
  const binOf = (q: number): number => Math.max(0, Math.min(CUTS, Math.ceil((CUTS * Math.log(most / Math.max(far, q))) / span)));
  const bins = Int16Array.from(data, (z) => binOf(1 / Math.max(1e-3, z)));
  // differences from one cut to the next: a pair of neighbours is parted by all cuts between their bins
  const outline = new Float64Array(CUTS + 2);
  const jumps = new Float64Array(CUTS + 2);
  const nearer = new Float64Array(CUTS + 2);
  const pair = (i: number, j: number): void => {
    const [a, b] = [Math.min(bins[i]!, bins[j]!), Math.max(bins[i]!, bins[j]!)];
    if (a === b) return;
    outline[a]!++;
    outline[b]!--;
    const [za, zb] = [data[i]!, data[j]!];
    if (Math.abs(za - zb) > APART * Math.max(za, zb) || !Number.isFinite(za - zb)) {
      jumps[a]!++;
      jumps[b]!--;
    }
  };
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      nearer[bins[i]!]!++;
      if (x + 1 < w) pair(i, i + 1);
      if (y + 1 < h) pair(i, i + w);
    }
  const out = new Float32Array(CUTS * BREAK);
  let [lines, torn, count] = [0, 0, 0];
  for (let k = 0; k < CUTS; k++) {
    lines += outline[k]!;
    torn += jumps[k]!;
    count += nearer[k]!;
    out.set([most * (far / most) ** ((k + 0.5) / CUTS), lines > 0 ? torn / lines : 0, count / data.length], k * BREAK);
  }
  return out;
}

/** Of cuts that are as clean, one far behind the subject counts less: by this power of how many times as far it lies. */
const CLOSENESS = 0.3;
/** Cuts whose worth is within this share of the best one's part the same things. */
const AS_GOOD = 0.97;

/**
 * The distance, metres, at which what is at `subject` is best cut from what lies behind it: along jumps of depth, with enough on either side,
 * not too far behind. null where nothing parts them.
 */
export function breakBeyond({ breaks }: { readonly breaks: Float32Array }, subject: number): number | null {
  const worth = (k: number): number => {
    const [q, clean, nearer] = [breaks[k]!, breaks[k + 1]!, breaks[k + 2]!];
    // the subject is deeper than the place that is in focus
    if (q * subject > 1 / 1.05) return 0;
    return clean * Math.sqrt(4 * nearer * (1 - nearer)) * (q * subject) ** CLOSENESS;
  };
  let best = 0;
  for (let k = 0; k < breaks.length; k += BREAK) if (worth(k) > worth(best)) best = k;
  if (!(worth(best) > 0)) return null;
  let last = best;
  while (last + BREAK < breaks.length && worth(last + BREAK) >= AS_GOOD * worth(best)) last += BREAK;
  return Number((1 / Math.sqrt(breaks[best]! * breaks[last]!)).toPrecision(3));
}
