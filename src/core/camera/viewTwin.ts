import { AT_EDGE, HAS_RIM, HIDDEN_BELOW, HIDDEN_RIGHT, JOINED_BELOW, JOINED_RIGHT, NEAR_EDGE, type LayeredPlate } from './layered';
import { ViewGeometry, type Placed } from './pose';
import type { ViewInput } from './viewKernel';

/** Surfaces kept at each pixel of the view, nearest first: with fewer, a soft edge in front of a soft edge is taken as solid. */
const KEPT = 3;
/** A cut side is widened by so much for its smooth edge, px of the plate. */
const SOFT = 0.5;
const SOFT_HIDDEN = 0.05;
/** Taps within so many tau are of the same surface. */
const SAME = 1.5;
/** No pixel nearer than this to the padded plate's end is drawn: taps reach that far. */
const END = 3;
interface Band {
  readonly y0: number;
  readonly y1: number;
  readonly width: number;
  /** KEPT inverse distances a pixel, and what they are of: a pixel of the front, n + k for hidden ones, n + m + k for rims; −1 for nothing */
  readonly q: Float32Array;
  readonly id: Int32Array;
}

function newBand(y0: number, y1: number, width: number): Band {
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
function project(g: ViewGeometry, plate: LayeredPlate, band: Band): void {
  const { width: w, height: h, flags, tau, hidden, hiddenAt, rim } = plate;
  const { y0, y1 } = band;
  const n = w * h;
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
  const [place, other]: [Placed, Placed] = [
    { x: 0, y: 0, q: 0 },
    { x: 0, y: 0, q: 0 },
  ];
  for (let y = END; y < h - END; y++) {
    if (!mayBeSeen(g, plate, y, y0, y1, place)) continue;
    const here = rowOf(y);
    const above = rowOf(y - 1);
    const below = rowOf(y + 1);
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
    for (let k = rim.rowStart[y]!; k < rim.rowStart[y + 1]!; k++) {
      const x = rim.pixel[k]! - y * w;
      const q = rim.q[k]!;
      if (x < END || x >= w - END || !g.forward(x + 0.5, y + 0.5, q, place)) continue;
      const s = ((g.f2 / g.f) * place.q) / Math.max(1e-9, q);
      const d = s / 2 + SOFT * s;
      splat(band, n + hidden.pixel.length + k, tau, place.x - d, place.x + d, place.y - d, place.y + d, place.x, place.y, place.q, 0, 0);
    }
  }
}

/** The four weights of cubic interpolation between the middle two of four samples (Keys 1981, a = −½). */
function cubicWeights(t: number, out: Float64Array): void {
  const u = 1 - t;
  out[0] = -0.5 * t * u * u;
  out[1] = (1.5 * t - 2.5) * t * t + 1;
  out[3] = -0.5 * u * t * t;
  out[2] = 1 - out[0] - out[1] - out[3];
}

const kx = new Float64Array(4);
const ky = new Float64Array(4);
/** colour and coverage of a look beside an edge */
const seen = new Float64Array(5);

/** Which entry of a pixel's rim; −1 where it has none. */
function rimAt({ rim, flags, width }: LayeredPlate, i: number): number {
  if (!(flags[i]! & HAS_RIM)) return -1;
  const y = Math.floor(i / width);
  for (let k = rim.rowStart[y]!; k < rim.rowStart[y + 1]!; k++) if (rim.pixel[k] === i) return k;
  return -1;
}

/**
 * Beside an edge: a tap of the same surface gives colour and coverage; a farther tap says that the surface ends there; a nearer one only
 * hides it and has no vote.
 */
function lookBeside(plate: LayeredPlate, u: number, v: number, q: number, id: number): void {
  const { width: w, height: h, q: front, colour, hidden, hiddenAt, rim, rimCover, tau } = plate;
  const tolerance = SAME * tau;
  const x0 = Math.floor(u);
  const y0 = Math.floor(v);
  const fu = u - x0;
  const fv = v - y0;
  let votes = 0;
  let cover = 0;
  let r = 0;
  let g = 0;
  let b = 0;
  let a = 0;
  for (let dy = 0; dy < 2; dy++)
    for (let dx = 0; dx < 2; dx++) {
      const p = (y0 + dy) * w + x0 + dx;
      const weight = (dx ? fu : 1 - fu) * (dy ? fv : 1 - fv);
      const toFront = Math.abs(front[p]! - q);
      const hk = hiddenAt[p]!;
      const toHidden = hk >= 0 ? Math.abs(hidden.q[hk]! - q) : Infinity;
      const rk = rimAt(plate, p);
      const toRim = rk >= 0 ? Math.abs(rim.q[rk]! - q) : Infinity;
      if (toFront > tolerance && toHidden > tolerance && toRim > tolerance) {
        if (front[p]! < q) votes += weight;
        continue;
      }
      const inFront = toFront <= toHidden && toFront <= toRim;
      const inHidden = !inFront && toHidden <= toRim;
      const from = inFront ? colour : inHidden ? hidden.colour : rim.colour;
      const at = 4 * (inFront ? p : inHidden ? hk : rk);
      const share = inFront || inHidden ? weight : weight * rimCover[rk]!;
      votes += weight;
      cover += share;
      r += share * from[at]!;
      g += share * from[at + 1]!;
      b += share * from[at + 2]!;
      a += share * from[at + 3]!;
    }
  if (cover > 1e-4) {
    seen[0] = r / cover;
    seen[1] = g / cover;
    seen[2] = b / cover;
    seen[3] = a / cover;
    seen[4] = cover / votes;
    return;
  }
  const n = w * h;
  const from = id < n ? colour : id < n + hidden.pixel.length ? hidden.colour : rim.colour;
  const at = 4 * (id < n ? id : id < n + hidden.pixel.length ? id - n : id - n - hidden.pixel.length);
  for (let k = 0; k < 4; k++) seen[k] = from[at + k]!;
  seen[4] = 0;
}

/** Backward, colour: each surface of a pixel is looked up at its exact place in the plate, and laid over the next by its coverage. */
function shade(g: ViewGeometry, { plate, cubic, distance, uncovered }: ViewInput, band: Band, out: Float32Array): void {
  const { width: w, height: h, colour, flags, hidden, rim } = plate;
  const n = w * h;
  const guard = cubic ? NEAR_EDGE : AT_EDGE;
  const place: Placed = { x: 0, y: 0, q: 0 };
  for (let y = band.y0; y < band.y1; y++)
    for (let x = 0; x < band.width; x++) {
      const at = ((y - band.y0) * band.width + x) * KEPT;
      const o = y * band.width + x;
      const nearest = band.id[at]!;
      if (nearest < 0) continue;
      let left = 1;
      let R = 0;
      let G = 0;
      let B = 0;
      let A = 0;
      let far = band.q[at]!;
      for (let k = 0; k < KEPT; k++) {
        const id = band.id[at + k]!;
        if (id < 0) break;
        const q = band.q[at + k]!;
        const i = id < n ? id : id < n + hidden.pixel.length ? hidden.pixel[id - n]! : rim.pixel[id - n - hidden.pixel.length]!;
        const yi = Math.floor(i / w);
        const xi = i - yi * w;
        if (!g.backward(x + 0.5, y + 0.5, q, place)) break;
        let u = place.x - 0.5;
        let v = place.y - 0.5;
        u = u < xi - 1 ? xi - 1 : u > xi + 1 ? xi + 1 : u;
        v = v < yi - 1 ? yi - 1 : v > yi + 1 ? yi + 1 : v;
        if (k === 0 && id < n && !(flags[i]! & guard)) {
          // the usual case: inside a surface, no tests
          const x0 = Math.floor(u);
          const y0 = Math.floor(v);
          if (cubic) {
            cubicWeights(u - x0, kx);
            cubicWeights(v - y0, ky);
            for (let b = 0; b < 4; b++) {
              let p = 4 * ((y0 + b - 1) * w + x0 - 1);
              const row = ky[b]!;
              for (let a = 0; a < 4; a++, p += 4) {
                const f = row * kx[a]!;
                R += f * colour[p]!;
                G += f * colour[p + 1]!;
                B += f * colour[p + 2]!;
                A += f * colour[p + 3]!;
              }
            }
          } else {
            const p = 4 * (y0 * w + x0);
            const e = p + 4 * w;
            const fu = u - x0;
            const fv = v - y0;
            const k0 = (1 - fu) * (1 - fv);
            const k1 = fu * (1 - fv);
            const k2 = (1 - fu) * fv;
            const k3 = fu * fv;
            R = k0 * colour[p]! + k1 * colour[p + 4]! + k2 * colour[e]! + k3 * colour[e + 4]!;
            G = k0 * colour[p + 1]! + k1 * colour[p + 5]! + k2 * colour[e + 1]! + k3 * colour[e + 5]!;
            B = k0 * colour[p + 2]! + k1 * colour[p + 6]! + k2 * colour[e + 2]! + k3 * colour[e + 6]!;
            A = k0 * colour[p + 3]! + k1 * colour[p + 7]! + k2 * colour[e + 3]! + k3 * colour[e + 7]!;
          }
          left = 0;
          break;
        }
        lookBeside(plate, u, v, place.q, id);
        const last = k === KEPT - 1 || band.id[at + k + 1]! < 0;
        const share = last ? left : left * seen[4]!;
        R += share * seen[0]!;
        G += share * seen[1]!;
        B += share * seen[2]!;
        A += share * seen[3]!;
        // the distance is that of the surface which covers the middle of the pixel
        if (left > 0.5) far = q;
        left -= share;
        if (left < 0.002) break;
      }
      R = R > 0 ? R : 0;
      G = G > 0 ? G : 0;
      B = B > 0 ? B : 0;
      out[o * 4] = R * R;
      out[o * 4 + 1] = G * G;
      out[o * 4 + 2] = B * B;
      out[o * 4 + 3] = A > 0.9999 ? 1 : A > 0 ? A * A : 0;
      distance[o] = 1 / far;
      if (uncovered) uncovered[o] = nearest >= n && nearest < n + hidden.pixel.length ? 1 : 0;
    }
}

/** What no surface reached takes what is beside it in its row, on the far side. */
function fillLeft(band: Band, { distance, uncovered }: ViewInput, out: Float32Array): void {
  const { width, id, q } = band;
  for (let y = band.y0; y < band.y1; y++) {
    const first = (y - band.y0) * width;
    for (let x = 0; x < width; x++) {
      if (id[(first + x) * KEPT]! >= 0) continue;
      let end = x;
      while (end < width && id[(first + end) * KEPT]! < 0) end++;
      const before = x > 0 ? q[(first + x - 1) * KEPT]! : Infinity;
      const after = end < width ? q[(first + end) * KEPT]! : Infinity;
      const from = before <= after ? x - 1 : end;
      for (let a = x; a < end; a++) {
        const o = y * width + a;
        const s = y * width + from;
        const found = from >= 0 && from < width;
        for (let k = 0; k < 4; k++) out[o * 4 + k] = found ? out[s * 4 + k]! : 0;
        distance[o] = found ? distance[s]! : Infinity;
        if (uncovered) uncovered[o] = 1;
      }
      x = end;
    }
  }
}

/** Rows of a view, made plainly: the readable twin of the kernel that makes them (kernels/assembly/view.ts). */
export function viewRowsPlainly(input: ViewInput, y0: number, y1: number, out: Float32Array): void {
  const { plate, lens, pose, enlarged } = input;
  const g = new ViewGeometry(lens, pose, enlarged, plate.pad);
  const band = newBand(y0, y1, lens.width);
  project(g, plate, band);
  shade(g, input, band, out);
  fillLeft(band, input, out);
}
