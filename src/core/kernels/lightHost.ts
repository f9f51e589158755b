import type { Raster } from '../picture';
import { newKernels, type Kernels } from './loader';

/** The pixels that every place along an axis covers, and by how much each; `total` is 0 where the place lies outside the source. */
export interface Footprints {
  readonly count: number;
  readonly first: Int32Array;
  readonly covered: Int32Array;
  /** where in `weights` those of a place begin */
  readonly at: Int32Array;
  readonly weights: Float32Array;
  readonly total: Float32Array;
}

/** Footprints of `count` pixels whose centres k + ½ lie at scale·(k + ½) + offset of a source of `size` pixels; at least one pixel wide. */
export function footprints(count: number, scale: number, offset: number, size: number): Footprints {
  const support = Math.max(1, Math.abs(scale));
  const [first, covered, at] = [new Int32Array(count), new Int32Array(count), new Int32Array(count)];
  const total = new Float32Array(count);
  const weights: number[] = [];
  for (let k = 0; k < count; k++) {
    const x = scale * (k + 0.5) + offset;
    const [from, to] = [x - support / 2, x + support / 2];
    const start = Math.max(0, Math.floor(from));
    const end = Math.min(size, Math.ceil(to));
    first[k] = Math.min(start, size);
    covered[k] = Math.max(0, end - start);
    at[k] = weights.length;
    let sum = 0;
    for (let i = start; i < end; i++) {
      const w = Math.max(0, Math.min(i + 1, to) - Math.max(i, from));
      weights.push(w);
      sum += w;
    }
    total[k] = x >= 0 && x < size ? sum : 0;
  }
  return { count, first, covered, at, weights: Float32Array.from(weights), total };
}

/** Kernels of their own: pictures are sampled while others are at work in the shared memory. */
let own: Kernels | null = null;
const light = (): Kernels => {
  own ??= newKernels();
  own.reset();
  return own;
};

/**
 * Averages the footprints of an upright grid in linear light, premultiplied, into RGBA floats. `table`: linear light of every sample;
 * `alphaAt`: which sample is alpha, or -1. What lies outside the source is divided by the whole footprint: it is transparent.
 */
export function sampleGrid(
  raster: Raster,
  table: Float32Array,
  alphaAt: number,
  columns: Footprints,
  rows: Footprints,
  outside: number,
  out: Float32Array,
  onProgress?: (row: number, rows: number) => void,
): void {
  if (pixelByPixel(columns) && pixelByPixel(rows)) {
    lightRows(raster, table, alphaAt, columns, rows, out, onProgress);
    return;
  }
  const k = light();
  const { data, channels } = raster;
  const wide = data instanceof Uint16Array;
  const [left, right] = columns.first.reduce(([a, b], f, i) => [Math.min(a, f), Math.max(b, f + columns.covered[i]!)], [raster.width, 0]);
  const count = Math.max(0, right - left);
  const width = columns.count;
  const source = k.take(Math.max(1, count) * channels * 2);
  const tableAt = k.take(table.length * 4);
  const sums = k.take(Math.max(1, count) * 16);
  const columnsAt = k.take(width * 16);
  const weightsAt = k.take(Math.max(1, columns.weights.length) * 4);
  const row = k.take(width * 16);
  k.floats(tableAt, table.length).set(table);
  k.floats(weightsAt, columns.weights.length).set(columns.weights);
  const [whole, parts] = [k.ints(columnsAt, width * 4), k.floats(columnsAt, width * 4)];
  for (let u = 0; u < width; u++) {
    whole[u * 4] = columns.first[u]! - left;
    whole[u * 4 + 1] = columns.covered[u]!;
    whole[u * 4 + 2] = columns.at[u]!;
    parts[u * 4 + 3] = columns.total[u]! > 0 ? 1 / columns.total[u]! : 0;
  }
  const samples = wide ? new Uint16Array(k.bytes(source, 0).buffer, source, count * channels) : k.bytes(source, count * channels);
  const sumsOf = k.floats(sums, count * 4);
  const answer = k.floats(row, width * 4);
  for (let v = 0; v < rows.count; v++) {
    if (v % 16 === 0) onProgress?.(v, rows.count);
    sumsOf.fill(0);
    for (let j = 0; j < rows.covered[v]!; j++) {
      const at = ((rows.first[v]! + j) * raster.width + left) * channels;
      samples.set(data.subarray(at, at + count * channels));
      k.run.addRow(source, count, channels, wide ? 1 : 0, tableAt, alphaAt, rows.weights[rows.at[v]! + j]!, sums);
    }
    k.run.reduceRow(sums, columnsAt, weightsAt, width, rows.total[v]! > 0 ? 1 / rows.total[v]! : 0, outside, row);
    out.set(answer, v * width * 4);
  }
}

/** Whether each place covers one pixel alone, and the next place the next pixel. */
const pixelByPixel = ({ first, covered, total }: Footprints): boolean =>
  first.every((f, k) => f === first[0]! + k && covered[k] === 1 && total[k] === 1);

/** Rows that are taken as they are, as many at a time as stay in the processor's cache. */
function lightRows(
  { data, channels, width: whole }: Raster,
  table: Float32Array,
  alphaAt: number,
  columns: Footprints,
  rows: Footprints,
  out: Float32Array,
  onProgress?: (row: number, rows: number) => void,
): void {
  const k = light();
  const wide = data instanceof Uint16Array;
  const width = columns.count;
  const tableAt = k.put(table);
  const source = k.take(width * channels * 2);
  const row = k.take(width * 16);
  const samples = wide ? new Uint16Array(k.bytes(source, 0).buffer, source, width * channels) : k.bytes(source, width * channels);
  const answer = k.floats(row, width * 4);
  for (let v = 0; v < rows.count; v++) {
    if (v % 16 === 0) onProgress?.(v, rows.count);
    const at = (rows.first[v]! * whole + columns.first[0]!) * channels;
    samples.set(data.subarray(at, at + width * channels));
    k.run.lightOfRow(source, width, channels, wide ? 1 : 0, tableAt, alphaAt, row);
    out.set(answer, v * width * 4);
  }
}

/** Few enough to stay in the processor's nearest cache. */
const PIXELS_AT_A_TIME = 2048;

/** Linear premultiplied RGBA floats as 8-bit sRGB with straight alpha; `table` holds the sRGB byte of every step of light from 0 to 1. */
export function encodeLight(data: Float32Array, table: Uint8Array, out: Uint8ClampedArray): void {
  const k = light();
  const tableAt = k.take(table.length);
  const from = k.take(PIXELS_AT_A_TIME * 16);
  const to = k.take(PIXELS_AT_A_TIME * 4);
  k.bytes(tableAt, table.length).set(table);
  for (let i = 0; i < data.length; i += PIXELS_AT_A_TIME * 4) {
    const part = data.subarray(i, i + PIXELS_AT_A_TIME * 4);
    k.floats(from, part.length).set(part);
    k.run.encodePixels(from, part.length / 4, tableAt, table.length - 1, to);
    out.set(k.bytes(to, part.length), i);
  }
}
