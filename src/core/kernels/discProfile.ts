import { profileOf, RADIUS_STEP, type Aperture, type SpanTable } from './aperture';

/** How the discs of a lens differ from even ones that are alike all over the picture. */
export interface DiscProfile {
  /** discs laid over each other: their size, shares of the whole one's, and how much of the light each carries; the shares add up to 1 */
  readonly layers: readonly (readonly [scale: number, share: number])[];
  /** how far off, in radii, the circle lies that cuts a disc at the picture's corners; 0 where none is cut */
  readonly cut: number;
  /** area of a disc over what is left of it, by where the cutting circle lies: ANGLES directions, DISTANCES steps each */
  readonly gains: Float32Array;
}

/** Sizes of the inner discs, of the whole one: no number of radius steps times these lies half way between two. */
const INNER = [0.8217, 0.5813] as const;
/** Share of light that each takes away at full weight towards the edge, leaving no middle dark; and that each brings towards the middle. */
const [TAKEN, BROUGHT] = [0.37, 0.3];
/** So far off, in radii, the cutting circle lies at the corners at most. */
const FARTHEST = 1.2;
export const ANGLES = 32;
export const DISTANCES = 17;
/** Pixels of a row in which the cut is taken as the same. */
export const CUT_PX = 16;

/**
 * `cat`, 0..1: discs are cut by a second circle of their own size, the farther from the picture's middle the more, as the barrel of a lens cuts
 * slanting light (mechanical vignetting: Steinert et al. 2011, "General spectral camera lens simulation"); the light is kept. `weight`, −1..1: an
 * over- or undercorrected lens gathers light at the edge of its discs, or in their middle: as a sum of discs.
 */
export function discProfile(aperture: Aperture, cat: number, weight: number): DiscProfile {
  const inner = -(weight > 0 ? TAKEN : BROUGHT) * weight;
  const layers: (readonly [number, number])[] = [[1, 1 - INNER.length * inner]];
  if (weight !== 0) for (const scale of INNER) layers.push([scale, inner]);
  const cut = FARTHEST * cat;
  const gains = new Float32Array(ANGLES * DISTANCES).fill(1);
  const { left, right } = profileOf(aperture);
  const rows = left.length;
  for (let a = 0; a < ANGLES && cut > 0; a++)
    for (let d = 1; d < DISTANCES; d++) {
      const far = (d / (DISTANCES - 1)) * FARTHEST;
      const [x, y] = [far * Math.cos((a / ANGLES) * 2 * Math.PI), far * Math.sin((a / ANGLES) * 2 * Math.PI)];
      let [whole, kept] = [0, 0];
      for (let row = 0; row < rows; row += 16) {
        const t = -1 + (2 * (row + 0.5)) / rows;
        if (Number.isNaN(left[row]!)) continue;
        whole += right[row]! - left[row]!;
        const h = 1 - (t - y) ** 2;
        if (h > 0) kept += Math.max(0, Math.min(right[row]!, x + Math.sqrt(h)) - Math.max(left[row]!, x - Math.sqrt(h)));
      }
      gains[a * DISTANCES + d] = whole / Math.max(1e-3 * whole, kept);
    }
  return { layers, cut, gains };
}

/** The circle that cuts the discs of a piece of a row: where its middle lies, in radii, and what the rest is brightened by. */
export interface Cut {
  readonly x: number;
  readonly y: number;
  readonly gain: number;
}

/** The cut of pixel x, y of a picture. It lies towards the picture's middle beyond the focus, and away from it before. */
export function cutAt({ cut, gains }: DiscProfile, x: number, y: number, width: number, height: number, before: boolean): Cut {
  const middle = Math.floor(x / CUT_PX) * CUT_PX + CUT_PX / 2;
  const k = ((before ? cut : -cut) * 2) / Math.hypot(width, height);
  const [u, v] = [k * (middle - width / 2), k * (y + 0.5 - height / 2)];
  const turn = Math.atan2(before ? -v : v, before ? -u : u) / (2 * Math.PI);
  const angle = (Math.round((turn < 0 ? turn + 1 : turn) * ANGLES) % ANGLES) * DISTANCES;
  const at = Math.min(DISTANCES - 1.001, (Math.hypot(u, v) / FARTHEST) * (DISTANCES - 1));
  const step = Math.floor(at);
  return { x: u, y: v, gain: gains[angle + step]! + (at - step) * (gains[angle + step + 1]! - gains[angle + step]!) };
}

/** The span of one row of a disc after its cut; null where nothing is left of it. `e` is the table's entry for radius step q and row dy. */
export function cutSpan(table: SpanTable, e: number, q: number, dy: number, cut: Cut | null): readonly [from: number, to: number] | null {
  let from = table.left[e]! + table.leftFraction[e]!;
  let to = table.right[e]! + table.rightFraction[e]!;
  if (cut) {
    const radius = Math.max(0.05, q * RADIUS_STEP);
    const h = radius ** 2 - (dy - cut.y * radius) ** 2;
    if (h <= 0) return null;
    from = Math.max(from, 0.5 + cut.x * radius - Math.sqrt(h));
    to = Math.min(to, 0.5 + cut.x * radius + Math.sqrt(h));
  }
  return to > from ? [from, to] : null;
}
