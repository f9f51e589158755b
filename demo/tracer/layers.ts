import type { Sample, View } from './trace';

/** Fog of a visibility, of one colour (linear light); with `low` it thins out above a level of the world by the factor e every so many metres. */
export interface FogLaw {
  readonly visibility: number;
  readonly start: number;
  readonly colour: readonly [number, number, number];
  readonly low?: { readonly level: number; readonly thins: number };
}

/** A further picture of the same samples: what lies nearer than a distance, with its coverage; or the whole seen through fog. */
export type LayerSpec = { readonly cut: number } | { readonly fog: FogLaw };

/** What a ray of the pinhole camera does for each metre of distance from the camera plane. */
export interface PixelRay {
  /** metres of ray */
  readonly length: number;
  /** metres of height gained */
  readonly rise: number;
  /** height of the camera */
  readonly from: number;
}

export function rayOf(view: View, px: number, py: number, { width, height }: { width: number; height: number }): PixelRay {
  const x = (px - width / 2) / view.focalPx;
  const y = -(py - height / 2) / view.focalPx;
  return { length: Math.hypot(1, x, y), rise: view.forward[1] + view.right[1] * x + view.up[1] * y, from: view.position[1] };
}

const STEPS = 64;
const SKY = 1e6;
/** Above so many times the height over which the fog thins out nothing is left of it. */
const NOTHING_ABOVE = 18;

/** Metres of full fog along a ray up to a distance, summed step by step. */
export function fogAlong({ start, low }: FogLaw, ray: PixelRay, distance: number): number {
  const end = Math.min(distance, SKY);
  if (end <= start) return 0;
  if (!low) return (end - start) * ray.length;
  const heightAt = (z: number): number => ray.from + ray.rise * z - low.level;
  // only the stretch with fog in it is stepped through, so that the steps stay short
  const top = NOTHING_ABOVE * low.thins;
  const crossing = (top - heightAt(0)) / ray.rise;
  const [a, b] = ray.rise > 0 ? [start, Math.min(end, crossing)] : [ray.rise < 0 ? Math.max(start, crossing) : start, end];
  if (b <= a) return 0;
  let sum = 0;
  for (let s = 0; s < STEPS; s++) sum += Math.exp(-Math.max(0, heightAt(a + ((s + 0.5) / STEPS) * (b - a))) / low.thins);
  return (sum / STEPS) * (b - a) * ray.length;
}

/** Adds a sample to a layer's pixel. */
export function addToLayer(
  spec: LayerSpec,
  sample: Pick<Sample, 'r' | 'g' | 'b' | 'distance'>,
  ray: PixelRay,
  exposure: number,
  share: number,
  out: Float32Array,
  i: number,
): void {
  const [r, g, b] = [sample.r * exposure, sample.g * exposure, sample.b * exposure];
  if ('cut' in spec) {
    if (!(sample.distance < spec.cut)) return;
    out[i * 4]! += r * share;
    out[i * 4 + 1]! += g * share;
    out[i * 4 + 2]! += b * share;
    out[i * 4 + 3]! += share;
    return;
  }
  const { fog } = spec;
  const left = Math.exp((-Math.log(50) / fog.visibility) * fogAlong(fog, ray, sample.distance));
  [r, g, b].forEach((v, k) => (out[i * 4 + k]! += share * (v * left + fog.colour[k as 0] * (1 - left))));
  out[i * 4 + 3]! += share;
}
