import { convolve, type Maps, type Taps } from '../../kernels/convolveHost';
import type { Plane } from '../../picture';
import { join, writePlace } from './layers';

/** One block of the encoder (Howard et al. 2019): widened, convolved plane by plane, weighed plane by plane, narrowed. */
interface Block {
  readonly widened: boolean;
  readonly stride: 1 | 2;
  readonly weighed: boolean;
  readonly swish: boolean;
  /** whether the decoder reads what leaves it */
  readonly kept?: boolean;
}

const block = (stride: 1 | 2, weighed: boolean, swish: boolean, kept = false): Block => ({ widened: true, stride, weighed, swish, kept });
const BLOCKS: readonly Block[] = [
  { widened: false, stride: 1, weighed: false, swish: false, kept: true },
  block(2, false, false),
  block(1, false, false, true),
  block(2, true, false),
  block(1, true, false),
  block(1, true, false, true),
  block(2, false, true),
  block(1, false, true),
  block(1, false, true),
  block(1, false, true),
  block(1, true, true),
  block(1, true, true, true),
  block(2, true, true),
  block(1, true, true),
  block(1, true, true, true),
];

/** Every plane times a weight between 0 and 1 that follows from the means of all planes (squeeze and excite: Hu, Shen & Sun 2018). */
function weigh(maps: Maps, squeeze: Taps, excite: Taps): Maps {
  const { channels, width, height } = maps;
  const n = width * height;
  const means = new Float32Array(channels);
  for (let c = 0; c < channels; c++) {
    let sum = 0;
    for (let i = c * n; i < (c + 1) * n; i++) sum += maps.data[i]!;
    means[c] = sum / n;
  }
  const dense = (from: Float32Array, taps: Taps): Float32Array =>
    taps.bias.map((bias, o) => {
      let sum = bias;
      for (let k = 0; k < taps.inputs; k++) sum += taps.weights[o * taps.inputs + k]! * from[k]!;
      return sum;
    });
  const weights = dense(
    dense(means, squeeze).map((v) => Math.max(0, v)),
    excite,
  );
  for (let c = 0; c < channels; c++) {
    const weight = Math.min(6, Math.max(0, weights[c]! + 3)) / 6;
    for (let i = c * n; i < (c + 1) * n; i++) maps.data[i]! *= weight;
  }
  return maps;
}

/** Runs one block, taking its layers from `next`. */
function down(maps: Maps, { widened, stride, weighed, swish }: Block, next: () => Taps): Maps {
  const bend = swish ? 'swish' : 'rectify';
  const wide = widened ? convolve(maps, next(), bend) : maps;
  const passed = convolve(wide, next(), bend, stride);
  const narrowed = convolve(weighed ? weigh(passed, next(), next()) : passed, next(), 'none');
  if (stride === 1 && narrowed.channels === maps.channels) for (let i = 0; i < maps.data.length; i++) narrowed.data[i]! += maps.data[i]!;
  return narrowed;
}

/**
 * The larger network's answer to a picture of 8-bit sRGB values 0..1, three planes, sides multiples of 32: half its size, near is 1. Its
 * encoder is a MobileNetV3 (Howard et al. 2019).
 */
export function unetAnswer(rgb: Maps, layers: readonly Taps[]): Plane {
  let at = 0;
  const next = (): Taps => layers[at++]!;
  let current = convolve(rgb, next(), 'swish', 2);
  const kept: Maps[] = [];
  for (const each of BLOCKS) {
    current = down(current, each, next);
    if (each.kept) kept.push(current);
  }
  current = convolve(kept.pop()!, next(), 'rectify');
  while (kept.length) {
    const joined = join(current, kept.pop()!, 2);
    writePlace(joined);
    current = convolve(joined, next(), 'rectify');
  }
  const { width, height, data } = convolve(current, next(), 'none');
  return { width, height, data };
}
