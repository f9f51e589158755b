import { UNITS, type PatchEdge, type Superpixels } from './superpixels';

/** Shading changes lightness more than colour: it counts less when patches are joined to things. */
const LIGHTNESS_WEIGHT = 0.3;
const TONE_WEIGHT = 1;

/**
 * Joins patches to regions by the graph method of Felzenszwalb & Huttenlocher 2004: two regions join where the difference
 * between them is no larger than the difference within either plus `scale`/size. Returns the region of every patch.
 */
export function joinPatches(patches: Superpixels, edges: readonly PatchEdge[], scale: number): Int32Array {
  const { count, colour } = patches;
  const parent = Int32Array.from({ length: count }, (_, i) => i);
  // sizes are shares of the picture, so that regions do not depend on how many patches there are
  const total = patches.width * patches.height;
  const size = Float64Array.from(patches.size, (pixels) => (UNITS * pixels) / total);
  const within = new Float64Array(count);
  const root = (i: number): number => {
    while (parent[i] !== i) {
      parent[i] = parent[parent[i]!]!;
      i = parent[i]!;
    }
    return i;
  };
  // colour relative to lightness does not change from the lit to the shaded side of a thing
  const tone = new Float64Array(count * 2);
  for (let s = 0; s < count; s++) for (let k = 0; k < 2; k++) tone[s * 2 + k] = (TONE_WEIGHT * colour[s * 3 + 1 + k]!) / (colour[s * 3]! + 0.15);
  const difference = (e: PatchEdge): number => {
    const l = LIGHTNESS_WEIGHT * (colour[e.from * 3]! - colour[e.to * 3]!);
    const a = tone[e.from * 2]! - tone[e.to * 2]!;
    const b = tone[e.from * 2 + 1]! - tone[e.to * 2 + 1]!;
    return Math.sqrt(l * l + a * a + b * b) + 0.5 * LIGHTNESS_WEIGHT * e.contrast;
  };
  const sorted = edges.map((e) => ({ e, d: difference(e) })).sort((p, q) => p.d - q.d);
  for (const { e, d } of sorted) {
    const a = root(e.from);
    const b = root(e.to);
    if (a === b) continue;
    if (d > Math.min(within[a]! + scale / size[a]!, within[b]! + scale / size[b]!)) continue;
    parent[b] = a;
    size[a]! += size[b]!;
    within[a] = Math.max(d, within[a]!, within[b]!);
  }
  return Int32Array.from({ length: count }, (_, i) => root(i));
}
