import type { Maps, Taps } from '../../kernels/convolveHost';
import type { Picture } from '../../picture';
import { quickCurves } from '../../raster/colour';

/** Reads a file that training/export.py wrote. */
export function readLayers(file: Uint8Array): readonly Taps[] {
  // numbers in it begin at multiples of their size
  const bytes = file.slice();
  const view = new DataView(bytes.buffer);
  const out: Taps[] = [];
  let at = 4;
  for (let n = view.getUint32(0, true); n > 0; n--) {
    const [outputs, inputs, size, bits] = [0, 4, 8, 12].map((k) => view.getUint32(at + k, true)) as [number, number, number, number];
    at += 16;
    const floats = (count: number): Float32Array => {
      const read = new Float32Array(bytes.buffer.slice(at, at + 4 * count));
      at += 4 * count;
      return read;
    };
    const scale = floats(outputs);
    const bias = floats(outputs);
    const each = inputs * size * size;
    const stored = new (bits === 16 ? Int16Array : Int8Array)(bytes.buffer, at, outputs * each);
    const weights = new Float32Array(outputs * each);
    for (let o = 0; o < outputs; o++) for (let i = o * each; i < (o + 1) * each; i++) weights[i] = stored[i]! * scale[o]!;
    at += (outputs * each * bits) / 8;
    // everything begins at a multiple of four
    at += -at & 3;
    out.push({ outputs, inputs, size, weights, bias });
  }
  return out;
}

/** `small` repeated to twice its size, at most that of `large`, and the planes of `large` after it; `more` planes are left free at the end. */
export function join(small: Maps, large: Maps, more = 0): Maps {
  const { width, height } = large;
  const n = width * height;
  const channels = small.channels + large.channels + more;
  const data = new Float32Array(channels * n);
  for (let c = 0; c < small.channels; c++)
    for (let y = 0; y < height; y++) {
      const row = (c * small.height + (y >> 1)) * small.width;
      for (let x = 0; x < width; x++) data[c * n + y * width + x] = small.data[row + (x >> 1)]!;
    }
  data.set(large.data, small.channels * n);
  return { channels, width, height, data };
}

/** Writes where a pixel lies, -1..1 across and down, into the last two planes. */
export function writePlace({ channels, width, height, data }: Maps): void {
  const n = width * height;
  const at = (channels - 2) * n;
  for (let i = 0; i < n; i++) {
    data[at + i] = (((i % width) + 0.5) / width) * 2 - 1;
    data[at + n + i] = ((Math.floor(i / width) + 0.5) / height) * 2 - 1;
  }
}

/** A picture of linear light as three planes of sRGB values 0..1, of 8 bits once. */
export function planesOf({ width, height, data }: Picture): Maps {
  const n = width * height;
  const out = new Float32Array(3 * n);
  const { encode } = quickCurves();
  for (let i = 0; i < n; i++) for (let k = 0; k < 3; k++) out[k * n + i] = encode(Math.min(1, Math.max(0, data[i * 4 + k]!)));
  return { channels: 3, width, height, data: out };
}

/** Planes as a mirror shows them. */
export function mirrored({ channels, width, height, data }: Maps): Maps {
  const out = new Float32Array(data.length);
  for (let row = 0; row < data.length; row += width) for (let x = 0; x < width; x++) out[row + x] = data[row + width - 1 - x]!;
  return { channels, width, height, data: out };
}

export const sigmoid = (v: number): number => 1 / (1 + Math.exp(-v));

/** Mean of every plane. */
export function means({ channels, width, height, data }: Maps): Float32Array {
  const n = width * height;
  return Float32Array.from({ length: channels }, (_, c) => {
    let sum = 0;
    for (let i = c * n; i < (c + 1) * n; i++) sum += data[i]!;
    return sum / n;
  });
}

/** A layer of which every output reads every input: planes as large as the taps count as so many inputs. */
export const dense = (from: Float32Array, taps: Taps): Float32Array =>
  taps.bias.map((bias, o) => {
    let sum = bias;
    for (let k = 0; k < from.length; k++) sum += taps.weights[o * from.length + k]! * from[k]!;
    return sum;
  });

/** Every plane times a number of its own, in place. */
export function scaled(maps: Maps, by: Float32Array): Maps {
  const n = maps.width * maps.height;
  for (let c = 0; c < maps.channels; c++) for (let i = c * n; i < (c + 1) * n; i++) maps.data[i]! *= by[c]!;
  return maps;
}

/** What a gate lets through is told from all planes' means (squeeze and excite: Hu, Shen & Sun 2018); in place. */
export const weigh = (maps: Maps, squeeze: Taps, excite: Taps, gate: (v: number) => number): Maps =>
  scaled(
    maps,
    dense(
      dense(means(maps), squeeze).map((v) => Math.max(0, v)),
      excite,
    ).map(gate),
  );

/** The first plus the second, in place of the first. */
export function addTo(maps: Maps, more: Maps): Maps {
  for (let i = 0; i < maps.data.length; i++) maps.data[i]! += more.data[i]!;
  return maps;
}

/** Where new pixels of a row twice as long lie among the old: before, after, and how far between. */
function betweens(size: number, centred: boolean): { before: Int32Array; after: Int32Array; share: Float32Array } {
  const places = Float64Array.from({ length: 2 * size }, (_, to) => Math.max(0, centred ? (to + 0.5) / 2 - 0.5 : to / 2));
  const before = Int32Array.from(places, (at) => Math.min(size - 1, Math.floor(at)));
  return { before, after: before.map((i) => Math.min(size - 1, i + 1)), share: Float32Array.from(places, (at, k) => at - before[k]!) };
}

/**
 * Planes at twice their size, bilinear. `centred`: pixels lie at their middles, so that the four new ones surround the old one; otherwise the first new one
 * of two lies where the old one was.
 */
export function doubled({ channels, width, height, data }: Maps, centred: boolean): Maps {
  const [w, h] = [2 * width, 2 * height];
  const out = new Float32Array(channels * w * h);
  const { before, after, share } = betweens(width, centred);
  const down = betweens(height, centred);
  const row = new Float32Array(width);
  for (let c = 0; c < channels; c++)
    for (let y = 0; y < h; y++) {
      const [a, b, t] = [(c * height + down.before[y]!) * width, (c * height + down.after[y]!) * width, down.share[y]!];
      for (let x = 0; x < width; x++) row[x] = data[a + x]! + (data[b + x]! - data[a + x]!) * t;
      const to = (c * h + y) * w;
      for (let x = 0; x < w; x++) {
        const left = row[before[x]!]!;
        out[to + x] = left + (row[after[x]!]! - left) * share[x]!;
      }
    }
  return { channels, width: w, height: h, data: out };
}
