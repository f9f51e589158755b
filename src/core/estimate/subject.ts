import { quantile } from '../raster/filters';
import { newPlane, type Plane } from '../picture';
import { piecesOf } from './pieces';

/** How far something must stand out before what usually lies in its row to count as a thing and not as ground, nearness. */
const STANDS_OUT = 0.1;
/** Least share of the picture that a thing takes. */
const LEAST = 0.012;
/** Nearness at which two neighbours belong to different things. */
const STEP = 0.08;
/** Long side of the copy that is looked at, px. */
const LOOK = 128;

export interface Subject {
  /** raw nearness 0..1 */
  readonly nearness: number;
  /** its middle, shares of the picture */
  readonly x: number;
  readonly y: number;
}

/**
 * The nearest large thing in a map of raw nearness that is not ground: what stands out before its own row, in one piece. Where nothing
 * does, what is nearest in the middle of the picture.
 */
export function findSubject(map: Plane): Subject {
  const scale = Math.max(1, Math.max(map.width, map.height) / LOOK);
  const [w, h] = [Math.max(1, Math.floor(map.width / scale)), Math.max(1, Math.floor(map.height / scale))];
  const small = newPlane(w, h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const v = map.data[Math.floor((y + 0.5) * scale) * map.width + Math.floor((x + 0.5) * scale)]!;
      small.data[y * w + x] = v === v ? v : 0;
    }
  const out = standsOut(small);
  let best: Subject | null = null;
  let bestScore = 0;
  const pieces = piecesOf(
    small,
    (i) => out[i] === 1,
    (a, b) => Math.abs(small.data[a]! - small.data[b]!) < STEP,
  );
  for (const piece of pieces) {
    if (piece.length < LEAST * w * h) continue;
    const values = piece.map((i) => small.data[i]!).sort((a, b) => a - b);
    const nearness = values[values.length >> 1]!;
    const mean = (f: (i: number) => number): number => piece.reduce((sum, i) => sum + f(i), 0) / piece.length;
    const [x, y] = [mean((i) => ((i % w) + 0.5) / w), mean((i) => (Math.floor(i / w) + 0.5) / h)];
    // nearer, larger, and nearer the middle than the border
    const score = nearness * Math.min(1, piece.length / (0.06 * w * h)) ** 0.5 * (1 - 0.8 * Math.abs(x - 0.5));
    if (score > bestScore) {
      bestScore = score;
      best = { nearness, x, y };
    }
  }
  return best ?? middleOf(small);
}

/** Where something stands out before what usually lies in its row. */
function standsOut({ width, height, data }: Plane): Uint8Array {
  const out = new Uint8Array(width * height);
  for (let y = 0; y < height; y++) {
    const row = { width, height: 1, data: data.subarray(y * width, (y + 1) * width) };
    const usual = quantile(row, 0.3);
    for (let x = 0; x < width; x++) out[y * width + x] = row.data[x]! > usual + STANDS_OUT ? 1 : 0;
  }
  return out;
}

/** The nearer part of the middle of a picture. */
function middleOf({ width, height, data }: Plane): Subject {
  const values: number[] = [];
  for (let y = Math.floor(height * 0.3); y < Math.ceil(height * 0.7); y++)
    for (let x = Math.floor(width * 0.3); x < Math.ceil(width * 0.7); x++) values.push(data[y * width + x]!);
  values.sort((a, b) => a - b);
  return { nearness: values[Math.floor(0.7 * (values.length - 1))] ?? 0.5, x: 0.5, y: 0.5 };
}
