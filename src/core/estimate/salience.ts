import { newFloats } from '../picture';
import type { PatchEdge, Superpixels } from './superpixels';

/** Colour (OKLab) and place (share of the diagonal) over which patches influence each other. */
const COLOUR_REACH = 0.07;
const PLACE_REACH = 0.25;
/** Border connectivity at which a patch is mostly backdrop. */
const BACKDROP = 1;

/** Paths longer than this carry no weight. */
const FAR = 3 * COLOUR_REACH;

/**
 * How plainly a patch stands before the backdrop, 0..1: contrast to what is joined to the upper and side borders
 * (robust background detection: Zhu, Liang, Wei & Sun 2014, eq. 2-6). The lower border does not count as backdrop,
 * because near things are cut off by it.
 */
export function salience(patches: Superpixels, edges: readonly PatchEdge[]): Float32Array {
  const { count, colour, size, x, y, width, height } = patches;
  const onBorder = borderPatches(patches);
  const neighbours: { to: number; d: number }[][] = Array.from({ length: count }, () => []);
  for (const e of edges) {
    const d = colourDistance(colour, e.from, e.to);
    neighbours[e.from]!.push({ to: e.to, d });
    neighbours[e.to]!.push({ to: e.from, d });
  }
  const backdrop = newFloats(count);
  for (let s = 0; s < count; s++) {
    const distance = geodesic(neighbours, s);
    let area = 0;
    let border = 0;
    for (let q = 0; q < count; q++) {
      if (distance[q]! > FAR) continue;
      const w = Math.exp(-((distance[q]! / COLOUR_REACH) ** 2) / 2);
      area += w * size[q]!;
      if (onBorder[q]) border += w * Math.sqrt(size[q]!);
    }
    backdrop[s] = 1 - Math.exp(-((border / Math.sqrt(area) / BACKDROP) ** 2) / 2);
  }
  const diagonal = Math.hypot(width, height);
  const out = newFloats(count);
  let top = 1e-6;
  for (let s = 0; s < count; s++) {
    let sum = 0;
    let total = 0;
    for (let q = 0; q < count; q++) {
      if (backdrop[q]! < 1e-3) continue;
      const place = ((x[s]! - x[q]!) ** 2 + (y[s]! - y[q]!) ** 2) / (diagonal * diagonal);
      const w = size[q]! * backdrop[q]! * Math.exp(-place / (2 * PLACE_REACH * PLACE_REACH));
      sum += w * colourDistance(colour, s, q);
      total += w;
    }
    out[s] = total > 0 ? (sum / total) * (1 - backdrop[s]!) : 0;
    top = Math.max(top, out[s]!);
  }
  return out.map((v) => v / top);
}

const colourDistance = (c: Float32Array, a: number, b: number): number => {
  const l = 0.6 * (c[a * 3]! - c[b * 3]!);
  const u = c[a * 3 + 1]! - c[b * 3 + 1]!;
  const v = c[a * 3 + 2]! - c[b * 3 + 2]!;
  return Math.sqrt(l * l + u * u + v * v);
};

function borderPatches({ labels, width, height, count }: Superpixels): Uint8Array {
  const out = new Uint8Array(count);
  for (let x = 0; x < width; x++) out[labels[x]!] = 1;
  for (let y = 0; y < 0.85 * height; y++) out[labels[y * width]!] = out[labels[y * width + width - 1]!] = 1;
  return out;
}

/** Shortest paths from one patch over colour differences (Dijkstra 1959), cut off where nothing is left to see. */
function geodesic(neighbours: readonly { to: number; d: number }[][], start: number): Float32Array {
  const out = newFloats(neighbours.length).fill(1e3);
  out[start] = 0;
  // paths are short: a queue in rounds does as well as a heap
  let round = [start];
  while (round.length > 0) {
    const next: number[] = [];
    for (const s of round)
      for (const { to, d } of neighbours[s]!) {
        const via = out[s]! + d;
        if (via < out[to]! - 1e-6 && via < FAR) {
          out[to] = via;
          next.push(to);
        }
      }
    round = next;
  }
  return out;
}
