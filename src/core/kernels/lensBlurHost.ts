import { RADIUS_STEP } from './aperture';
import { hiddenLevels, type BlurShape } from './blurShape';
import { ANGLES, CUT_PX, DISTANCES } from './discProfile';
import { kernels, type Kernels } from './loader';

/** RGB linear light and signed blur radius in px, interleaved (4 floats a pixel). */
export interface RadiusPicture {
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}

/** Rows done between two looks at the stop flag. Even: rows are made in pairs. */
const ROWS_PER_STEP = 16;

/** Source rows that output rows y0 … y1 depend on, aligned so that any split gives bit-identical results. */
export function sourceRows(shape: BlurShape, height: number, y0: number, y1: number): { from: number; to: number } {
  const cell = 2 ** hiddenLevels(shape.maxRadius);
  const halo = Math.ceil(shape.maxRadius) + 2 * cell + 2;
  return {
    from: Math.max(0, Math.floor((y0 - halo) / cell) * cell),
    to: Math.min(height, Math.ceil((y1 + halo) / cell) * cell),
  };
}

/**
 * Blurs rows y0 … y1−1 of a picture (y0 even) by the WASM kernel into `out` (RGBA, whole picture, alpha 1).
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
  const height = to - from;
  const plan = layOut(k, width, height, shape, picture.height, from);
  k.floats(plan.image, width * height * 4).set(picture.data.subarray(from * width * 4, to * width * 4));
  k.run.hiddenPlate(plan.address);
  onProgress?.(y0);
  k.run.beginScatter(plan.address);
  for (let y = y0; y < y1; y += ROWS_PER_STEP) {
    const end = Math.min(y1, y + ROWS_PER_STEP);
    k.run.scatterRows(plan.address, y - from, end - from);
    out.set(k.floats(plan.out + (y - from) * width * 16, (end - y) * width * 4), y * width * 4);
    onProgress?.(end);
  }
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

interface Layout {
  address: number;
  image: number;
  out: number;
}

/** Writes the span tables and the plan's words, in the order of assembly/plan.ts. The rows are those of a picture `whole` high, from `from` on. */
function layOut(k: Kernels, width: number, height: number, shape: BlurShape, whole: number, from: number): Layout {
  const { far, near, maxRadius, sliceEdges, profile } = shape;
  const zeroStep = Math.ceil(maxRadius / RADIUS_STEP);
  const steps = 2 * zeroStep + 1;
  const slices = sliceEdges.length + 1;
  const maxRow = Math.max(far.maxRow, near.maxRow);
  const pad = 2 * maxRow + 2;
  const slots = 2 * maxRow + 2;
  const runCapacity = width + 2;
  const colourRowBytes = (width + 2 * maxRow + 1) * 16;
  const differenceBytes = (width + 2 * pad + 4) * 16;
  const blocks = ((width + 7) >> 3) * ((height + 7) >> 3);
  const levels = hiddenLevels(maxRadius);
  const spans = far.left.length + near.left.length;

  const address = k.take(256);
  const image = k.take(width * height * 16);
  const hidden = k.take(width * height * 16);
  const out = k.take(width * (height + 1) * 16);
  const sliceOf = k.take(steps);
  const lastRow = k.take(steps * 4);
  const spanOf = k.take(steps * 4);
  const spanData = k.take(spans * 32);
  const runs = k.take(slots * runCapacity * 16);
  const colours = k.take(slots * colourRowBytes);
  const firstRun = k.take(slots * (slices + 1) * 4);
  const hiddenRuns = k.take(slots * runCapacity * 16);
  const hiddenColours = k.take(slots * colourRowBytes);
  const firstHiddenRun = k.take(slots * (slices + 1) * 4);
  const reaches = k.take(slots * slices * 4);
  const columns = k.take(slots * slices * 8);
  const rowInSlot = k.take(slots * 4);
  const count = k.take((slices + 1) * 4);
  const scratchRuns = k.take(runCapacity * 16);
  const difference = k.take(differenceBytes * 2);
  const transmittance = k.take(width * 8);
  const accumulator = k.take(width * 32);
  const hiddenMask = k.take(blocks);
  const blockLow = k.take(blocks * 4);
  const levelTable = k.take(levels * 12);
  const layers = profile?.layers ?? [];
  const layerTable = k.take(64);
  const gains = k.take(ANGLES * DISTANCES * 4);
  const pieces = Math.ceil(width / CUT_PX);
  const cuts = k.take(profile?.cut ? slots * pieces * 12 : 4);
  const span = k.take(32);
  const levelWords: number[] = [];
  for (let l = 1, w = width, h = height; l <= levels; l++) {
    w = (w + 1) >> 1;
    h = (h + 1) >> 1;
    levelWords.push(k.take(w * h * 16), w, h);
  }

  const words = [
    ...[width, height, slices, steps, zeroStep, maxRow, pad, slots, runCapacity, 0, image, hidden, out, sliceOf, lastRow, spanOf],
    ...[runs, colours, firstRun, hiddenRuns, hiddenColours, firstHiddenRun, reaches, columns, rowInSlot, count, scratchRuns],
    ...[difference, differenceBytes, transmittance, accumulator, colourRowBytes, hiddenMask, blockLow, levels, levelTable, 1],
    ...[layers.length, layerTable, 0, 0, 0, gains, cuts, pieces, span],
  ];
  k.ints(address, words.length).set(words);
  k.floats(address + 36, 1)[0] = 1 / RADIUS_STEP;
  const cutAt = address + (words.length - 7) * 4;
  k.floats(cutAt, 3).set([((profile?.cut ?? 0) * 2) / Math.hypot(width, whole), width / 2, whole / 2 - from]);
  k.floats(layerTable, layers.length * 2).set(layers.flat());
  if (profile) k.floats(gains, profile.gains.length).set(profile.gains);
  k.ints(levelTable, levelWords.length).set(levelWords);
  for (let s = 0; s < steps; s++) {
    const rho = (s - zeroStep) * RADIUS_STEP;
    let slice = 0;
    while (slice < sliceEdges.length && rho >= sliceEdges[slice]!) slice++;
    const table = s < zeroStep ? near : far;
    const q = Math.abs(s - zeroStep);
    k.bytes(sliceOf, steps)[s] = slice;
    k.ints(lastRow, steps)[s] = table.lastRow[q]!;
    const first = s < zeroStep ? far.left.length : 0;
    k.ints(spanOf, steps)[s] = spanData + (table.offset[q]! + table.lastRow[q]! + first) * 32;
  }
  const spanInts = k.ints(spanData, spans * 8);
  const spanFloats = k.floats(spanData, spans * 8);
  for (const [table, first] of [
    [far, 0],
    [near, far.left.length],
  ] as const)
    for (let e = 0; e < table.left.length; e++) {
      const p = (first + e) * 8;
      const w = table.weight[e]!;
      spanInts[p] = table.left[e]! * 16;
      spanInts[p + 1] = table.right[e]! * 16;
      spanFloats[p + 4] = w * (1 - table.leftFraction[e]!);
      spanFloats[p + 5] = w * table.leftFraction[e]!;
      spanFloats[p + 6] = -w * (1 - table.rightFraction[e]!);
      spanFloats[p + 7] = -w * table.rightFraction[e]!;
    }
  return { address, image, out };
}
