import type { Size } from '../picture';
import { RADIUS_STEP, type SpanTable } from './aperture';
import { HALVING_SPREADS, hiddenLevels, sheetAt, type BlurShape, type Sheet } from './blurShape';
import { ANGLES, CUT_PX, DISTANCES } from './discProfile';
import type { Kernels } from './loader';

/** Pixels that a sheet scatters, and what lies behind them, as assembly/plan.ts says. Addresses; 0 where there is none. */
export interface Source extends Size {
  readonly pixels: number;
  readonly cover: number;
  readonly hidden: number;
  readonly hiddenCover: number;
  readonly hiddenBits: number;
}

/** What was gathered: RGBA times its coverage. */
export interface Made extends Size {
  readonly pixels: number;
}

export const halfSize = ({ width, height }: Size): Size => ({ width: (width + 1) >> 1, height: (height + 1) >> 1 });

/** Address of room for one float a pixel of half the size. */
export function roomForHalf(k: Kernels, size: Size): number {
  const half = halfSize(size);
  return k.take(half.width * half.height * 4);
}

/** Which slice each radius step is in: address, and how many steps there are on each side of 0. */
export interface Slices {
  readonly at: number;
  readonly zeroStep: number;
}

/** Spans of discs at the radii of some sheets: addresses; rows that each step reaches. */
interface Spans {
  readonly zeroStep: number;
  readonly lastRow: Int32Array;
  readonly lastRows: number;
  readonly spanOf: number;
}

/** What all sheets have in common. */
export interface Tables {
  readonly shape: BlurShape;
  /** slices of the whole picture */
  readonly slices: Slices;
  readonly spans: Spans;
  /** of the whole picture: where its middle lies, and half its diagonal, px */
  readonly middle: readonly [x: number, y: number];
  readonly halfDiagonal: number;
  /** addresses */
  readonly layerTable: number;
  readonly gains: number;
}

/** Writes the rows of discs beyond the focus, and before it. */
export function putSpans(k: Kernels, far: SpanTable, near: SpanTable): Spans {
  const zeroStep = far.steps - 1;
  const steps = 2 * zeroStep + 1;
  const entries = far.left.length + near.left.length;
  const spanData = k.take(entries * 32);
  const lastRows = k.take(steps * 4);
  const spanOf = k.take(steps * 4);
  const lastRow = k.ints(lastRows, steps);
  const spans = k.ints(spanOf, steps);
  for (let s = 0; s < steps; s++) {
    const table = s < zeroStep ? near : far;
    const q = Math.abs(s - zeroStep);
    lastRow[s] = table.lastRow[q]!;
    spans[s] = spanData + (table.offset[q]! + table.lastRow[q]! + (s < zeroStep ? far.left.length : 0)) * 32;
  }
  const spanInts = k.ints(spanData, entries * 8);
  const spanFloats = k.floats(spanData, entries * 8);
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
  return { zeroStep, lastRow: lastRow.slice(), lastRows, spanOf };
}

/** Writes what all sheets share. The rows are those of a picture `whole` high, from `from` on. */
export function putTables(k: Kernels, shape: BlurShape, width: number, whole: number, from: number): Tables {
  const { far, near, profile, maxRadius, sliceEdges } = shape;
  const layerTable = k.take(64);
  const gains = k.take(ANGLES * DISTANCES * 4);
  const layers = profile?.layers ?? [];
  k.floats(layerTable, layers.length * 2).set(layers.flat());
  if (profile) k.floats(gains, profile.gains.length).set(profile.gains);
  return {
    shape,
    slices: putSlices(k, Math.ceil(maxRadius / RADIUS_STEP), sliceEdges),
    spans: putSpans(k, far, near),
    middle: [width / 2, whole / 2 - from],
    halfDiagonal: Math.hypot(width, whole) / 2,
    layerTable,
    gains,
  };
}

/** Writes which slice each radius step is in. */
function putSlices(k: Kernels, zeroStep: number, edges: readonly number[]): Slices {
  const steps = 2 * zeroStep + 1;
  const at = k.take(steps);
  const sliceOf = k.bytes(at, steps);
  for (let s = 0, slice = 0; s < steps; s++) {
    while (slice < edges.length && (s - zeroStep) * RADIUS_STEP >= edges[slice]!) slice++;
    sliceOf[s] = slice;
  }
  return { at, zeroStep };
}

/** The pixels of one side of the focus at half the size; what its lamps are brighter than is told by the strongest light of each. */
export interface HalfSide {
  readonly pixels: number;
  readonly cover: number;
  readonly brightest: number;
}

/** The whole picture, what lies behind its foreground, and its sides at half the size as far as there are pixels. */
export interface Planes {
  readonly whole: Source;
  readonly before: HalfSide | null;
  readonly after: HalfSide | null;
}

/** Finds what lies behind the foreground of a picture (RGB and radius at `pixels`), and takes its sides to half the size. */
export function putPlanes(k: Kernels, { shape, slices }: Tables, { width, height }: Size, pixels: number): Planes {
  const half = halfSize({ width, height });
  const n = half.width * half.height;
  const side = (wanted: boolean): HalfSide | null => (wanted ? { pixels: k.take(n * 16), cover: k.take(n * 4), brightest: k.take(n * 4) } : null);
  const [before, after] = [side(shape.before.length > 0), side(shape.after.length > 0)];
  const hidden = k.take(n * 16);
  // read in fours
  const bits = k.take(n + 4);
  const bookmark = k.bookmark();
  const nearest = k.take(n * 4);
  const levels = hiddenLevels(shape.maxRadius);
  const levelWords: number[] = [];
  for (let l = 1, size: Size = { width, height }; l <= levels; l++) {
    size = halfSize(size);
    levelWords.push(k.take(size.width * size.height * 16), size.width, size.height);
  }
  const sideWords = [before, after].flatMap((s) => [s?.pixels ?? 0, s?.cover ?? 0, s?.brightest ?? 0]);
  const halves = k.take(64);
  const words = [width, height, pixels, levelWords[0]!, nearest, ...sideWords];
  k.ints(halves, words.length).set(words);
  k.floats(halves + words.length * 4, 3).set([shape.middle.least, shape.middle.beyond, HALVING_SPREADS].map(single));
  const any = k.run.firstHalves(halves);

  const plan = k.take(64);
  const blockLow = k.take(((width + 7) >> 3) * ((height + 7) >> 3) * 4);
  const levelTable = k.take(levels * 12);
  k.ints(levelTable, levelWords.length).set(levelWords);
  const hiddenWords = [
    width,
    height,
    pixels,
    hidden,
    bits,
    nearest,
    blockLow,
    levels,
    levelTable,
    slices.at,
    2 * slices.zeroStep + 1,
    slices.zeroStep,
  ];
  k.ints(plan, hiddenWords.length).set(hiddenWords);
  k.floats(plan + hiddenWords.length * 4, 1)[0] = 1 / RADIUS_STEP;
  k.run.hiddenPlate(plan);
  k.back(bookmark);
  const whole = { width, height, pixels, cover: 0, hidden, hiddenCover: 0, hiddenBits: bits };
  return { whole, before: any & 1 ? before : null, after: any & 2 ? after : null };
}

/** Numbers as they are compared in single precision; no end is the largest there is. */
export const single = (value: number): number => (Number.isFinite(value) ? value : Math.sign(value) * 3.4e38);

/** Lamps, and how much of each slice's light is seen where: planes of a coarser sheet, halved so many times. */
export interface LampWords {
  readonly above: number;
  readonly halvings: number;
  readonly shareSize: Size;
  /** what the sheets beyond the focus began with, at half the size; 0: these lie before it */
  readonly openAtHalf: number;
}

/** What a sheet is scattered from and into, besides its own pixels. */
export interface Around {
  readonly spans: Spans;
  readonly out: number;
  readonly front?: Made | null;
  readonly through?: number;
  readonly leaves?: number;
  /** a map of shares for each slice that has lamps, 0 for the others; absent where there are none */
  readonly shares?: readonly number[] | null;
  readonly lamps?: LampWords;
}

/** Writes the plan of one sheet in the order of assembly/plan.ts; gives its address. */
export function putPlan(k: Kernels, tables: Tables, sheet: Sheet, source: Source, around: Around): number {
  const { width, height } = source;
  const { profile } = tables.shape;
  const { spans, front, lamps } = around;
  const { zeroStep, lastRow } = spans;
  const { least, beyond, edges } = sheetAt(sheet, sheet.halvings);
  const slices = edges.length + 1;
  const farthest = (bound: number): number => Math.min(2 * zeroStep, Math.max(0, zeroStep + Math.round(bound / RADIUS_STEP)));
  const maxRow = Math.max(lastRow[farthest(least)]!, lastRow[farthest(beyond)]!);
  const pad = 2 * maxRow + 2;
  const slots = 2 * maxRow + 2;
  const runCapacity = width + 2;
  const colourRowBytes = (width + 2 * maxRow + 1) * 16;
  const differenceBytes = (width + 2 * pad + 4) * 16;
  const pieces = Math.ceil(width / CUT_PX);
  const half = halfSize(source);

  const address = k.take(320);
  const sliceOf = putSlices(k, zeroStep, edges).at;
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
  const room = k.take(((front?.width ?? 0) + 2) * 16);
  const cuts = k.take(profile?.cut ? slots * pieces * 12 : 4);
  const span = k.take(32);
  const shares = around.shares ? k.take(slices * 4) : 0;
  if (around.shares) k.ints(shares, slices).set(around.shares);

  const words = [
    ...[width, height, slices, 2 * zeroStep + 1, zeroStep, maxRow, pad, slots, runCapacity, 0],
    ...[source.pixels, source.cover, source.hidden, source.hiddenCover, source.hiddenBits, 0, 0],
    ...[around.out, front?.pixels ?? 0, front?.width ?? 0, front?.height ?? 0, around.through ?? 0, around.leaves ?? 0],
    ...[shares, lamps?.above ?? 0, lamps?.halvings ?? 0, lamps?.shareSize.width ?? 0, lamps?.shareSize.height ?? 0],
    ...[lamps?.openAtHalf ?? 0, half.width, half.height, sliceOf, spans.lastRows, spans.spanOf],
    ...[runs, colours, firstRun, hiddenRuns, hiddenColours, firstHiddenRun, reaches, columns, rowInSlot, count, scratchRuns],
    ...[difference, differenceBytes, transmittance, room, colourRowBytes],
    ...[profile?.layers.length ?? 0, tables.layerTable, 0, 0, 0, tables.gains, cuts, pieces, span],
  ];
  k.ints(address, words.length).set(words);
  k.floats(address + 9 * 4, 1)[0] = 1 / RADIUS_STEP;
  // a halved sheet has none of the finer ones' pixels, and its own radii may be a little less than its end's
  const halved = sheet.halvings > 0;
  const ends = [halved && least > 0 ? -Infinity : least, halved && beyond < 0 ? Infinity : beyond];
  k.floats(address + 15 * 4, 2).set(ends.map(single));
  // a px of this sheet is so many of the whole picture's
  const px = 2 ** sheet.halvings;
  const [x, y] = tables.middle;
  k.floats(address + (words.length - 7) * 4, 3).set([((profile?.cut ?? 0) * px) / tables.halfDiagonal, x / px, y / px]);
  return address;
}
