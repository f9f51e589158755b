import { spanTable, type Aperture, type SpanTable } from './aperture';
import { discProfile, type DiscProfile } from './discProfile';

/** Everything the blur needs to know besides the pixels. */
export interface BlurShape {
  readonly aperture: Aperture;
  /** used beyond focus, and the outline turned by 180° used before it */
  readonly far: SpanTable;
  readonly near: SpanTable;
  readonly maxRadius: number;
  /** signed radii at which one depth slice ends and the next begins, ascending */
  readonly sliceEdges: readonly number[];
  /** of what is scattered at full size, and of what is at half, a quarter …; before the focus, and beyond it */
  readonly middle: Sheet;
  readonly before: readonly Sheet[];
  readonly after: readonly Sheet[];
  /** null for a lens whose discs are alike all over the picture, and even */
  readonly profile: DiscProfile | null;
}

/** What is scattered at one size: radii and slice edges in px of the whole picture, least ≤ ρ < beyond. */
export interface Sheet {
  /** how many times it is halved */
  readonly halvings: number;
  readonly least: number;
  readonly beyond: number;
  readonly edges: readonly number[];
}

/** What is blurred by so many px and more is scattered at half the size, by twice as many at a quarter of it. */
const HALVED_FROM = 9;

/** So many times a sheet is halved at most: the coarsest cell is 32 px wide. */
const MOST_HALVINGS = 5;

/** Radii, from the focus outwards, at which the sheets of half the size, a quarter … begin, as far as there are slices. */
function sheetsFrom(edges: readonly number[]): number[] {
  const from: number[] = [];
  for (let wanted = HALVED_FROM; from.length < MOST_HALVINGS; wanted *= 2) {
    const edge = edges.find((e) => e >= wanted);
    if (edge === undefined) return from;
    if (edge !== from.at(-1)) from.push(edge);
  }
  return from;
}

const sheetOf = (edges: readonly number[], least: number, beyond: number, halvings: number): Sheet => ({
  halvings,
  least,
  beyond,
  edges: edges.filter((e) => e > least && e < beyond),
});

/** What halving and enlarging again spread by themselves, as four times a variance: that of a disc is R²/4. px² of the finer size. */
export const HALVING_SPREADS = 5;

/** A signed radius in px of a size that is halved so many times: smaller by what that spreads itself. */
export function halvedRadius(rho: number, halvings: number): number {
  if (!Number.isFinite(rho)) return rho;
  let r = Math.abs(rho);
  for (let n = 0; n < halvings; n++) r = Math.sqrt(Math.max(0, r * r - HALVING_SPREADS)) / 2;
  return rho < 0 ? -r : r;
}

/** A sheet's radii and slice edges in px of a size that is halved so many times. */
export const sheetAt = ({ least, beyond, edges }: Sheet, halvings: number): Pick<Sheet, 'least' | 'beyond' | 'edges'> => ({
  least: halvedRadius(least, halvings),
  beyond: halvedRadius(beyond, halvings),
  edges: edges.map((e) => halvedRadius(e, halvings)),
});

/** Slice edges in signed radius: ±0.5, then steps of 1, 1.2, 1.44 … px. */
export function sliceEdges(lowest: number, highest: number): number[] {
  const outwards = (limit: number): number[] => {
    const edges: number[] = [];
    for (let edge = 0.5, step = 1; edge < limit; edge += step, step *= 1.2) edges.push(edge);
    return edges;
  };
  return [
    ...outwards(-lowest)
      .map((e) => -e)
      .reverse(),
    ...outwards(highest),
  ];
}

/** The opening as it is seen before the focus: turned by 180°. The same one where that changes nothing. */
export const turned = (aperture: Aperture): Aperture =>
  aperture.blades < 3 || aperture.blades % 2 === 0 ? aperture : { ...aperture, turn: aperture.turn + Math.PI };

/**
 * Shape for signed radii within lowest … highest px (beyond focus positive). `cat`: how much the barrel cuts discs off towards the border, 0..1;
 * `weight`: −1 (light towards the middle of a disc) … 1 (towards its edge).
 */
export function blurShape(aperture: Aperture, lowest: number, highest: number, cat = 0, weight = 0): BlurShape {
  const maxRadius = Math.max(0.5, -lowest, highest);
  const edges = sliceEdges(lowest, highest);
  const [near, far] = [edges.map((e) => -e).reverse(), edges].map(sheetsFrom) as [number[], number[]];
  const middle = sheetOf(edges, -(near[0] ?? Infinity), far[0] ?? Infinity, 0);
  const before = near.map((from, n) => sheetOf(edges, -(near[n + 1] ?? Infinity), -from, n + 1));
  const after = far.map((from, n) => sheetOf(edges, from, far[n + 1] ?? Infinity, n + 1));
  // the largest radius that any sheet has in px of its own
  const within = ({ least, beyond, halvings }: Sheet): number =>
    halvedRadius(Math.max(Math.min(-least, -lowest), Math.min(beyond, highest)), halvings);
  const largest = Math.max(0.5, ...[middle, ...before, ...after].map(within));
  const table = spanTable(aperture, largest);
  const other = turned(aperture);
  return {
    aperture,
    far: table,
    near: other === aperture ? table : spanTable(other, largest),
    maxRadius,
    sliceEdges: edges,
    middle,
    before,
    after,
    profile: cat > 0 || weight !== 0 ? discProfile(aperture, cat, weight) : null,
  };
}

/** Levels of the hidden plate's pyramid: its coarsest cell spans the reach of the lens. At least 3. */
export const hiddenLevels = (maxRadius: number): number => Math.max(3, Math.ceil(Math.log2(Math.max(2, 2 * maxRadius))));
