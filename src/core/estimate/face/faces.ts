import { findFaces } from './detector';
import { facePoints } from './landmarks';
import type { Rgb8, Weights } from './tensors';

/** Sides of the square that the detector looks at: the small one finds the usual portrait, the large one a face farther off. */
const SIDES = [320, 608];
const LEAST_SCORE = 0.35;

export interface FoundFace {
  /** how many faces there are; the largest is told */
  readonly faces: number;
  /** its 68 points, shares of the picture */
  readonly points: readonly { readonly x: number; readonly y: number }[];
}

/** The largest face in a picture; null where there is none. `report` hears the share done. */
export function largestFace(
  picture: Rgb8,
  weights: { readonly detector: Weights; readonly landmarks: Weights },
  report: (share: number) => void,
): FoundFace | null {
  for (const [k, side] of SIDES.entries()) {
    const found = findFaces(picture, weights.detector, side, LEAST_SCORE);
    report((k + 0.8) / SIDES.length);
    const [largest] = [...found].sort((a, b) => b.width * b.height - a.width * a.height);
    if (largest)
      return {
        faces: found.length,
        points: facePoints(picture, largest, weights.landmarks).map(({ x, y }) => ({ x: x / picture.width, y: y / picture.height })),
      };
  }
  return null;
}
