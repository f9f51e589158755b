import { AT_EDGE, HAS_RIM, NEAR_EDGE, type LayeredPlate } from './layered';
import type { Placed, ViewGeometry } from './pose';
import { KEPT, type Band } from './viewForward';
import type { ViewInput } from './viewKernel';

/** Taps within so many tau are of the same surface. */
const SAME = 1.5;

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
export function shade(g: ViewGeometry, { plate, cubic, distance, uncovered }: ViewInput, band: Band, out: Float32Array): void {
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
export function fillLeft(band: Band, { distance, uncovered }: ViewInput, out: Float32Array): void {
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
