import { spanTable, type Aperture, type SpanTable } from './aperture';
import { discProfile, type DiscProfile } from './discProfile';

/** Everything the blur needs to know besides the pixels. */
export interface BlurShape {
  /** used beyond focus, and the outline turned by 180° used before it */
  readonly far: SpanTable;
  readonly near: SpanTable;
  readonly maxRadius: number;
  /** signed radii at which one depth slice ends and the next begins, ascending */
  readonly sliceEdges: readonly number[];
  /** null for a lens whose discs are alike all over the picture, and even */
  readonly profile: DiscProfile | null;
}

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

/**
 * Shape for signed radii within lowest … highest px (beyond focus positive). `cat`: how much the barrel cuts discs off towards the border, 0..1;
 * `weight`: −1 (light towards the middle of a disc) … 1 (towards its edge).
 */
export function blurShape(aperture: Aperture, lowest: number, highest: number, cat = 0, weight = 0): BlurShape {
  const maxRadius = Math.max(0.5, -lowest, highest);
  const turned = { ...aperture, turn: aperture.turn + Math.PI };
  const even = aperture.blades < 3 || aperture.blades % 2 === 0;
  const far = spanTable(aperture, maxRadius);
  return {
    far,
    near: even ? far : spanTable(turned, maxRadius),
    maxRadius,
    sliceEdges: sliceEdges(lowest, highest),
    profile: cat > 0 || weight !== 0 ? discProfile(aperture, cat, weight) : null,
  };
}

/** Levels of the hidden plate's pyramid: its coarsest cell spans the reach of the lens. At least 3. */
export const hiddenLevels = (maxRadius: number): number => Math.max(3, Math.ceil(Math.log2(Math.max(2, 2 * maxRadius))));
