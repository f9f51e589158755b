import { convolve, type Maps } from '../../kernels/convolveHost';
import { sigmoid } from '../network/layers';
import { overlap, type Box } from '../overlap';
import { largestOfFour, ownTapsOf, squareOf, tapsOf, withoutBorder, type Rgb8, type Weights } from './tensors';

/** Where a face lies, px of the picture; may reach beyond it. */
export interface FaceBox {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** 0..1 */
  readonly score: number;
}

/** Mean colour of what it was trained on, 8-bit RGB. */
const MEAN = [117.001, 114.697, 97.404] as const;
/** Usual sizes of faces, cells (width, height). */
const ANCHORS = [
  [1.603231, 2.094468],
  [6.041143, 7.080126],
  [2.882459, 3.518061],
  [4.266906, 5.178857],
  [9.041765, 10.66308],
] as const;
/** Boxes that overlap by more, as a share of both together, are one face. */
const OVERLAP = 0.4;

const sidesOf = ({ x, y, width, height }: FaceBox): Box => ({ left: x, top: y, right: x + width, bottom: y + height });

/** What leaks through below zero. */
function leaky(maps: Maps): Maps {
  for (let i = 0; i < maps.data.length; i++) if (maps.data[i]! < 0) maps.data[i]! *= 0.1;
  return maps;
}

/**
 * Faces in a picture that is brought to `side` px, the surest first: a small detector of the single-shot kind (Redmon & Farhadi 2017) with
 * separable convolutions (Howard et al. 2017). Weights: see NOTICE.
 */
export function findFaces(picture: Rgb8, weights: Weights, side: number, least: number): FaceBox[] {
  const { width, height } = picture;
  const input = squareOf(picture, { x: 0, y: 0, width, height }, { x: 0, y: 0 }, side, MEAN);
  let maps = leaky(withoutBorder(convolve(input, tapsOf(weights, 'conv0/filters', 'conv0/bias'), 'none')));
  for (let k = 1; k <= 5; k++) {
    maps = largestOfFour(maps, 2);
    const apart = convolve(maps, ownTapsOf(weights, `conv${k}/depthwise_filter`), 'none');
    maps = leaky(convolve(apart, tapsOf(weights, `conv${k}/pointwise_filter`, `conv${k}/bias`), 'none'));
  }
  maps = convolve(largestOfFour(maps, 1), tapsOf(weights, 'conv8/filters', 'conv8/bias'), 'none');
  return distinct(boxesOf(maps, picture, least));
}

/** Every cell proposes a box for each usual size: place, size and how sure it is. */
function boxesOf({ width: cells, data }: Maps, { width, height }: Rgb8, least: number): FaceBox[] {
  const long = Math.max(width, height);
  const found: FaceBox[] = [];
  const n = cells * cells;
  for (let row = 0; row < cells; row++)
    for (let column = 0; column < cells; column++)
      for (const [a, anchor] of ANCHORS.entries()) {
        const value = (k: number): number => data[(a * 5 + k) * n + row * cells + column]!;
        const score = sigmoid(value(4));
        if (score <= least) continue;
        const w = ((Math.exp(value(2)) * anchor[0]) / cells) * long;
        const h = ((Math.exp(value(3)) * anchor[1]) / cells) * long;
        const x = ((column + sigmoid(value(0))) / cells) * long - w / 2;
        const y = ((row + sigmoid(value(1))) / cells) * long - h / 2;
        found.push({ x, y, width: w, height: h, score });
      }
  return found;
}

/** Of boxes that lie over each other only the surest. */
function distinct(boxes: readonly FaceBox[]): FaceBox[] {
  const kept: FaceBox[] = [];
  for (const box of [...boxes].sort((a, b) => b.score - a.score))
    if (kept.every((other) => overlap(sidesOf(box), sidesOf(other)) <= OVERLAP)) kept.push(box);
  return kept;
}
