import { kernels, type Kernels } from './loader';

/** Planes of one size, one after the other. */
export interface Maps {
  readonly channels: number;
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}

/** A convolution by size x size taps, weights by output, input, row, column; `inputs` is 1 where every plane has taps of its own. */
export interface Taps {
  readonly outputs: number;
  readonly inputs: number;
  readonly size: number;
  readonly weights: Float32Array;
  readonly bias: Float32Array;
}

/** What becomes of every sum; 'swish' is x · min(max(x + 3, 0), 6) / 6 (Howard et al. 2019). */
export type Activation = 'none' | 'rectify' | 'swish';

const ACTIVATIONS: readonly Activation[] = ['none', 'rectify', 'swish'];

const upTo = (n: number, step: number): number => Math.ceil(n / step) * step;

/** Floats between the beginnings of two planes that must not be a multiple of this: they would push each other out of the cache. */
const ROUND = 64;

/** Pitch and rows, px, of planes laid out with their border for taps of a size. */
export function paddedSize(width: number, height: number, size: number): { readonly pitch: number; readonly rows: number } {
  // a multiple of 64 rows would make every pitch a round one
  const rows = height + size - 1 + ((height + size - 1) % ROUND === 0 ? 1 : 0);
  let pitch = upTo(width, 8) + size - 1;
  while ((pitch * rows) % ROUND === 0) pitch++;
  return { pitch, rows };
}

/** Lays planes out in the kernels' memory with a border of zeros, `before` px to the left and above. Returns address, pitch and rows, px. */
function layOut(k: Kernels, maps: Maps, size: number, before: number): { readonly from: number; readonly pitch: number; readonly rows: number } {
  const { channels, width, height, data } = maps;
  const { pitch, rows } = paddedSize(width, height, size);
  // the last row is read in steps of eight
  const length = channels * pitch * rows + 8;
  const from = k.take(length * 4);
  const to = k.floats(from, length).fill(0);
  for (let c = 0; c < channels; c++)
    for (let y = 0; y < height; y++)
      to.set(data.subarray((c * height + y) * width, (c * height + y + 1) * width), (c * rows + y + before) * pitch + before);
  return { from, pitch, rows };
}

const laidOut = new WeakMap<Taps, Float32Array>();

/** Weights of four outputs at a time, side by side; outputs that are missing to a full four are zero. */
function byFours(taps: Taps): Float32Array {
  const kept = laidOut.get(taps);
  if (kept) return kept;
  const { weights, outputs, inputs, size } = taps;
  const length = inputs * size * size;
  const out = new Float32Array(upTo(outputs, 4) * length);
  for (let o = 0; o < outputs; o++) for (let k = 0; k < length; k++) out[(o - (o % 4)) * length + k * 4 + (o % 4)] = weights[o * length + k]!;
  laidOut.set(taps, out);
  return out;
}

/**
 * The convolution of planes whose border is zero, in the WASM kernel. With a stride of 2 the size is halved (rounded up). `before`: how
 * much of the border lies to the left and above, px; with a stride of 2 the odd pixel lies to the right and below unless told. Where the taps have one input and the maps have more, every plane has its own taps.
 */
export function convolve(maps: Maps, taps: Taps, activation: Activation, stride: 1 | 2 = 1, before = (taps.size - stride) >> 1): Maps {
  const { outputs, inputs, size } = taps;
  if (size === 1 && stride === 1 && maps.height > 1) {
    // without neighbours a plane is one long row
    const row = convolve({ ...maps, width: maps.width * maps.height, height: 1 }, taps, activation);
    return { ...row, width: maps.width, height: maps.height };
  }
  const { width, height } = maps;
  const k = kernels();
  k.reset();
  const pitched = upTo(width, 8);
  const apart = inputs === 1 && maps.channels > 1;
  const fours = apart ? outputs : upTo(outputs, 4);
  const bias = k.take(fours * 4);
  const weights = k.take(fours * inputs * size * size * 4);
  const { from, pitch, rows } = layOut(k, maps, size, before);
  const out = k.take(fours * pitched * height * 4);
  k.floats(bias, fours).fill(0).set(taps.bias);
  const laid = k.floats(weights, fours * inputs * size * size);
  const bend = ACTIVATIONS.indexOf(activation);
  if (apart) {
    laid.set(taps.weights);
    k.run.depthwise(from, outputs, pitch, rows, weights, bias, size, pitched, height, bend, out);
  } else {
    laid.set(byFours(taps));
    k.run.convolve(from, inputs, pitch, rows, weights, bias, fours, size, pitched, height, bend, out);
  }
  return thinned(k.floats(out, outputs * pitched * height), pitched, { channels: outputs, width, height }, stride);
}

/** Every `stride`-th pixel of planes of the given size whose rows lie `pitch` px apart. */
function thinned(from: Float32Array, pitch: number, size: Omit<Maps, 'data'>, stride: number): Maps {
  const width = Math.ceil(size.width / stride);
  const height = Math.ceil(size.height / stride);
  if (stride === 1 && pitch === size.width) return { ...size, data: from.slice() };
  const data = new Float32Array(size.channels * width * height);
  for (let c = 0; c < size.channels; c++)
    for (let y = 0; y < height; y++) {
      const row = (c * size.height + y * stride) * pitch;
      const to = (c * height + y) * width;
      if (stride === 1) data.set(from.subarray(row, row + width), to);
      else for (let x = 0; x < width; x++) data[to + x] = from[row + x * stride]!;
    }
  return { channels: size.channels, width, height, data };
}
