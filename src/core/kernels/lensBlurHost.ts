import { hiddenLevels, type BlurShape } from './blurShape';
import { putPlanes, putTables, roomForHalf } from './lensBlurLayout';
import { rowsOf, scatterAfter, scatterBefore, scatterMiddle, type Rows } from './lensBlurSheets';
import { kernels } from './loader';

/** RGB linear light and signed blur radius in px, interleaved (4 floats a pixel). */
export interface RadiusPicture {
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}

/** Source rows that output rows y0 … y1−1 depend on, aligned so that any split gives bit-identical results. */
export function sourceRows(shape: BlurShape, height: number, y0: number, y1: number): { from: number; to: number } {
  const cell = 2 ** hiddenLevels(shape.maxRadius);
  const halvings = Math.max(shape.before.length, shape.after.length);
  const halo = Math.ceil(shape.maxRadius) + 2 * cell + 2 + (halvings ? 8 * 2 ** halvings : 0);
  return {
    from: Math.max(0, Math.floor((y0 - halo) / cell) * cell),
    to: Math.min(height, Math.ceil((y1 + halo) / cell) * cell),
  };
}

/**
 * Blurs rows y0 … y1−1 of a picture (y0 even) by the WASM kernel into `out` (RGBA, whole picture, alpha 1). What is far out of focus is scattered
 * at half the size, a quarter …: what lies before the focus first, from the coarsest sheet to the finest, then what is near the focus, then what
 * lies beyond, as far as the sheets before leave it open.
 * `onProgress` is called between row bands with the next row; what it throws ends the work.
 */
export function blurRows(
  picture: RadiusPicture,
  shape: BlurShape,
  y0: number,
  y1: number,
  out: Float32Array,
  onProgress?: (row: number) => void,
): void {
  const k = kernels();
  k.reset();
  const { from, to } = sourceRows(shape, picture.height, y0, y1);
  const width = picture.width;
  const size = { width, height: to - from };
  const tables = putTables(k, shape, width, picture.height, from);
  const pixels = k.take(width * size.height * 16);
  k.floats(pixels, width * size.height * 4).set(picture.data.subarray(from * width * 4, to * width * 4));
  const planes = putPlanes(k, tables, size, pixels);
  onProgress?.(y0);

  const result = k.take(width * (size.height + 1) * 16);
  const wanted = { from: y0 - from, to: y1 - from };
  const after = planes.after ? shape.after : [];
  const rows = rowsOf(planes.before ? shape.before : [], after, size, wanted);
  const leftOpen = after.length ? roomForHalf(k, size) : 0;
  const run = { k, tables, planes, result, leftOpen, rows, stopping: (): void => onProgress?.(y0) };
  const done = (part: Rows): void => {
    out.set(k.floats(result + part.from * width * 16, (part.to - part.from) * width * 4), (part.from + from) * width * 4);
    onProgress?.(part.to + from);
  };
  const bookmark = k.bookmark();
  scatterMiddle(run, scatterBefore(run), after.length ? null : done);
  if (!after.length) return;
  // what lies in front is laid down: its room is free
  k.back(bookmark);
  scatterAfter(run, done);
}

/** The thin lens as radii see it: ρ = atInfinity − scale / distance, within least … most; soft edges are snapped above `snapAbove` px. */
export interface LensRadii {
  readonly atInfinity: number;
  readonly scale: number;
  readonly least: number;
  readonly most: number;
  readonly snapAbove: number;
}

/** What packLight met: the range of the radii (0 is in it), the strongest light of any channel, and the thinnest alpha. */
export interface Packed {
  readonly lowest: number;
  readonly highest: number;
  readonly brightest: number;
  readonly thinnest: number;
}

/** So many that a part stays in the processor's cache. */
const PACKED_AT_A_TIME = 16384;

/**
 * Writes light (RGBA, n pixels of `width` a row) beside the signed blur radii (px) of its distances (metres) into `packed`. Values of a soft
 * map edge are snapped to the nearer extreme of their 5x5 window where that spans more than `snapAbove`.
 */
export function packLight(light: Float32Array, distance: Float32Array, width: number, lens: LensRadii, packed: Float32Array): Packed {
  const k = kernels();
  k.reset();
  const n = distance.length;
  const radii = k.take(n * 4);
  const scratch = k.take(width * 40);
  const part = k.take(PACKED_AT_A_TIME * 16);
  const found = k.take(48);
  k.floats(radii, n).set(distance);
  k.run.radiiOfDistances(radii, n, lens.atInfinity, lens.scale, lens.least, lens.most);
  if (lens.snapAbove < Infinity) k.run.snapEdges(radii, width, n / width, lens.snapAbove, scratch);
  k.floats(found, 12).set([0, 0, 0, 0, 0, 0, 0, 0, 1, 1, 1, 1]);
  for (let i = 0; i < n; i += PACKED_AT_A_TIME) {
    const count = Math.min(PACKED_AT_A_TIME, n - i);
    const values = k.floats(part, count * 4);
    values.set(light.subarray(i * 4, (i + count) * 4));
    k.run.packRadii(part, radii + i * 4, count, found);
    packed.set(values, i * 4);
  }
  const [, , , lowest, red, green, blue, highest, , , , thinnest] = k.floats(found, 12);
  return { lowest: lowest!, highest: highest!, brightest: Math.max(red!, green!, blue!), thinnest: thinnest! };
}
