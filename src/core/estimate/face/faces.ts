import type { Size } from '../../picture';
import { findFaces, type FaceBox } from './detector';
import { facePoints } from './landmarks';
import type { Rgb8, Weights } from './tensors';

/** Sides of the square that the detector looks at: the small one finds the usual portrait, the large one a face farther off. */
const SIDES = [320, 608];
const LEAST_SCORE = 0.35;

export interface FoundFace {
  /** how many faces there are; the points are of the largest */
  readonly faces: number;
  /** of each of the others some places within it, shares of the picture */
  readonly others: readonly (readonly { readonly x: number; readonly y: number }[])[];
  /** its 68 points, shares of the picture */
  readonly points: readonly { readonly x: number; readonly y: number }[];
}

/** Places in the middle of a face's box, where neither hair nor what is behind it is met; shares of the picture. */
const withinFace = ({ x, y, width, height }: FaceBox, picture: Size): { x: number; y: number }[] =>
  WITHIN.flatMap((down) => WITHIN.map((across) => ({ x: (x + across * width) / picture.width, y: (y + down * height) / picture.height })));
const WITHIN = [0.35, 0.5, 0.65];

/** The largest face in a picture; null where there is none. `report` hears the share done. */
export function largestFace(
  picture: Rgb8,
  weights: { readonly detector: Weights; readonly landmarks: Weights },
  report: (share: number) => void,
): FoundFace | null {
  for (const [k, side] of SIDES.entries()) {
    const found = findFaces(picture, weights.detector, side, LEAST_SCORE);
    report((k + 0.8) / SIDES.length);
    const [largest, ...others] = [...found].sort((a, b) => b.width * b.height - a.width * a.height);
    if (largest)
      return {
        faces: found.length,
        others: others.map((box) => withinFace(box, picture)),
        points: facePoints(picture, largest, weights.landmarks).map(({ x, y }) => ({ x: x / picture.width, y: y / picture.height })),
      };
  }
  return null;
}
