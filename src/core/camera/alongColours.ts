import type { Picture } from '../picture';

/** px about a pixel that have a say, every other one, as on a chessboard. */
const REACH = 3;
/** px to either side of an edge that may go to its other side. */
const BESIDE = 2;
/** Squared distance of colours, square roots of light, at which a say falls to 1/e. */
const LIKE = 0.01;
/** Share of 1/z by which the window has to span for there to be two sides. */
const SPAN = 0.05;
const BINS = 32;
/** exp(−t) for t of 0 … 8, in steps of 1/64; nothing beyond. */
const FALL = Float32Array.from({ length: 513 }, (_, k) => (k === 512 ? 0 : Math.exp(-k / 64)));

const weights = new Float32Array(BINS);
const sums = new Float32Array(BINS);

/** Pixels about edges that came of making a plane firm. */
function nearEdges(before: Float32Array, after: Float32Array, width: number, height: number): Uint8Array {
  const rows = new Uint8Array(after.length);
  const jumps = (i: number, j: number): boolean => {
    const [a, b] = [after[i]!, after[j]!];
    return Math.abs(a - b) > SPAN * Math.max(a, b) && (before[i] !== a || before[j] !== b);
  };
  for (let y = 0; y < height - 1; y++)
    for (let x = BESIDE; x < width - BESIDE - 1; x++) {
      const i = y * width + x;
      if (jumps(i, i + 1) || jumps(i, i + width)) rows.fill(1, i - BESIDE + 1, i + BESIDE + 1);
    }
  const out = new Uint8Array(after.length);
  for (let y = BESIDE; y < height - BESIDE; y++)
    for (let v = y - BESIDE; v < y + BESIDE; v++) for (let x = 0; x < width; x++) out[y * width + x]! |= rows[v * width + x]!;
  return out;
}

/**
 * Edges that were made firm moved to where the picture's run: about them every pixel takes the median of the depths around it, weighted by
 * likeness of colour (Ma, He, Wei, Sun & Wu 2013), to a 32nd of what the depths span. `soft`, `firm`: inverse distances, 1/m, before and after;
 * answers others. `picture`: linear light, of the same size. Slopes, which were not made firm, stay.
 */
export function alongColours(soft: Float32Array, firm: Float32Array, picture: Picture): Float32Array {
  const { width, height, data } = picture;
  const near = nearEdges(soft, firm, width, height);
  const roots = new Float32Array(3 * firm.length);
  for (let i = 0; i < firm.length; i++) for (let k = 0; k < 3; k++) roots[i * 3 + k] = Math.sqrt(Math.min(1, Math.max(0, data[i * 4 + k]!)));
  const out = firm.slice();
  for (let y = REACH; y < height - REACH; y++)
    for (let x = REACH; x < width - REACH; x++) {
      const i = y * width + x;
      if (!near[i]) continue;
      let least = Infinity;
      let most = -Infinity;
      for (let v = -REACH; v <= REACH; v++)
        for (let j = i + v * width - REACH + ((v + REACH) & 1), end = i + v * width + REACH; j <= end; j += 2) {
          const q = firm[j]!;
          if (q < least) least = q;
          if (q > most) most = q;
        }
      if (most - least < SPAN * most) continue;
      const [r, g, b] = [roots[i * 3]!, roots[i * 3 + 1]!, roots[i * 3 + 2]!];
      weights.fill(0);
      sums.fill(0);
      const scale = (BINS - 1e-3) / (most - least);
      let total = 0;
      for (let v = -REACH; v <= REACH; v++)
        for (let j = i + v * width - REACH + ((v + REACH) & 1), end = i + v * width + REACH; j <= end; j += 2) {
          const dr = roots[j * 3]! - r;
          const dg = roots[j * 3 + 1]! - g;
          const db = roots[j * 3 + 2]! - b;
          const unlike = (dr * dr + dg * dg + db * db) * (64 / LIKE);
          if (unlike >= 512) continue;
          const share = FALL[unlike | 0]!;
          const q = firm[j]!;
          const bin = ((q - least) * scale) | 0;
          weights[bin]! += share;
          sums[bin]! += share * q;
          total += share;
        }
      let passed = 0;
      let bin = 0;
      while (bin < BINS - 1 && (passed += weights[bin]!) < total / 2) bin++;
      if ((((firm[i]! - least) * scale) | 0) !== bin) out[i] = sums[bin]! / weights[bin]!;
    }
  return out;
}
