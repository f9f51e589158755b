import { newPlane, type Plane } from '../picture';

/** A pixel counts where the two maps do not differ by more than this after they were fitted: elsewhere something moved. */
const SAME = 0.08;
/** So much of what was there before stays where nothing moved. */
const KEPT = 0.5;
/** Every so many samples are fitted. */
const STRIDE = 7;
/** A fit that scales by more than this is none: the picture is another. */
const MOST_SCALE = 3;

/**
 * A map of nearness, 0..1, brought to the levels of the one before it: scaled and shifted by least squares over what did not move (fitted twice, the
 * second time without what lies far off), and mixed with it there. The map itself where there is none before it, or that shows another scene.
 */
export function steadiedTo(before: Plane | null, plane: Plane): Plane {
  if (!before || before.width !== plane.width || before.height !== plane.height) return plane;
  const first = fitted(before.data, plane.data, 1, 0, Infinity);
  const fit = first && fitted(before.data, plane.data, first.scale, first.shift, SAME);
  if (!fit || fit.scale < 1 / MOST_SCALE || fit.scale > MOST_SCALE || fit.share < 0.3) return plane;
  const out = newPlane(plane.width, plane.height, true);
  for (let i = 0; i < out.data.length; i++) {
    const v = fit.scale * plane.data[i]! + fit.shift;
    const old = before.data[i]!;
    const same = Math.max(0, 1 - Math.abs(v - old) / SAME);
    out.data[i] = Math.min(1, Math.max(0, v + KEPT * same * (old - v)));
  }
  return out;
}

interface Fit {
  readonly scale: number;
  readonly shift: number;
  /** of the samples that took part */
  readonly share: number;
}

/** Scale and shift that bring a map to another, over samples that differ by less than `most` after an earlier fit; null where there is nothing to fit. */
function fitted(to: Float32Array, of: Float32Array, scale: number, shift: number, most: number): Fit | null {
  let [n, all, sx, sy, sxx, sxy] = [0, 0, 0, 0, 0, 0];
  for (let i = 0; i < of.length; i += STRIDE) {
    const [x, y] = [of[i]!, to[i]!];
    all++;
    if (!(Math.abs(scale * x + shift - y) <= most)) continue;
    n++;
    sx += x;
    sy += y;
    sxx += x * x;
    sxy += x * y;
  }
  const spread = n * sxx - sx * sx;
  if (n < 8 || spread < 1e-6 * n * n) return null;
  const a = (n * sxy - sx * sy) / spread;
  return { scale: a, shift: (sy - a * sx) / n, share: n / all };
}
