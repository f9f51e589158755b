import { convolve, type Maps, type Taps } from '../../kernels/convolveHost';
import { addTo, dense, doubled, means, scaled, sigmoid, weigh } from '../network/layers';

/** Layers that one of these networks has. */
export const MASK_LAYERS = 55;

/** One block of the encoder (Howard et al. 2019): widened, convolved plane by plane, weighed plane by plane, narrowed. */
interface Block {
  readonly stride: 1 | 2;
  readonly weighed: boolean;
  readonly swish: boolean;
}

const block = (stride: 1 | 2, weighed: boolean, swish: boolean): Block => ({ stride, weighed, swish });
const BLOCKS: readonly Block[] = [
  block(2, true, false),
  block(2, false, false),
  block(1, false, false),
  block(2, true, true),
  block(1, true, true),
  block(1, true, true),
  block(1, true, true),
  block(1, true, true),
];
/** Blocks after which the decoder reads, besides what comes before the first. */
const KEPT: readonly number[] = [0, 2];

/**
 * How surely each pixel belongs to a person, 0..1: what a small network answers to a picture of 8-bit sRGB values 0..1, three planes, sides multiples of 16.
 * Its encoder is a MobileNetV3 (Howard et al. 2019); its decoder lets through of each finer layer what all of it and of the coarser one together says
 * (after Hu, Shen & Sun 2018). It was trained at 256x256, or at 256x144, and looks at all of the picture at once. Weights: see NOTICE.
 */
export function maskAnswer(rgb: Maps, layers: readonly Taps[]): Maps {
  let at = 0;
  const next = (): Taps => layers[at++]!;
  let current = convolve(rgb, next(), 'swish', 2);
  const kept: Maps[] = [current];
  for (const [k, { stride, weighed, swish }] of BLOCKS.entries()) {
    const bend = swish ? 'swish' : 'rectify';
    const passed = convolve(convolve(current, next(), bend), next(), bend, stride);
    const narrowed = convolve(weighed ? weigh(passed, next(), next(), sigmoid) : passed, next(), 'none');
    current = stride === 1 ? addTo(narrowed, current) : narrowed;
    if (KEPT.includes(k)) kept.push(current);
  }
  const whole = means(current);
  const shown = convolve(current, next(), 'rectify');
  current = scaled(shown, dense(whole, next()).map(sigmoid));
  while (kept.length) current = joined(doubled(current, true), kept.pop()!, next);
  return spread(convolve(current, next(), 'none'));
}

/** A coarser answer, made as large as `fine`, and what it lets through of that. */
function joined(coarse: Maps, fine: Maps, next: () => Taps): Maps {
  const narrowed = convolve(coarse, next(), 'none');
  const both = means(addTo({ ...fine, data: fine.data.slice() }, narrowed));
  const squeezed = dense(both, next()).map((v) => Math.max(0, v));
  const through = scaled({ ...fine, data: fine.data.slice() }, dense(squeezed, next()).map(sigmoid));
  const mixed = convolve(addTo(through, narrowed), next(), 'rectify');
  const seen = convolve(mixed, next(), 'rectify');
  return addTo(seen, mixed);
}

/** Four planes, by row and column, as one of twice the size, and as shares. */
function spread({ width, height, data }: Maps): Maps {
  const out = new Float32Array(4 * width * height);
  for (let k = 0; k < 4; k++)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) out[(2 * y + (k >> 1)) * 2 * width + 2 * x + (k & 1)] = sigmoid(data[(k * height + y) * width + x]!);
  return { channels: 1, width: 2 * width, height: 2 * height, data: out };
}
