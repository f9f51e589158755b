import { linearToOklab } from '../../raster/colour';
import { extreme, gaussian, gradient } from '../../raster/filters';
import { newPlane, type Picture, type Plane } from '../../picture';
import { pushPull } from '../../raster/pushPull';
import { clampUnit, smoothstep } from '../../scalar';
import { percent, pixels } from '../../values/params';
import { edgeDistance } from '../edges';
import { defineCleanup } from './definition';

/** Second difference of nearness over the radius from which there is an edge and not a slope. */
const BEND = 0.016;
/** Width of the likeness of colours, OKLab. */
const LIKE = 0.045;
/** Steps across the window on either side of a pixel. */
const REACH = 4;
const BINS = 32;
/** Bins on either side of the median that say the same. */
const SAME = 4;
/** Share of the say that has to agree with the median for it to count at all, and wholly: where two sides weigh alike, neither is believed. */
const AGREED = { least: 0.5, whole: 0.7 };
/** Neighbours next to a pixel lie within so many px; and the share of them whose colour has to be another for them to be heard, and to be believed. */
const CLOSE = 2;
const APART = { least: 0.15, whole: 0.35 };
/** How much of what the wide view spans those next to a pixel have to span: on a soft edge they have nothing to tell. */
const SPANNED = { least: 0.5, whole: 0.8 };
/** What a gradient of the map takes from a pixel's say: at 1/60 of nearness over two px, half. */
const LEVEL = 60;

/** exp(−t) for t of 0 … 8, in steps of 1/64; nothing beyond. */
const FALL = Float32Array.from({ length: 513 }, (_, k) => (k === 512 ? 0 : Math.exp(-k / 64)));

/** Pixels about which the map bends more than a slope does: those near an edge. */
function nearEdges({ width, height, data }: Plane, r: number): Uint8Array {
  const bent = new Uint8Array(data.length);
  const offsets = [
    [r, 0],
    [0, r],
    [r, r],
    [r, -r],
  ] as const;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      for (const [dx, dy] of offsets) {
        const x0 = x - dx < 0 ? 0 : x - dx;
        const x1 = x + dx >= width ? width - 1 : x + dx;
        const y0 = Math.min(height - 1, Math.max(0, y - dy));
        const y1 = Math.min(height - 1, Math.max(0, y + dy));
        if (Math.abs(data[y0 * width + x0]! + data[y1 * width + x1]! - 2 * data[i]!) > BEND) {
          bent[i] = 1;
          break;
        }
      }
    }
  // in the very middle of a soft edge the two sides balance
  const out = bent.slice();
  const gap = Math.max(1, r >> 1);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (bent[i]) continue;
      if (
        (x >= gap && x + gap < width && bent[i - gap] && bent[i + gap]) ||
        (y >= gap && y + gap < height && bent[i - gap * width] && bent[i + gap * width])
      )
        out[i] = 1;
    }
  return out;
}

/** What the neighbours within a radius of a pixel say, by likeness of colour. */
interface Say {
  /** the weighted median of their depths */
  readonly median: Float32Array;
  /** how far they agree on it, 0..1; 0 where there is no edge within reach */
  readonly agreed: Float32Array;
  /** the share of neighbours whose colour is another: that tells the two sides of an edge apart */
  readonly apart: Float32Array;
  /** from the least to the greatest of their depths */
  readonly span: Float32Array;
}

/**
 * The weighted median of the depths about every pixel near an edge of the map, weighted by likeness of colour, by nearness in the picture, and
 * by how level the map is there, so that a soft or wrong edge itself has no say (Ma, He, Wei, Sun & Wu 2013, eq. 1–3).
 */
function saidWithin({ width, height, data }: Plane, lab: Float32Array, level: Float32Array, r: number): Say {
  const mask = nearEdges({ width, height, data }, r);
  const step = Math.max(1, (2 * r) / REACH);
  const radius = Math.min(REACH, 2 * r);
  const side = 2 * radius + 1;
  const count = side * side;
  const across = new Int32Array(count);
  const down = new Int32Array(count);
  const near = new Float32Array(count);
  for (let k = 0; k < count; k++) {
    across[k] = Math.round(((k % side) - radius) * step);
    down[k] = Math.round((Math.floor(k / side) - radius) * step);
    near[k] = Math.exp(-(across[k]! ** 2 + down[k]! ** 2) / (2 * (1.2 * r) ** 2));
  }
  const weights = new Float32Array(BINS);
  const sums = new Float32Array(BINS);
  const values = new Float32Array(count);
  const shares = new Float32Array(count);
  const median = new Float32Array(data.length);
  const agreed = new Float32Array(data.length);
  const apart = new Float32Array(data.length);
  const span = new Float32Array(data.length);
  const like = 64 / (2 * LIKE * LIKE);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      if (!mask[i]) continue;
      const l = lab[i * 3]!;
      const a = lab[i * 3 + 1]!;
      const b = lab[i * 3 + 2]!;
      let low = Infinity;
      let high = -Infinity;
      let total = 0;
      let blind = 0;
      for (let k = 0; k < count; k++) {
        const u = x + across[k]!;
        const v = y + down[k]!;
        if (u < 0 || v < 0 || u >= width || v >= height) {
          shares[k] = 0;
          continue;
        }
        const j = v * width + u;
        const dl = lab[j * 3]! - l;
        const da = lab[j * 3 + 1]! - a;
        const db = lab[j * 3 + 2]! - b;
        const unlike = ((dl * dl + da * da + db * db) * like) | 0;
        const plain = near[k]! * level[j]!;
        const w = unlike >= 512 ? 0 : plain * FALL[unlike]!;
        const z = data[j]!;
        values[k] = z;
        shares[k] = w;
        total += w;
        blind += plain;
        if (z < low) low = z;
        if (z > high) high = z;
      }
      if (!(high > low) || total < 1e-6) continue;
      weights.fill(0);
      sums.fill(0);
      const scale = (BINS - 1e-3) / (high - low);
      for (let k = 0; k < count; k++) {
        const w = shares[k]!;
        if (w === 0) continue;
        const bin = ((values[k]! - low) * scale) | 0;
        weights[bin]! += w;
        sums[bin]! += w * values[k]!;
      }
      let passed = 0;
      let bin = 0;
      while (bin < BINS - 1 && passed + weights[bin]! < total / 2) passed += weights[bin++]!;
      median[i] = weights[bin]! > 0 ? sums[bin]! / weights[bin]! : data[i]!;
      let same = 0;
      for (let k = Math.max(0, bin - SAME); k <= Math.min(BINS - 1, bin + SAME); k++) same += weights[k]!;
      agreed[i] = clampUnit((same / total - AGREED.least) / (AGREED.whole - AGREED.least));
      apart[i] = 1 - total / blind;
      span[i] = high - low;
    }
  return { median, agreed, apart, span };
}

/**
 * Moves the map's edges to those of the picture: every pixel near an edge takes what its neighbours say. A median is one of the depths that are
 * there: none between them comes in. Those next to it are heard first, where their colours tell two sides apart: a wide view loses what is thin.
 */
export function snapToPicture(map: Plane, { picture }: { picture: Picture }, radius: number, strength: number): Plane {
  const { width, height, data } = map;
  const r = Math.max(1, Math.round(radius));
  const lab = new Float32Array(3 * data.length);
  for (let i = 0; i < data.length; i++) {
    const [l, a, b] = linearToOklab(picture.data[i * 4]!, picture.data[i * 4 + 1]!, picture.data[i * 4 + 2]!);
    lab[i * 3] = l;
    lab[i * 3 + 1] = 2 * a;
    lab[i * 3 + 2] = 2 * b;
  }
  const level = gradient(map).data.map((g) => 1 / (1 + (LEVEL * g) ** 2));
  const wide = saidWithin(map, lab, level, r);
  const close = r > 2 * CLOSE ? saidWithin(map, lab, level, CLOSE) : null;
  const out = newPlane(width, height);
  for (let i = 0; i < data.length; i++) {
    const own = data[i]!;
    const far = own + wide.agreed[i]! * (wide.median[i]! - own);
    const heard = close
      ? close.agreed[i]! *
        smoothstep(APART.least, APART.whole, close.apart[i]!) *
        smoothstep(SPANNED.least, SPANNED.whole, close.span[i]! / Math.max(1e-6, wide.span[i]!))
      : 0;
    const told = far + heard * (close ? close.median[i]! - far : 0);
    out.data[i] = own + strength * (told - own);
  }
  return out;
}

/** Snaps the map to the picture's edges, then grows or shrinks what is near, then softens. */
export const edgeCare = defineCleanup({
  kind: 'edge-care',
  label: 'Edge care',
  help: 'Snaps the map to the picture’s edges',
  params: {
    radius: pixels({
      label: 'Radius',
      min: 1,
      max: 24,
      highest: 64,
      default: 6,
      decimals: 0,
      step: 1,
      help: 'How far an edge may lie from where it should',
    }),
    strength: percent({ label: 'Snap', min: 0, max: 100, default: 100 }),
    grow: pixels({
      label: 'Grow',
      min: -8,
      max: 8,
      lowest: -50,
      highest: 50,
      default: 0,
      step: 0.5,
      help: 'Grows what is near; shrinks it where negative',
    }),
    soften: pixels({ label: 'Soften', min: 0, max: 10, highest: 100, default: 0, step: 0.5 }),
  },
  apply({ map, picture, params, pxScale }) {
    let out = map.data.some((v) => v !== v) ? pushPull(map) : map;
    if (params.strength > 0) out = snapToPicture(out, { picture }, params.radius * pxScale, params.strength / 100);
    const grow = params.grow * pxScale;
    if (Math.abs(grow) >= 0.5) out = extreme(out, Math.round(Math.abs(grow)), grow > 0 ? 'largest' : 'smallest');
    if (params.soften > 0) out = gaussian(out, 0.5 * params.soften * pxScale);
    return out;
  },
  figure(before, after, picture) {
    const [a, b] = [edgeDistance(before, picture), edgeDistance(after, picture)];
    return a === null ? 'no edges' : `edges off by ${a.toFixed(1)} → ${(b ?? 0).toFixed(1)} px`;
  },
});
