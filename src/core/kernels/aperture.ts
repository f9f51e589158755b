/** The opening of a lens: fewer than 3 blades is a disc; rounding 0 (straight blades) … 1 (disc); turn in radians. */
export interface Aperture {
  readonly blades: number;
  readonly rounding: number;
  readonly turn: number;
  /** width of the opening over its height, 0..1; 1 where not given */
  readonly squeeze?: number;
}

/** Radius steps of the span tables, px. */
export const RADIUS_STEP = 0.25;

/**
 * Rows of an aperture at radius steps of ¼ px. Entry e = offset[q] + lastRow[q] + dy stands for kernel row dy at radius
 * q/4 px: the span's ends as whole columns with fractions, and the row's weight. The weights of one kernel sum to 1.
 */
export interface SpanTable {
  readonly steps: number;
  readonly maxRow: number;
  readonly lastRow: Int32Array;
  readonly offset: Int32Array;
  readonly left: Int32Array;
  readonly right: Int32Array;
  readonly leftFraction: Float32Array;
  readonly rightFraction: Float32Array;
  readonly weight: Float32Array;
}

const OUTLINE_POINTS = 720;
const PROFILE_ROWS = 4096;

/** Closed outline of the unit aperture (circumradius 1), x y pairs, y down. */
export function apertureOutline({ blades, rounding, turn, squeeze = 1 }: Aperture, points = OUTLINE_POINTS): Float64Array {
  const out = new Float64Array(points * 2);
  for (let i = 0; i < points; i++) {
    const angle = (i / points) * 2 * Math.PI;
    let r = 1;
    if (blades >= 3) {
      const sector = (2 * Math.PI) / blades;
      let a = (angle - turn) % sector;
      if (a < 0) a += sector;
      const straight = Math.cos(sector / 2) / Math.cos(a - sector / 2);
      r = straight + (1 - straight) * rounding;
    }
    out[i * 2] = squeeze * r * Math.cos(angle);
    out[i * 2 + 1] = r * Math.sin(angle);
  }
  return out;
}

/** Left and right end of the unit outline at height t, or null outside it. */
export function outlineSpan(outline: Float64Array, t: number): readonly [number, number] | null {
  const n = outline.length / 2;
  let low = Infinity;
  let high = -Infinity;
  for (let i = 0; i < n; i++) {
    const j = i + 1 === n ? 0 : i + 1;
    const y0 = outline[i * 2 + 1]!;
    const y1 = outline[j * 2 + 1]!;
    if (!((y0 <= t && y1 > t) || (y1 <= t && y0 > t))) continue;
    const x = outline[i * 2]! + ((t - y0) / (y1 - y0)) * (outline[j * 2]! - outline[i * 2]!);
    low = Math.min(low, x);
    high = Math.max(high, x);
  }
  return high > low ? [low, high] : null;
}

/** Left and right ends of the unit outline at rows evenly spaced from −1 to 1; NaN where the row misses it. */
export interface Profile {
  readonly left: Float64Array;
  readonly right: Float64Array;
}

const profiles = new Map<string, Profile>();
const PROFILES_KEPT = 16;

/** One walk round the outline: every edge widens the rows that it crosses. Kept, because a slider of the focus keeps its aperture. */
export function profileOf(aperture: Aperture): Profile {
  const key = `${aperture.blades} ${aperture.rounding} ${aperture.turn} ${aperture.squeeze ?? 1}`;
  const kept = profiles.get(key);
  if (kept) return kept;
  const outline = apertureOutline(aperture);
  const left = new Float64Array(PROFILE_ROWS).fill(Infinity);
  const right = new Float64Array(PROFILE_ROWS).fill(-Infinity);
  const n = outline.length / 2;
  const rowAbove = (y: number): number => Math.ceil(((y + 1) * PROFILE_ROWS) / 2 - 0.5);
  for (let i = 0; i < n; i++) {
    const j = i + 1 === n ? 0 : i + 1;
    const [x0, y0, x1, y1] = [outline[i * 2]!, outline[i * 2 + 1]!, outline[j * 2]!, outline[j * 2 + 1]!];
    if (y0 === y1) continue;
    const first = Math.max(0, rowAbove(Math.min(y0, y1)));
    const last = Math.min(PROFILE_ROWS, rowAbove(Math.max(y0, y1)));
    for (let row = first; row < last; row++) {
      const t = -1 + (2 * (row + 0.5)) / PROFILE_ROWS;
      const x = x0 + ((t - y0) / (y1 - y0)) * (x1 - x0);
      if (x < left[row]!) left[row] = x;
      if (x > right[row]!) right[row] = x;
    }
  }
  for (let row = 0; row < PROFILE_ROWS; row++) if (!(right[row]! > left[row]!)) left[row] = right[row] = NaN;
  if (profiles.size >= PROFILES_KEPT) profiles.delete(profiles.keys().next().value!);
  profiles.set(key, { left, right });
  return { left, right };
}

/** Span table of an aperture up to a radius in px. */
export function spanTable(aperture: Aperture, maxRadius: number): SpanTable {
  const profile = profileOf(aperture);
  const steps = Math.ceil(maxRadius / RADIUS_STEP) + 1;
  const lastRow = new Int32Array(steps);
  const offset = new Int32Array(steps);
  const entries: { from: number; to: number; weight: number }[] = [];
  for (let q = 0; q < steps; q++) {
    const radius = Math.max(q * RADIUS_STEP, 0.05);
    const last = Math.max(0, Math.ceil(radius - 0.5));
    lastRow[q] = last;
    offset[q] = entries.length;
    const samples = Math.max(16, Math.ceil(128 / (last + 1)));
    const rows: { from: number; to: number; weight: number }[] = [];
    let area = 0;
    for (let dy = -last; dy <= last; dy++) {
      let from = 0;
      let to = 0;
      let inside = 0;
      for (let s = 0; s < samples; s++) {
        const t = (dy - 0.5 + (s + 0.5) / samples) / radius;
        if (t <= -1 || t >= 1) continue;
        const at = Math.min(PROFILE_ROWS - 1, Math.floor((t + 1) * 0.5 * PROFILE_ROWS));
        const left = profile.left[at]!;
        if (Number.isNaN(left)) continue;
        from += left * radius;
        to += profile.right[at]! * radius;
        inside++;
      }
      if (inside > 0) {
        from /= inside;
        to /= inside;
      }
      const weight = inside / samples;
      rows.push({ from, to, weight });
      area += (to - from) * weight;
    }
    for (const row of rows) entries.push({ ...row, weight: row.weight / area });
  }
  const left = Int32Array.from(entries, (e) => Math.floor(e.from + 0.5));
  const right = Int32Array.from(entries, (e) => Math.floor(e.to + 0.5));
  return {
    steps,
    maxRow: lastRow.reduce((a, b) => Math.max(a, b), 0),
    lastRow,
    offset,
    left,
    right,
    leftFraction: Float32Array.from(entries, (e, i) => e.from + 0.5 - left[i]!),
    rightFraction: Float32Array.from(entries, (e, i) => e.to + 0.5 - right[i]!),
    weight: Float32Array.from(entries, (e) => e.weight),
  };
}

/** The dense kernel that a span table stands for at radius step q: (2n+1)² weights, row by row. */
export function denseKernel(table: SpanTable, q: number): { n: number; weights: Float64Array } {
  const last = table.lastRow[q]!;
  const n = last + 1;
  const side = 2 * n + 1;
  const weights = new Float64Array(side * side);
  for (let dy = -last; dy <= last; dy++) {
    const e = table.offset[q]! + last + dy;
    const row = new Float64Array(side + 2);
    row[table.left[e]! + n]! += 1 - table.leftFraction[e]!;
    row[table.left[e]! + n + 1]! += table.leftFraction[e]!;
    row[table.right[e]! + n]! -= 1 - table.rightFraction[e]!;
    row[table.right[e]! + n + 1]! -= table.rightFraction[e]!;
    let sum = 0;
    for (let x = 0; x < side; x++) {
      sum += row[x]!;
      weights[(dy + n) * side + x] = sum * table.weight[e]!;
    }
  }
  return { n, weights };
}
