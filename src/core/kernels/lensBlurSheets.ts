import type { Size } from '../picture';
import { RADIUS_STEP, spanTable } from './aperture';
import { HALVING_SPREADS, sheetAt, turned, type Sheet } from './blurShape';
import { halfSize, putPlan, putSpans, roomForHalf, single, type HalfSide, type Made, type Planes, type Source, type Tables } from './lensBlurLayout';
import type { Kernels } from './loader';

/** Rows done between two looks at the stop flag. Even: rows are made in pairs. */
const ROWS_PER_STEP = 16;
/** Blocks of which means are taken, as lampLight.ts says. */
const LAMP_BLOCK = 8;

export interface Rows {
  readonly from: number;
  readonly to: number;
}

/** Rows of the sheet at half the size that are read when these are enlarged from it. */
const readAtHalf = ({ from, to }: Rows, height: number): Rows => ({
  // rows are made in pairs
  from: Math.max(0, ((from >> 1) - 1) & ~1),
  to: Math.min((height + 1) >> 1, ((to - 1) >> 1) + 2),
});

/** Rows of each sheet, by how many times it is halved. */
interface SheetRows {
  readonly wanted: Rows;
  /** of the sheets beyond the focus: those that are read, and those that are made, since all pixels tell what is left open to a coarser one */
  readonly read: readonly Rows[];
  readonly after: readonly Rows[];
  readonly before: readonly Rows[];
}

export function rowsOf(before: readonly Sheet[], after: readonly Sheet[], size: Size, wanted: Rows): SheetRows {
  const heights = [size.height];
  while (heights.length <= Math.max(before.length, after.length)) heights.push((heights.at(-1)! + 1) >> 1);
  const read = [wanted];
  for (const [n] of after.entries()) read.push(readAtHalf(read[n]!, heights[n]!));
  const made = [...read];
  for (let n = after.length - 1; n >= 0; n--) {
    const coarse = made[n + 1]!;
    made[n] = { from: 2 * coarse.from, to: Math.min(heights[n]!, 2 * coarse.to) };
  }
  const inFront = [made[0]!];
  for (const [n] of before.entries()) inFront.push(readAtHalf(inFront[n]!, heights[n]!));
  return { wanted, read, after: made, before: inFront };
}

/** One call of the blur: what it works on, and where it looks whether to stop. */
export interface BlurRun {
  readonly k: Kernels;
  readonly tables: Tables;
  readonly planes: Planes;
  /** address of the rows that come out, one more than the whole has */
  readonly result: number;
  /** address of what the middle sheet leaves open, at half the size; 0 where nothing follows */
  readonly leftOpen: number;
  readonly rows: SheetRows;
  readonly stopping: () => void;
}

function inSteps(rows: Rows, work: (part: Rows) => void): void {
  for (let y = rows.from; y < rows.to; y += ROWS_PER_STEP) work({ from: y, to: Math.min(rows.to, y + ROWS_PER_STEP) });
}

/** The pixels of one side of the focus, sheet by sheet from half the size on, and its lamps. */
interface Side {
  readonly sheets: readonly Sheet[];
  readonly sources: readonly Source[];
  /** what lamps are brighter than, at half the size; 0 where there are none */
  readonly lampsAbove: number;
  /** by slice of the whole picture: 1 where it has lamps */
  readonly lampSlices: Uint8Array;
}

/** Takes the lamps of a side out of it; says what they are brighter than, and in which slices of the whole picture there are any. */
function takeLamps({ k, tables, planes: { whole } }: BlurRun, sheet: Sheet, half: HalfSide): Pick<Side, 'lampsAbove' | 'lampSlices'> {
  const { slices, shape } = tables;
  const { width, height } = halfSize(whole);
  const count = shape.sliceEdges.length + 1;
  const used = k.take(count);
  k.bytes(used, count).fill(0);
  const blocks = k.take(Math.ceil(width / LAMP_BLOCK) * Math.ceil(height / LAMP_BLOCK) * 8);
  const [least, beyond] = (sheet.beyond <= 0 ? [-Infinity, sheet.beyond] : [sheet.least, Infinity]).map(single) as [number, number];
  const from = [whole.pixels, whole.width, whole.height, least, beyond] as const;
  const steps = [slices.at, 2 * slices.zeroStep + 1, slices.zeroStep, 1 / RADIUS_STEP] as const;
  const any = k.run.takeLamps(...from, half.pixels, half.cover, half.brightest, blocks, used, ...steps);
  return { lampsAbove: any ? half.brightest : 0, lampSlices: k.bytes(used, count).slice() };
}

/** The sheets of one side, each made of the finer one; no lamps are left in them. `half` is the first, null where no pixel lies there. */
function sideOf(run: BlurRun, all: readonly Sheet[], half: HalfSide | null): Side {
  const { k, planes } = run;
  const sources: Source[] = [];
  // what lies behind the foreground may lie on a side where nothing else does: it counts only beside others
  const sheets = half ? all : [];
  const lamps = half ? takeLamps(run, all[0]!, half) : { lampsAbove: 0, lampSlices: new Uint8Array(0) };
  for (let from = planes.whole, n = 0; n < sheets.length; n++) {
    const size = halfSize(from);
    const pixels = size.width * size.height;
    const own = n === 0 ? half! : { pixels: k.take(pixels * 16), cover: k.take(pixels * 4) };
    const to = { ...size, pixels: own.pixels, cover: own.cover, hidden: k.take(pixels * 16), hiddenCover: k.take(pixels * 4), hiddenBits: 0 };
    // all that this sheet and the coarser ones have, in px of the finer
    const { least, beyond } = sheetAt(sheets[n]!, n);
    const [low, high] = (beyond <= 0 ? [-Infinity, beyond] : [least, Infinity]).map(single) as [number, number];
    const ends = [low, high, HALVING_SPREADS] as const;
    if (n > 0) k.run.halveSheet(from.pixels, from.cover, from.width, from.height, ...ends, to.pixels, to.cover);
    const any = from.hiddenBits
      ? k.run.hiddenSheet(from.hidden, from.hiddenBits, pixels, ...ends, to.hidden, to.hiddenCover)
      : from.hidden && k.run.halveSheet(from.hidden, from.hiddenCover, from.width, from.height, ...ends, to.hidden, to.hiddenCover);
    from = any ? to : { ...to, hidden: 0, hiddenCover: 0 };
    sources.push(from);
  }
  return { sheets, sources, ...lamps };
}

/** Room for the shares that are seen of each slice that has lamps; null where none of this sheet's has. */
function sharesOf({ k, tables }: BlurRun, side: Side, n: number): readonly number[] | null {
  const { sliceEdges } = tables.shape;
  const { least, edges } = side.sheets[n]!;
  const { width, height } = side.sources[n]!;
  // the slices of a sheet follow each other in the whole picture's
  const first = sliceEdges.filter((e) => e <= least).length;
  const last = edges.length;
  const hasLamps = (slice: number): boolean => side.lampSlices[first + slice] === 1;
  // radii are rounded to steps: what lies at an end of the sheet may count to the slice beyond it
  const asked = (slice: number): boolean => hasLamps(slice) || (slice === 0 && hasLamps(-1)) || (slice === last && hasLamps(last + 1));
  const shares = Array.from({ length: last + 1 }, (_, slice) => (asked(slice) ? k.take(width * height * 4) : 0));
  return shares.some((address) => address !== 0) ? shares : null;
}

/** Plans that scatter the lamps of a side at full size into the result. */
function lampPlans(run: BlurRun, side: Side, shares: readonly (readonly number[] | null)[], openAtHalf: number): number[] {
  if (!side.lampsAbove) return [];
  const { k, tables, result } = run;
  const { aperture, maxRadius } = tables.shape;
  const spans = putSpans(k, spanTable(aperture, maxRadius), spanTable(turned(aperture), maxRadius));
  return side.sheets.flatMap((sheet, n) => {
    if (!shares[n]) return [];
    const source = { ...run.planes.whole, hidden: 0, hiddenBits: 0 };
    const lamps = { above: side.lampsAbove, halvings: n + 1, shareSize: side.sources[n]!, openAtHalf };
    const plan = putPlan(k, tables, { ...sheet, halvings: 0 }, source, { spans, out: result, shares: shares[n], lamps });
    k.run.beginScatter(plan);
    return [plan];
  });
}

/** What lies in front of the middle sheet, and the plans of its lamps. */
interface Front {
  readonly made: Made | null;
  readonly lamps: readonly number[];
}

/** Scatters what lies far before the focus, from the coarsest sheet to the one at half the size. */
export function scatterBefore(run: BlurRun): Front {
  const { k, tables, rows, planes } = run;
  const side = sideOf(run, tables.shape.before, planes.before);
  const shares = side.sheets.map((_, n) => sharesOf(run, side, n));
  let made: Made | null = null;
  for (let n = side.sheets.length; n >= 1; n--) {
    const source = side.sources[n - 1]!;
    const out = k.take(source.width * (source.height + 1) * 16);
    const around = { spans: tables.spans, out, front: made, shares: shares[n - 1] };
    const plan = putPlan(k, tables, side.sheets[n - 1]!, source, around);
    k.run.beginScatter(plan);
    inSteps(rows.before[n]!, ({ from, to }) => {
      k.run.scatterRows(plan, from, to);
      run.stopping();
    });
    made = { width: source.width, height: source.height, pixels: out };
  }
  return { made, lamps: lampPlans(run, side, shares, 0) };
}

/** Scatters what is near the focus behind it. `done`: takes the rows that are light, where nothing follows. */
export function scatterMiddle(
  { k, tables, planes: { whole }, result, leftOpen, rows, stopping }: BlurRun,
  front: Front,
  done: ((part: Rows) => void) | null,
): void {
  const middle = putPlan(k, tables, tables.shape.middle, whole, { spans: tables.spans, out: result, front: front.made, leaves: leftOpen });
  k.run.beginScatter(middle);
  const lamps = (part: Rows): void => {
    for (const plan of front.lamps) k.run.scatterRows(plan, part.from, part.to);
  };
  inSteps(rows.after[0]!, (part) => {
    k.run.scatterRows(middle, part.from, part.to);
    if (!done) return stopping();
    lamps(part);
    k.run.finishRows(result, whole.width, part.from, part.to);
    done(part);
  });
  if (!done) inSteps(rows.wanted, lamps);
}

/** Scatters what lies far beyond the focus, as far as it is left open, and lays it behind. */
export function scatterAfter(run: BlurRun, done: (part: Rows) => void): void {
  const { k, tables, planes, result, leftOpen, rows } = run;
  const side = sideOf(run, tables.shape.after, planes.after);
  const shares = side.sheets.map((_, n) => sharesOf(run, side, n));
  let through = leftOpen;
  const made: (Made & { through: number })[] = [{ width: planes.whole.width, height: planes.whole.height, pixels: result, through: 0 }];
  for (const [n, sheet] of side.sheets.entries()) {
    const source = side.sources[n]!;
    const pixels = k.take(source.width * (source.height + 1) * 16);
    const leaves = n + 1 < side.sheets.length ? roomForHalf(k, source) : 0;
    const own = rows.after[n + 1]!;
    const plan = putPlan(k, tables, sheet, source, { spans: tables.spans, out: pixels, through, leaves, shares: shares[n] });
    k.run.beginScatter(plan);
    inSteps(own, ({ from, to }) => {
      k.run.scatterRows(plan, from, to);
      run.stopping();
    });
    made.push({ width: source.width, height: source.height, pixels, through });
    through = leaves;
  }
  const room = k.take((made[1]!.width + 2) * 20);
  const lay = (n: number, part: Rows, finished = false): void => {
    const [finer, coarse] = [made[n]!, made[n + 1]!];
    const from = [coarse.pixels, coarse.through, coarse.width, coarse.height] as const;
    k.run.behindRows(finer.pixels, finer.through, finer.width, part.from, part.to, ...from, room, finished ? 1 : 0);
  };
  for (let n = side.sheets.length - 1; n >= 1; n--) lay(n, rows.read[n]!);
  const lamps = lampPlans(run, side, shares, leftOpen);
  inSteps(rows.wanted, (part) => {
    for (const plan of lamps) k.run.scatterRows(plan, part.from, part.to);
    lay(0, part, true);
    done(part);
  });
}
