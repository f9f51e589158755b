import { convolve, type Maps, type Taps } from '../../kernels/convolveHost';
import type { Plane } from '../../picture';
import { addTo, join, weigh, writePlace } from './layers';

/** One block of the encoder (Howard et al. 2019): widened, convolved plane by plane, weighed plane by plane, narrowed. */
export interface Block {
  readonly widened: boolean;
  readonly stride: 1 | 2;
  readonly weighed: boolean;
  readonly swish: boolean;
  /** whether the decoder reads what leaves it */
  readonly kept?: boolean;
}

const block = (stride: 1 | 2, weighed: boolean, swish: boolean, kept = false): Block => ({ widened: true, stride, weighed, swish, kept });
export const BLOCKS: readonly Block[] = [
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

/** A gate that opens along a straight line (Howard et al. 2019). */
const hardGate = (v: number): number => Math.min(6, Math.max(0, v + 3)) / 6;

/** Runs one block, taking its layers from `next`; `seen` gets it as it is when it is widest, before it is convolved. */
function down(maps: Maps, { widened, stride, weighed, swish }: Block, next: () => Taps, seen: (wide: Maps) => void): Maps {
  const bend = swish ? 'swish' : 'rectify';
  const wide = widened ? convolve(maps, next(), bend) : maps;
  seen(wide);
  const passed = convolve(wide, next(), bend, stride);
  const narrowed = convolve(weighed ? weigh(passed, next(), next(), hardGate) : passed, next(), 'none');
  return stride === 1 && narrowed.channels === maps.channels ? addTo(narrowed, maps) : narrowed;
}

/** What the encoder reads in a picture. */
export interface Encoded {
  /** what the decoder reads, at 1/2, 1/4, 1/8, 1/16 and 1/32 of the size */
  readonly kept: readonly Maps[];
  /** what the finder of persons reads (people/finder.ts), at 1/4, 1/8, 1/16 and 1/32 */
  readonly found: readonly Maps[];
}

/** Blocks whose widest planes the finder reads, and those of which it reads what leaves them. */
const WIDE_FOUND: readonly number[] = [3, 5];
const LEFT_FOUND: readonly number[] = [11, 14];

/** Layers that the encoder has. */
const ENCODER_LAYERS = 1 + BLOCKS.reduce((n, b) => n + 2 + Number(b.widened) + 2 * Number(b.weighed), 0);

/** Reads a picture of 8-bit sRGB values 0..1, three planes, sides multiples of 32, by a MobileNetV3 (Howard et al. 2019). */
export function encode(rgb: Maps, layers: readonly Taps[]): Encoded {
  let at = 0;
  const next = (): Taps => layers[at++]!;
  let current = convolve(rgb, next(), 'swish', 2);
  const kept: Maps[] = [];
  const found: Maps[] = [];
  for (const [k, each] of BLOCKS.entries()) {
    current = down(current, each, next, (wide) => WIDE_FOUND.includes(k) && found.push(wide));
    if (each.kept) kept.push(current);
    if (LEFT_FOUND.includes(k)) found.push(current);
  }
  return { kept, found };
}

/** The answer of the estimate's network to what its encoder read: half the size of the picture, near is 1. */
export function unetAnswer({ kept }: Encoded, layers: readonly Taps[]): Plane {
  let at = ENCODER_LAYERS;
  const next = (): Taps => layers[at++]!;
  let current = convolve(kept.at(-1)!, next(), 'rectify');
  for (const finer of kept.slice(0, -1).reverse()) {
    const joined = join(current, finer, 2);
    writePlace(joined);
    current = convolve(joined, next(), 'rectify');
  }
  const { width, height, data } = convolve(current, next(), 'none');
  return { width, height, data };
}
