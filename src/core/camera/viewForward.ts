import { HIDDEN_BELOW, HIDDEN_RIGHT, JOINED_BELOW, JOINED_RIGHT, type LayeredPlate } from './layered';
import type { Placed, ViewGeometry } from './pose';

/** Surfaces kept at each pixel of the view, nearest first: with fewer, a soft edge in front of a soft edge is taken as solid. */
export const KEPT = 3;
/** A cut side is widened by so much for its smooth edge, px of the plate. */
const SOFT = 0.5;
const SOFT_HIDDEN = 0.05;
/** No pixel nearer than this to the padded plate's end is drawn: taps reach that far. */
const END = 3;

/** What is seen of some rows of a view. */
export interface Band {
  readonly y0: number;
  readonly y1: number;
  readonly width: number;
  /** KEPT inverse distances a pixel, and what they are of: a pixel of the front, n + k for hidden ones, n + m + k for rims; −1 for nothing */
  readonly q: Float32Array;
  readonly id: Int32Array;
}

export function newBand(y0: number, y1: number, width: number): Band {
  const n = (y1 - y0) * width * KEPT;
  return { y0, y1, width, q: new Float32Array(n).fill(-1), id: new Int32Array(n).fill(-1) };
}

/** Puts a surface into the cells of a rectangle; fragments within tau of one that is kept are the same surface, and the nearer stands for both. */
function splat(
  band: Band,
  id: number,
  tau: number,
  left: number,
  right: number,
  top: number,
  bottom: number,
  x: number,
  y: number,
  q: number,
  slopeX: number,
  slopeY: number,
): void {
  const { width, y0, y1, q: Q, id: I } = band;
  const fromX = Math.max(0, Math.ceil(left - 0.52));
  const toX = Math.min(width - 1, Math.ceil(right - 0.48) - 1);
  const fromY = Math.max(y0, Math.ceil(top - 0.52));
  const toY = Math.min(y1 - 1, Math.ceil(bottom - 0.48) - 1);
  for (let b = fromY; b <= toY; b++) {
    const row = q + (b + 0.5 - y) * slopeY;
    for (let a = fromX; a <= toX; a++) {
      const v = Math.max(0, row + (a + 0.5 - x) * slopeX);
      const g = ((b - y0) * width + a) * KEPT;
      const first = Q[g]!;
      if (v > first) {
        if (v - first > tau && I[g]! >= 0) {
          Q[g + 2] = Q[g + 1]!;
          I[g + 2] = I[g + 1]!;
          Q[g + 1] = first;
          I[g + 1] = I[g]!;
        }
        Q[g] = v;
        I[g] = id;
      } else if (first - v > tau) {
        const second = Q[g + 1]!;
        if (v > second) {
          if (v - second > tau && I[g + 1]! >= 0) {
            Q[g + 2] = second;
            I[g + 2] = I[g + 1]!;
          }
          Q[g + 1] = v;
          I[g + 1] = id;
        } else if (v > Q[g + 2]! && second - v > tau) {
          Q[g + 2] = v;
          I[g + 2] = id;
        }
      }
    }
  }
}

/** Where the pixels of one row of the front are seen: X, Y, inverse distance (−1 behind the camera) and scale, px of the view per px of the plate. */
interface WarpedRow {
  readonly x: Float32Array;
  readonly y: Float32Array;
  readonly q: Float32Array;
  readonly s: Float32Array;
}

function warpRow(g: ViewGeometry, plate: LayeredPlate, row: number, into: WarpedRow): void {
  const { width, q } = plate;
  const { r, f2, cx2, cy2, tx, ty, tz } = g;
  const [r0 = 0, r1 = 0, r2 = 0, r3 = 0, r4 = 0, r5 = 0, r6 = 0, r7 = 0, r8 = 0] = r;
  const [b0, zoom] = [(row + 0.5 - g.cy) / g.f, f2 / g.f];
  for (let x = 0, i = row * width; x < width; x++, i++) {
    const v = q[i]!;
    const a = (x + 0.5 - g.cx) / g.f - tx * v;
    const b = b0 - ty * v;
    const c = 1 - tz * v;
    const depth = r6 * a + r7 * b + r8 * c;
    if (!(depth > 1e-6)) {
      into.q[x] = -1;
      continue;
    }
    const k = 1 / depth;
    into.x[x] = cx2 + f2 * (r0 * a + r1 * b + r2 * c) * k;
    into.y[x] = cy2 + f2 * (r3 * a + r4 * b + r5 * c) * k;
    into.q[x] = v * k;
    into.s[x] = zoom * k;
  }
}

const newRow = (width: number): WarpedRow => ({
  x: new Float32Array(width),
  y: new Float32Array(width),
  q: new Float32Array(width),
  s: new Float32Array(width),
});

/** Whether anything of a row may be seen between two rows of the view: exact for all its depths, since places are quotients of linear functions. */
function mayBeSeen(g: ViewGeometry, plate: LayeredPlate, row: number, y0: number, y1: number, place: Placed): boolean {
  let [least, most] = [Infinity, -Infinity];
  let scale = 1;
  for (const x of [0, plate.width])
    for (const y of [row - 1, row + 2])
      for (let k = 0; k < 2; k++) {
        const q = plate.rowRange[row * 2 + k]!;
        if (!g.forward(x, y, q, place)) return true;
        least = Math.min(least, place.y);
        most = Math.max(most, place.y);
        if (q > 0) scale = Math.max(scale, (g.f2 / g.f) * (place.q / q));
      }
  return most + 3 * scale >= y0 && least - 3 * scale <= y1;
}

/** Forward, depth only: every pixel of every surface becomes a rectangle of the view; joined sides meet half way, cut sides end half a pixel out. */
export function project(g: ViewGeometry, plate: LayeredPlate, band: Band): void {
  const { width: w, height: h } = plate;
  const { y0, y1 } = band;
  const rows = [newRow(w), newRow(w), newRow(w)];
  const made = [-1, -1, -1];
  const rowOf = (y: number): WarpedRow => {
    const k = y % 3;
    if (made[k] !== y) {
      warpRow(g, plate, y, rows[k]!);
      made[k] = y;
    }
    return rows[k]!;
  };
  const place: Placed = { x: 0, y: 0, q: 0 };
  for (let y = END; y < h - END; y++) {
    if (!mayBeSeen(g, plate, y, y0, y1, place)) continue;
    projectRow(plate, band, y, rowOf(y), rowOf(y - 1), rowOf(y + 1));
    projectHidden(g, plate, band, y);
    projectRim(g, plate, band, y);
  }
}

/** What is seen in a row of the plate; the rows above and below it are those of which it may be joined. */
function projectRow(plate: LayeredPlate, band: Band, y: number, here: WarpedRow, above: WarpedRow, below: WarpedRow): void {
  const { width: w, flags, tau } = plate;
  const { y0, y1 } = band;
  const { x: X, y: Y, q: V, s: S } = here;
  for (let x = END, i = y * w + END; x < w - END; x++, i++) {
    const q = V[x]!;
    if (q < 0) continue;
    const px = X[x]!;
    const py = Y[x]!;
    const s = S[x]!;
    if (px < -3 * s || py < y0 - 3 * s || px > band.width + 3 * s || py > y1 + 3 * s) continue;
    const joinedLeft = flags[i - 1]! & JOINED_RIGHT && V[x - 1]! >= 0;
    const joinedRight = flags[i]! & JOINED_RIGHT && V[x + 1]! >= 0;
    const joinedAbove = flags[i - w]! & JOINED_BELOW && above.q[x]! >= 0;
    const joinedBelow = flags[i]! & JOINED_BELOW && below.q[x]! >= 0;
    // steps to joined neighbours, px of the view for a px of the plate, right (u) and down (v), and of inverse distance
    let dl = 0;
    let dr = 0;
    let du = 0;
    let dd = 0;
    let xu = 0;
    let yu = 0;
    let qu = 0;
    let xv = 0;
    let yv = 0;
    let qv = 0;
    if (joinedRight) {
      dr = (X[x + 1]! - px) / 2;
      xu = X[x + 1]! - px;
      yu = Y[x + 1]! - py;
      qu = V[x + 1]! - q;
    }
    if (joinedLeft) {
      dl = (px - X[x - 1]!) / 2;
      const half = joinedRight ? 0.5 : 1;
      xu = half * (xu + px - X[x - 1]!);
      yu = half * (yu + py - Y[x - 1]!);
      qu = half * (qu + q - V[x - 1]!);
    }
    if (joinedBelow) {
      dd = (below.y[x]! - py) / 2;
      xv = below.x[x]! - px;
      yv = below.y[x]! - py;
      qv = below.q[x]! - q;
    }
    if (joinedAbove) {
      du = (py - above.y[x]!) / 2;
      const half = joinedBelow ? 0.5 : 1;
      xv = half * (xv + px - above.x[x]!);
      yv = half * (yv + py - above.y[x]!);
      qv = half * (qv + q - above.q[x]!);
    }
    // inverse distance is linear in the view: its slope from its change along both steps
    const det = xu * yv - xv * yu;
    const sound = det > 0.1 * s * s;
    const slopeX = sound ? (qu * yv - qv * yu) / det : xu > 0.25 * s ? qu / xu : 0;
    const slopeY = sound ? (qv * xu - qu * xv) / det : yv > 0.25 * s ? qv / yv : 0;
    // where the steps lie aslant, the rectangle holds the whole of the slanted cell
    const overX = Math.abs(xv) / 2;
    const overY = Math.abs(yu) / 2;
    dr = joinedRight ? dr + overX : (joinedLeft && dl > 0 ? dl : s / 2) + SOFT * s;
    dl = joinedLeft ? dl + overX : (joinedRight && xu > 0 ? xu / 2 : s / 2) + SOFT * s;
    dd = joinedBelow ? dd + overY : (joinedAbove && du > 0 ? du : s / 2) + SOFT * s;
    du = joinedAbove ? du + overY : (joinedBelow && yv > 0 ? yv / 2 : s / 2) + SOFT * s;
    splat(band, i, tau, px - dl, px + dr, py - du, py + dd, px, py, q, slopeX, slopeY);
  }
}

/** What lies hidden behind a row of the plate. */
function projectHidden(g: ViewGeometry, plate: LayeredPlate, band: Band, y: number): void {
  const { width: w, height: h, flags, tau, hidden, hiddenAt } = plate;
  const { y0, y1 } = band;
  const n = w * h;
  const place: Placed = { x: 0, y: 0, q: 0 };
  const other: Placed = { x: 0, y: 0, q: 0 };
  for (let k = hidden.rowStart[y]!; k < hidden.rowStart[y + 1]!; k++) {
    const i = hidden.pixel[k]!;
    const x = i - y * w;
    if (x < END || x >= w - END) continue;
    const q = hidden.q[k]!;
    if (!g.forward(x + 0.5, y + 0.5, q, place)) continue;
    const { x: px, y: py, q: v } = place;
    const s = q > 0 ? ((g.f2 / g.f) * v) / q : g.f2 / g.f;
    if (px < -3 * s || py < y0 - 3 * s || px > band.width + 3 * s || py > y1 + 3 * s) continue;
    // half the way to a neighbour of the hidden surface that it is joined with
    const half = (j: number, joined: number, dx: number, dy: number): number => {
      if (!joined || !g.forward(x + dx + 0.5, y + dy + 0.5, hidden.q[hiddenAt[j]!]!, other)) return s / 2 + SOFT_HIDDEN * s;
      return (dx ? (other.x - px) * dx : (other.y - py) * dy) / 2;
    };
    const dr = half(i + 1, flags[i]! & HIDDEN_RIGHT, 1, 0);
    const dl = half(i - 1, flags[i - 1]! & HIDDEN_RIGHT, -1, 0);
    const dd = half(i + w, flags[i]! & HIDDEN_BELOW, 0, 1);
    const du = half(i - w, flags[i - w]! & HIDDEN_BELOW, 0, -1);
    splat(band, n + k, tau, px - dl, px + dr, py - du, py + dd, px, py, v, 0, 0);
  }
}

/** The rim of what stands in a row of the plate before something else. */
function projectRim(g: ViewGeometry, plate: LayeredPlate, band: Band, y: number): void {
  const { width: w, height: h, tau, hidden, rim } = plate;
  const n = w * h;
  const place: Placed = { x: 0, y: 0, q: 0 };
  for (let k = rim.rowStart[y]!; k < rim.rowStart[y + 1]!; k++) {
    const x = rim.pixel[k]! - y * w;
    const q = rim.q[k]!;
    if (x < END || x >= w - END || !g.forward(x + 0.5, y + 0.5, q, place)) continue;
    const s = ((g.f2 / g.f) * place.q) / Math.max(1e-9, q);
    const d = s / 2 + SOFT * s;
    splat(band, n + hidden.pixel.length + k, tau, place.x - d, place.x + d, place.y - d, place.y + d, place.x, place.y, place.q, 0, 0);
  }
}
