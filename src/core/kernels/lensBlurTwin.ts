import { RADIUS_STEP, spanTable, type SpanTable } from './aperture';
import { sheetAt, turned, type BlurShape, type Sheet } from './blurShape';
import { cutAt, cutSpan, type Cut, type DiscProfile } from './discProfile';
import type { RadiusPicture } from './lensBlurHost';
import { enlarged, halved, halvedHidden, halvedPlane, hiddenPlateTwin, lampsOf, ownersOf, type TwinSheet } from './lensBlurTwinSheets';

const EVEN: Pick<DiscProfile, 'layers'> = { layers: [[1, 1]] };

interface Spans {
  readonly far: SpanTable;
  readonly near: SpanTable;
}

/** What a sheet is laid over, and what of it is left to be covered. */
interface Gathered {
  readonly out: Float64Array;
  readonly open: Float64Array;
  /** of each slice the share of its light that is seen */
  readonly shares: readonly Float64Array[];
}

const nothing = (pixels: number): Gathered => ({ out: new Float64Array(pixels * 4), open: new Float64Array(pixels).fill(1), shares: [] });

const sliceOf = (edges: readonly number[], rho: number): number => edges.filter((e) => rho >= e).length;

/** Adds the row of one pixel's discs that lies `dy` from it to a row of differences, at a column of that. */
function addDisc(
  row: Float64Array,
  column: number,
  dy: number,
  light: readonly number[],
  step: number,
  { far, near }: Spans,
  profile: DiscProfile | null,
  cut: Cut | null,
): void {
  const table: SpanTable = step < 0 ? near : far;
  for (const [scale, share] of (profile ?? EVEN).layers) {
    const q = Math.round(Math.abs(step) * scale);
    if (Math.abs(dy) > table.lastRow[q]!) continue;
    const e = table.offset[q]! + table.lastRow[q]! + dy;
    const span = cutSpan(table, e, q, dy, cut);
    if (!span) continue;
    const [left, right] = span.map(Math.floor) as [number, number];
    const [l1, r1] = [span[0] - left, span[1] - right];
    const weight = table.weight[e]! * share * (cut?.gain ?? 1);
    for (let c = 0; c < 4; c++) {
      const v = light[c]! * weight;
      const l = (column + left) * 4 + c;
      const r = (column + right) * 4 + c;
      row[l]! += v * (1 - l1);
      row[l + 4]! += v * l1;
      row[r]! -= v * (1 - r1);
      row[r + 4]! -= v * r1;
    }
  }
}

/** Light of every slice of a sheet: RGB and coverage, blurred, row by row. `whole`: the size that discs are cut for, px of this sheet. */
function* blurredRows(
  source: TwinSheet,
  belongs: (rho: number) => boolean,
  edges: readonly number[],
  { far, near }: Spans,
  profile: DiscProfile | null,
  whole: { width: number; height: number },
): Generator<Float64Array[]> {
  const { width, height } = source;
  const maxRow = Math.max(far.maxRow, near.maxRow);
  const pad = 2 * maxRow + 2;
  const difference = Array.from({ length: edges.length + 1 }, () => new Float64Array((width + 2 * pad + 4) * 4));
  const limit = far.steps - 1;
  const stepOf = (rho: number): number => Math.max(-limit, Math.min(limit, Math.round(rho / RADIUS_STEP)));
  for (let y = 0; y < height; y++) {
    for (const row of difference) row.fill(0);
    for (let dy = -maxRow; dy <= maxRow; dy++) {
      const sourceY = y - dy;
      const row = Math.min(height - 1, Math.max(0, sourceY));
      const outside = row !== sourceY;
      if (outside && source.lamps) continue;
      const add = (x: number, data: Float32Array, i: number, cover: number, clampLight: boolean): void => {
        const step = stepOf(data[i + 3]!);
        const inside = Math.max(0, Math.min(width - 1, x));
        const cut = profile && profile.cut > 0 ? cutAt(profile, inside, row, whole.width, whole.height, step < 0) : null;
        const light = [0, 1, 2, 3].map((c) => (c === 3 ? cover : clampLight ? Math.min(cover, data[i + c]!) : data[i + c]!));
        addDisc(difference[sliceOf(edges, step * RADIUS_STEP)]!, x + pad, dy, light, step, { far, near }, profile, cut);
      };
      const first = row * width;
      for (let x = 0; x < width; x++) {
        const i = first + x;
        const rho = source.data[i * 4 + 3]!;
        if (source.cover[i]! > 0 && belongs(rho)) {
          add(x, source.data, i * 4, source.lamps ? 0 : source.cover[i]!, outside);
          const step = stepOf(rho);
          const goesOn = source.lamps ? 0 : (step < 0 ? near : far).lastRow[Math.abs(step)]!;
          // the border goes on outside, with no light brighter than white
          if (x === 0) for (let t = 1; t <= goesOn; t++) add(-t, source.data, i * 4, source.cover[i]!, true);
          if (x === width - 1) for (let t = 1; t <= goesOn; t++) add(x + t, source.data, i * 4, source.cover[i]!, true);
        }
        for (const { data, cover, at } of source.hidden ? [source.hidden] : []) {
          const h = at(x, row);
          if (cover[i]! > 0 && belongs(data[h * 4 + 3]!)) add(x, data, h * 4, cover[i]!, outside);
        }
      }
    }
    yield difference.map((row) => {
      const light = new Float64Array(width * 4);
      const sum = [0, 0, 0, 0];
      for (let p = 0; p < pad + width; p++)
        for (let c = 0; c < 4; c++) {
          sum[c]! += row[p * 4 + c]!;
          if (p >= pad) light[(p - pad) * 4 + c] = sum[c]!;
        }
      return light;
    });
  }
}

/** Lays the slices of a sheet behind what is there, from near to far, until all is covered. */
function gather(shape: BlurShape, sheet: Sheet, source: TwinSheet, whole: RadiusPicture, start: Gathered): Gathered {
  const { width } = source;
  const px = 2 ** sheet.halvings;
  const { least, beyond, edges } = sheetAt(sheet, sheet.halvings);
  const halves = sheet.halvings > 0;
  const belongs = (rho: number): boolean =>
    (rho >= Math.fround(least) || (halves && least > 0)) && (rho < Math.fround(beyond) || (halves && beyond < 0));
  const out = start.out.slice();
  const open = start.open.slice();
  const shares = Array.from({ length: edges.length + 1 }, () => new Float64Array(open.length));
  let y = 0;
  for (const slices of blurredRows(source, belongs, edges, shape, shape.profile, { width: whole.width / px, height: whole.height / px })) {
    for (const [k, light] of slices.entries())
      for (let x = 0; x < width; x++) {
        const i = y * width + x;
        const weight = light[x * 4 + 3]!;
        const cover = Math.min(weight, open[i]!);
        shares[k]![i] = open[i]! > 0 ? 1 : 0;
        if (weight > open[i]!) shares[k]![i] = open[i]! / weight;
        if (weight <= 1e-4) continue;
        for (let c = 0; c < 4; c++) out[i * 4 + c]! += (light[x * 4 + c]! * cover) / weight;
        open[i]! -= cover;
      }
    y++;
  }
  return { out, open, shares };
}

/** Adds the light of lamps at full size: as much of each slice as is seen. `ratio`: of a pixel, what is open there over what is at half the size. */
function addLamps(
  shape: BlurShape,
  sheets: readonly Sheet[],
  lamps: TwinSheet | null,
  gathered: readonly (Gathered & { width: number; height: number })[],
  picture: RadiusPicture,
  out: Float64Array,
  ratio: (i: number) => number,
): void {
  if (!lamps) return;
  const { width } = picture;
  const spans = { far: spanTable(shape.aperture, shape.maxRadius), near: spanTable(turned(shape.aperture), shape.maxRadius) };
  for (const [n, sheet] of sheets.entries()) {
    const { shares, ...size } = gathered[n]!;
    const seen = shares.map((data) => enlarged({ ...size, data, channels: 1 }, n + 1, picture));
    const belongs = (rho: number): boolean => rho >= Math.fround(sheet.least) && rho < Math.fround(sheet.beyond);
    let y = 0;
    for (const slices of blurredRows(lamps, belongs, sheet.edges, spans, shape.profile, picture)) {
      for (let x = 0; x < width; x++) {
        const i = y * width + x;
        for (const [k, light] of slices.entries()) {
          if (Math.max(light[x * 4]!, light[x * 4 + 1]!, light[x * 4 + 2]!) < 1e-5) continue;
          for (let c = 0; c < 3; c++) out[i * 4 + c]! += light[x * 4 + c]! * seen[k]![i]! * ratio(i);
        }
      }
      y++;
    }
  }
}

/** The sheets of one side, each from the finer one, and its lamps. */
function sideOf(shape: BlurShape, sheets: readonly Sheet[], picture: TwinSheet): { sources: TwinSheet[]; lamps: TwinSheet | null } {
  const sources: TwinSheet[] = [];
  let lamps: TwinSheet | null = null;
  let from = picture;
  for (const [n, sheet] of sheets.entries()) {
    const { least, beyond } = sheetAt(sheet, n);
    const belongs = (rho: number): boolean => (beyond <= 0 ? rho < Math.fround(beyond) : rho >= Math.fround(least));
    let to = halved(from, belongs);
    if (n === 0) [to, lamps] = lampsOf(picture, belongs, to);
    from = { ...to, hidden: halvedHidden(from, to, belongs) };
    sources.push(from);
  }
  return { sources, lamps };
}

/**
 * The lens blur written to be read: the same steps as the WASM kernel, one pixel at a time. The tests compare the two.
 * Returns RGBA with alpha 1.
 */
export function blurTwin(picture: RadiusPicture, shape: BlurShape): Float32Array {
  const { width, height, data } = picture;
  const pixels = width * height;
  const hidden = hiddenPlateTwin(picture, shape.maxRadius);
  const owners = ownersOf(picture, hidden, (rho) => sliceOf(shape.sliceEdges, Math.round(rho / RADIUS_STEP) * RADIUS_STEP));
  const halfWidth = (width + 1) >> 1;
  const at = (x: number, y: number): number => (y >> 1) * halfWidth + (x >> 1);
  const whole: TwinSheet = { width, height, data, cover: new Float32Array(pixels).fill(1), hidden: { data: hidden, cover: owners, at } };

  // before the focus, the coarsest sheet first
  const before = sideOf(shape, shape.before, whole);
  const inFront: (Gathered & { width: number; height: number })[] = [];
  const front = (size: { width: number; height: number }, made: (Gathered & { width: number; height: number }) | undefined): Gathered => {
    if (!made) return nothing(size.width * size.height);
    const out = enlarged({ ...made, data: made.out, channels: 4 }, 1, size);
    return { out, open: Float64Array.from({ length: size.width * size.height }, (_, i) => Math.max(0, 1 - out[i * 4 + 3]!)), shares: [] };
  };
  for (let n = shape.before.length - 1; n >= 0; n--) {
    const source = before.sources[n]!;
    inFront[n] = { ...gather(shape, shape.before[n]!, source, picture, front(source, inFront[n + 1])), width: source.width, height: source.height };
  }
  const middle = gather(shape, shape.middle, whole, picture, front(whole, inFront[0]));
  addLamps(shape, shape.before, before.lamps, inFront, picture, middle.out, () => 1);

  // beyond it, as far as it is left open
  const after = sideOf(shape, shape.after, whole);
  const made: (Gathered & { width: number; height: number; began: Float64Array })[] = [{ ...middle, width, height, began: new Float64Array(0) }];
  for (const [n, source] of after.sources.entries()) {
    const began = halvedPlane(made[n]!.open, made[n]!.width, made[n]!.height);
    const start = { out: new Float64Array(source.width * source.height * 4), open: began, shares: [] };
    made.push({ ...gather(shape, shape.after[n]!, source, picture, start), width: source.width, height: source.height, began });
  }
  for (let n = after.sources.length - 1; n >= 0; n--) {
    const [finer, coarse] = [made[n]!, made[n + 1]!];
    const light = enlarged({ ...coarse, data: coarse.out, channels: 4 }, 1, finer);
    const began = enlarged({ ...coarse, data: coarse.began, channels: 1 }, 1, finer);
    const times = (i: number): number => (began[i]! < 1e-6 ? 0 : finer.open[i]! / began[i]!);
    for (let i = 0; i < finer.open.length; i++) for (let c = 0; c < 4; c++) finer.out[i * 4 + c]! += light[i * 4 + c]! * times(i);
    if (n === 0) addLamps(shape, shape.after, after.lamps, made.slice(1), picture, finer.out, times);
  }
  return Float32Array.from(middle.out, (v, i) => (i % 4 === 3 ? 1 : v / Math.max(1e-4, middle.out[i | 3]!)));
}
