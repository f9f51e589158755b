import * as z from 'zod';
import type { Maps, Taps } from '../../kernels/convolveHost';

/** How a file of weights is laid out: name, shape (rows, columns, inputs, outputs), and the step and least value of its 8 bits. */
const layoutSchema = z.array(z.tuple([z.string(), z.array(z.number().int().positive()), z.number(), z.number()]));

/** A layer's weights by name. */
export type Weights = ReadonlyMap<string, { readonly shape: readonly number[]; readonly data: Float32Array }>;

/** Reads weights of 8 bits each, one tensor after the other: value = step · byte + least. Throws where the file is too short. */
export function readWeights(layout: unknown, bytes: Uint8Array): Weights {
  const out = new Map<string, { shape: number[]; data: Float32Array }>();
  let at = 0;
  for (const [name, shape, step, least] of layoutSchema.parse(layout)) {
    const count = shape.reduce((a, b) => a * b, 1);
    if (at + count > bytes.length) throw new Error(`the weights end within ${name}`);
    out.set(name, { shape, data: Float32Array.from(bytes.subarray(at, at + count), (q) => q * step + least) });
    at += count;
  }
  return out;
}

const named = (weights: Weights, name: string): { readonly shape: readonly number[]; readonly data: Float32Array } => {
  const found = weights.get(name);
  if (!found) throw new Error(`there are no weights ${name}`);
  return found;
};

/** Filters as they are stored (row, column, input, output) as taps of the convolution (output, input, row, column). */
export function tapsOf(weights: Weights, filters: string, bias: string | null): Taps {
  const { shape, data } = named(weights, filters);
  const [size, , inputs, outputs] = shape as [number, number, number, number];
  const laid = new Float32Array(data.length);
  for (let t = 0; t < size * size; t++)
    for (let i = 0; i < inputs; i++)
      for (let o = 0; o < outputs; o++) laid[(o * inputs + i) * size * size + t] = data[(t * inputs + i) * outputs + o]!;
  return { outputs, inputs, size, weights: laid, bias: bias === null ? new Float32Array(outputs) : named(weights, bias).data };
}

/** Filters of which every plane has its own (row, column, plane, 1). */
export function ownTapsOf(weights: Weights, filters: string): Taps {
  const { shape, data } = named(weights, filters);
  const [size, , planes] = shape as [number, number, number, number];
  const laid = new Float32Array(data.length);
  for (let t = 0; t < size * size; t++) for (let c = 0; c < planes; c++) laid[c * size * size + t] = data[t * planes + c]!;
  return { outputs: planes, inputs: 1, size, weights: laid, bias: new Float32Array(planes) };
}

/** A fully connected layer: (input, output). */
export function connected(weights: Weights, name: string, input: Float32Array): Float32Array {
  const { shape, data } = named(weights, `${name}/weights`);
  const outputs = shape[1]!;
  const out = Float32Array.from(named(weights, `${name}/bias`).data);
  for (let i = 0; i < input.length; i++) for (let o = 0; o < outputs; o++) out[o]! += input[i]! * data[i * outputs + o]!;
  return out;
}

/** The largest of every 2x2, every `stride` px; what lies beyond the right and lower border does not count. */
export function largestOfFour({ channels, width, height, data }: Maps, stride: 1 | 2): Maps {
  const [w, h] = [Math.ceil(width / stride), Math.ceil(height / stride)];
  const out = new Float32Array(channels * w * h);
  for (let c = 0; c < channels; c++)
    for (let y = 0; y < h; y++)
      for (let x = 0; x < w; x++) {
        let most = -Infinity;
        for (let v = y * stride; v < Math.min(height, y * stride + 2); v++)
          for (let u = x * stride; u < Math.min(width, x * stride + 2); u++) most = Math.max(most, data[(c * height + v) * width + u]!);
        out[(c * h + y) * w + x] = most;
      }
  return { channels, width: w, height: h, data: out };
}

/** Planes without their outermost pixels: what a convolution gives where it needs no border. */
export function withoutBorder({ channels, width, height, data }: Maps): Maps {
  const [w, h] = [width - 2, height - 2];
  const out = new Float32Array(channels * w * h);
  for (let c = 0; c < channels; c++)
    for (let y = 0; y < h; y++) out.set(data.subarray((c * height + y + 1) * width + 1, (c * height + y + 1) * width + 1 + w), (c * h + y) * w);
  return { channels, width: w, height: h, data: out };
}

export interface Rgb8 {
  readonly width: number;
  readonly height: number;
  /** 8-bit sRGB, three values a pixel */
  readonly rgb: Uint8Array;
}

/**
 * A part of a picture laid into a square and brought to so many px, less a mean, as shares of full scale. `before`: where the part begins in
 * the square, px of the picture. Sampled bilinearly from the upper left corner of pixels, as the networks were trained.
 */
export function squareOf(
  { width, height, rgb }: Rgb8,
  part: { readonly x: number; readonly y: number; readonly width: number; readonly height: number },
  before: { readonly x: number; readonly y: number },
  side: number,
  mean: readonly [number, number, number],
): Maps {
  const square = Math.max(part.width, part.height);
  const data = new Float32Array(3 * side * side);
  const at = (x: number, y: number, k: number): number => {
    const [u, v] = [x - before.x, y - before.y];
    if (u < 0 || v < 0 || u >= part.width || v >= part.height) return 0;
    const [px, py] = [part.x + u, part.y + v];
    return px < width && py < height ? rgb[(py * width + px) * 3 + k]! : 0;
  };
  const scale = square / side;
  for (let y = 0; y < side; y++) {
    const fy = y * scale;
    const y0 = Math.floor(fy);
    const y1 = Math.min(square - 1, y0 + 1);
    for (let x = 0; x < side; x++) {
      const fx = x * scale;
      const x0 = Math.floor(fx);
      const x1 = Math.min(square - 1, x0 + 1);
      for (let k = 0; k < 3; k++) {
        const top = at(x0, y0, k) + (at(x1, y0, k) - at(x0, y0, k)) * (fx - x0);
        const bottom = at(x0, y1, k) + (at(x1, y1, k) - at(x0, y1, k)) * (fx - x0);
        data[(k * side + y) * side + x] = (top + (bottom - top) * (fy - y0) - mean[k as 0]) / 255;
      }
    }
  }
  return { channels: 3, width: side, height: side, data };
}
