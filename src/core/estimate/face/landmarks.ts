import { convolve, type Maps } from '../../kernels/convolveHost';
import type { FaceBox } from './detector';
import { connected, ownTapsOf, squareOf, tapsOf, type Rgb8, type Weights } from './tensors';

const SIDE = 112;
/** Mean colour of what it was trained on, 8-bit RGB. */
const MEAN = [122.782, 117.001, 104.298] as const;

const sum = (...maps: readonly Maps[]): Maps => ({ ...maps[0]!, data: maps[0]!.data.map((_, i) => maps.reduce((s, m) => s + m.data[i]!, 0)) });
const rectified = (maps: Maps): Maps => ({ ...maps, data: maps.data.map((v) => Math.max(0, v)) });

/** A convolution of every plane for itself, then of all of them at each pixel. */
const separable = (maps: Maps, weights: Weights, name: string, stride: 1 | 2): Maps =>
  convolve(
    convolve(maps, ownTapsOf(weights, `${name}/depthwise_filter`), 'none', stride),
    tapsOf(weights, `${name}/pointwise_filter`, `${name}/bias`),
    'none',
  );

/** Four convolutions, each of which sees what all before it gave (after Huang et al. 2017, added up); the first halves the size. */
function block(maps: Maps, weights: Weights, name: string, first: boolean): Maps {
  const a = rectified(
    first ? convolve(maps, tapsOf(weights, `${name}/conv0/filters`, `${name}/conv0/bias`), 'none', 2) : separable(maps, weights, `${name}/conv0`, 2),
  );
  const b = separable(a, weights, `${name}/conv1`, 1);
  const c = separable(rectified(sum(a, b)), weights, `${name}/conv2`, 1);
  const d = separable(rectified(sum(a, b, c)), weights, `${name}/conv3`, 1);
  return rectified(sum(a, b, c, d));
}

/** The 68 points of a face, px of the picture: outline of the jaw, brows, nose, eyes, mouth. Weights: see NOTICE. */
export function facePoints(picture: Rgb8, box: FaceBox, weights: Weights): { x: number; y: number }[] {
  const x = Math.floor(Math.max(0, box.x));
  const y = Math.floor(Math.max(0, box.y));
  const width = Math.floor(Math.min(box.x + box.width, picture.width) - x);
  const height = Math.floor(Math.min(box.y + box.height, picture.height) - y);
  if (width < 1 || height < 1) return [];
  // laid into the middle of a square
  const square = Math.max(width, height);
  const before = { x: square - width - Math.round((square - width) / 2), y: square - height - Math.round((square - height) / 2) };
  let maps = squareOf(picture, { x, y, width, height }, before, SIDE, MEAN);
  for (let k = 0; k < 4; k++) maps = block(maps, weights, `dense${k}`, k === 0);
  const n = maps.width * maps.height;
  const means = Float32Array.from({ length: maps.channels }, (_, c) => maps.data.subarray(c * n, (c + 1) * n).reduce((s, v) => s + v, 0) / n);
  const found = connected(weights, 'fc', means);
  return Array.from({ length: 68 }, (_, k) => ({
    x: x + found[2 * k]! * square - (square - width) / 2,
    y: y + found[2 * k + 1]! * square - (square - height) / 2,
  }));
}
