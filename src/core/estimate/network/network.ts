import type { Picture, Plane } from '../../raster/picture';
import { newPlane } from '../../raster/picture';
import { linearToSrgb } from '../../raster/colour';
import { kernels } from '../../kernels/loader';
import { shrinkPicture } from '../../raster/resample';
import { weightBytes } from './build/weightBytes';

/** Planes of one size, one after the other. */
interface Maps {
  readonly channels: number;
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}

/** A convolution of 3x3 with batch normalisation folded in. Weights by output, input, row, column. */
interface Layer {
  readonly outputs: number;
  readonly inputs: number;
  readonly weights: Float32Array;
  readonly bias: Float32Array;
  /** the weights as the kernel wants them: four outputs side by side */
  readonly byFours: Float32Array;
}

const networks: (readonly Layer[])[] = [];

/** Reads a file that training/export.py wrote. */
function readLayers(base64: string): readonly Layer[] {
  const text = atob(base64);
  const bytes = Uint8Array.from(text, (c) => c.charCodeAt(0));
  const view = new DataView(bytes.buffer);
  const out: Layer[] = [];
  let at = 4;
  for (let n = view.getUint32(0, true); n > 0; n--) {
    const outputs = view.getUint32(at, true);
    const inputs = view.getUint32(at + 4, true);
    at += 8;
    const floats = (count: number): Float32Array => {
      const read = new Float32Array(bytes.buffer.slice(at, at + 4 * count));
      at += 4 * count;
      return read;
    };
    const scale = floats(outputs);
    const bias = floats(outputs);
    const count = outputs * inputs * 9;
    const stored = new Int8Array(bytes.buffer, at, count);
    const weights = new Float32Array(count);
    for (let i = 0; i < count; i++) weights[i] = stored[i]! * scale[Math.floor(i / (inputs * 9))]!;
    at += count;
    // everything begins at a multiple of four
    at += -at & 3;
    out.push({ outputs, inputs, weights, bias, byFours: sideBySide(weights, outputs, inputs * 9) });
  }
  return out;
}

/** Weights of four outputs at a time, side by side; outputs that are missing to a full four are zero. */
function sideBySide(weights: Float32Array, outputs: number, length: number): Float32Array {
  const out = new Float32Array(Math.ceil(outputs / 4) * 4 * length);
  for (let o = 0; o < outputs; o++) for (let k = 0; k < length; k++) out[(o - (o % 4)) * length + k * 4 + (o % 4)] = weights[o * length + k]!;
  return out;
}

/** With a border of zeros one pixel wide. */
function padded({ channels, width, height, data }: Maps): Float32Array {
  const w = width + 2;
  const out = new Float32Array(channels * w * (height + 2));
  for (let c = 0; c < channels; c++)
    for (let y = 0; y < height; y++)
      out.set(data.subarray((c * height + y) * width, (c * height + y + 1) * width), (c * (height + 2) + y + 1) * w + 1);
  return out;
}

/** 3x3 convolution with a border of zeros, in the WASM kernel; the answer is cut off below zero where `rectify`. */
function convolve(maps: Maps, layer: Layer, stride: 1 | 2, rectify: boolean): Maps {
  const { outputs, inputs } = layer;
  const [w, h] = [maps.width + 2, maps.height + 2];
  const width = Math.ceil(maps.width / stride);
  const height = Math.ceil(maps.height / stride);
  const k = kernels();
  k.reset();
  const fours = Math.ceil(outputs / 4) * 4;
  const from = k.take(inputs * w * h * 4);
  const weights = k.take(fours * inputs * 9 * 4);
  const bias = k.take(fours * 4);
  const patch = k.take(inputs * 9 * 4);
  const out = k.take(fours * width * height * 4);
  k.floats(from, inputs * w * h).set(padded(maps));
  k.floats(weights, layer.byFours.length).set(layer.byFours);
  k.floats(bias, fours).fill(0).set(layer.bias);
  k.run.convolve(from, inputs, w, h, weights, bias, fours, stride, width, height, rectify ? 1 : 0, patch, out);
  return { channels: outputs, width, height, data: k.floats(out, outputs * width * height).slice() };
}

/** `small` repeated to the size of `large`, and `large` after it. */
function join(small: Maps, large: Maps): Maps {
  const { width, height } = large;
  const n = width * height;
  const data = new Float32Array((small.channels + large.channels) * n);
  for (let c = 0; c < small.channels; c++)
    for (let y = 0; y < height; y++) {
      const row = (c * small.height + Math.floor((y * small.height) / height)) * small.width;
      for (let x = 0; x < width; x++) data[c * n + y * width + x] = small.data[row + Math.floor((x * small.width) / width)]!;
    }
  data.set(large.data, small.channels * n);
  return { channels: small.channels + large.channels, width, height, data };
}

const STAGES = 5;

/** How many networks there are, each taught on scenes of its own. */
export const NETWORKS = weightBytes.length;

/** One network's answer to a picture of 8-bit sRGB values 0..1, three planes: half its size, near is 1. */
export function answer(rgb: Maps, which = 0): Plane {
  const layers = (networks[which] ??= readLayers(weightBytes[which]!));
  const { width, height } = rgb;
  const n = width * height;
  const data = new Float32Array(5 * n);
  for (let i = 0; i < 3 * n; i++) data[i] = 2 * rgb.data[i]! - 1;
  for (let i = 0; i < n; i++) {
    data[3 * n + i] = (((i % width) + 0.5) / width) * 2 - 1;
    data[4 * n + i] = ((Math.floor(i / width) + 0.5) / height) * 2 - 1;
  }
  let current: Maps = { channels: 5, width, height, data };
  const kept: Maps[] = [];
  for (let s = 0; s < STAGES; s++) {
    current = convolve(current, layers[2 * s]!, 2, true);
    current = convolve(current, layers[2 * s + 1]!, 1, true);
    kept.push(current);
  }
  for (let s = STAGES - 2; s >= 0; s--) current = convolve(join(current, kept[s]!), layers[2 * STAGES + s]!, 1, true);
  const out = convolve(current, layers[3 * STAGES - 1]!, 1, false);
  return { width: out.width, height: out.height, data: out.data };
}

/** Area, px, that the network was taught at. */
const AREA = 192 * 128;

/**
 * Nearness that a small network, taught on rendered random scenes (training/), reads in a picture: 0..1 at about 96x64. A U-shaped
 * network of 3x3 convolutions (Ronneberger, Fischer & Brox 2015). `mirrored` also asks it of the mirrored picture and takes the mean.
 */
export function taughtNearness(picture: Picture, mirrored: boolean): Plane {
  const aspect = picture.width / picture.height;
  const side = (length: number): number => Math.max(32, 16 * Math.round(length / 16));
  const width = Math.min(side(Math.sqrt(AREA * aspect)), Math.max(32, picture.width));
  const height = Math.min(side(Math.sqrt(AREA / aspect)), Math.max(32, picture.height));
  const small = shrinkPicture(picture, width, height);
  const n = small.width * small.height;
  const straight = new Float32Array(3 * n);
  const turned = new Float32Array(3 * n);
  for (let i = 0; i < n; i++) {
    const m = i - (i % small.width) + small.width - 1 - (i % small.width);
    for (let k = 0; k < 3; k++) {
      const v = linearToSrgb(Math.min(1, Math.max(0, small.data[i * 4 + k]!)));
      straight[k * n + i] = v;
      turned[k * n + m] = v;
    }
  }
  const size = { channels: 3, width: small.width, height: small.height };
  const out = newPlane(Math.ceil(size.width / 2), Math.ceil(size.height / 2));
  let asked = 0;
  for (let which = 0; which < NETWORKS; which++)
    for (const mirror of [false, true]) {
      // without both ways, each network is asked one of them
      if (!mirrored && mirror !== (which % 2 === 1)) continue;
      const { data, width: w } = answer({ ...size, data: mirror ? turned : straight }, which);
      for (let i = 0; i < data.length; i++) out.data[i]! += data[mirror ? i - 2 * (i % w) + w - 1 : i]!;
      asked++;
    }
  for (let i = 0; i < out.data.length; i++) out.data[i] = Math.min(1, Math.max(0, out.data[i]! / asked));
  return out;
}
