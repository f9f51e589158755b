import type { Maps, Taps } from '../../kernels/convolveHost';

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
