import { guidedEnlarge, picturesRows } from '../kernels/guidedHost';
import { boxMean } from '../raster/filters';
import type { Plane } from '../picture';
import { clampUnit, smoothstep } from '../scalar';
import { warp } from './flow';
import type { Link } from './links';
import type { MotionView } from './view';

/** So far around the drawn region the colours of its surroundings are learnt, px. */
const SURROUNDINGS = 16;
/** Colours are told apart in 16 levels a channel; their word is bounded. */
const LOUDEST = 2;
/** Half the band about the outline in which colour has a say, px, and how loud it is there. */
const BAND = 3;
const IN_BAND = 0.15;
/** What is unknown is filled from so far around, px. */
const REACH = 8;
/** Firmed along the picture's edges. */
const SNAP_RADIUS = 4;
const SNAP_EPSILON = 1e-3;

const bin = (rgb: Uint8Array, i: number): number => (rgb[3 * i]! >> 4) * 256 + (rgb[3 * i + 1]! >> 4) * 16 + (rgb[3 * i + 2]! >> 4);

/** How much each colour speaks for the region and against its surroundings on the frame where it was drawn: log odds. */
export function colourOdds(view: MotionView, region: Plane): Float32Array {
  const near = boxMean(region, SURROUNDINGS).data;
  const inside = new Float32Array(4096).fill(0.5);
  const outside = new Float32Array(4096).fill(0.5);
  for (let i = 0; i < region.data.length; i++) {
    if (near[i]! <= 0.001) continue;
    (region.data[i]! > 0.5 ? inside : outside)[bin(view.rgb, i)]! += 1;
  }
  return inside.map((v, k) => Math.max(-LOUDEST, Math.min(LOUDEST, Math.log(v / outside[k]!))));
}

/** Pixels that flow cannot answer for take what is known around them, by likeness of colour, and their own colour's word. */
function fillUnknown({ width: w, height: h, data }: Plane, known: Uint8Array, { rgb }: MotionView, odds: Float32Array): Plane {
  const out = data.slice();
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      if (known[i]) continue;
      let sum = 0;
      let total = 1e-3;
      for (let v = Math.max(0, y - REACH); v <= Math.min(h - 1, y + REACH); v += 2)
        for (let u = Math.max(0, x - REACH); u <= Math.min(w - 1, x + REACH); u += 2) {
          const j = v * w + u;
          if (!known[j]) continue;
          const off = Math.abs(rgb[3 * i]! - rgb[3 * j]!) + Math.abs(rgb[3 * i + 1]! - rgb[3 * j + 1]!) + Math.abs(rgb[3 * i + 2]! - rgb[3 * j + 2]!);
          const weight = Math.exp(-(off * off) / 1800 - ((u - x) ** 2 + (v - y) ** 2) / 40) + 1e-6;
          sum += weight * data[j]!;
          total += weight;
        }
      const fill = Math.max(0.02, Math.min(0.98, sum / total));
      out[i] = 1 / (1 + Math.exp(-Math.log(fill / (1 - fill)) - odds[bin(rgb, i)]!));
    }
  return { width: w, height: h, data: out };
}

/** Made firm along the edges of the picture. */
function firmed(region: Plane, { width, height, rgb }: MotionView): Plane {
  const data = new Float32Array(width * height * 4);
  for (let i = 0; i < width * height; i++) for (let k = 0; k < 3; k++) data[4 * i + k] = rgb[3 * i + k]! / 255;
  const picture = { width, height, data };
  const snapped = guidedEnlarge(picture, region, SNAP_RADIUS, SNAP_EPSILON, picturesRows(picture));
  return { width, height, data: snapped.data.map((v) => smoothstep(0.25, 0.75, v)) };
}

/**
 * A region 0..1 carried one frame on along flow: `link` leads from the new frame back to the one where the region is. What was hidden there is
 * unknown, and is filled from like colours: warped alone it would read the region of whatever hid it, and trail. `lost`: the share of the
 * region's own pixels that flow could not answer for.
 */
export function carryRegion(region: Plane, view: MotionView, link: Link, odds: Float32Array): { readonly region: Plane; readonly lost: number } {
  const warped: Plane = { ...region, data: warp(region.data, link.flow) };
  const filled = fillUnknown(warped, link.seen, view, odds);
  let own = 0;
  let unknown = 0;
  for (let i = 0; i < filled.data.length; i++) {
    if (filled.data[i]! <= 0.5) continue;
    own++;
    if (!link.seen[i]) unknown++;
  }
  const soft = boxMean(filled, BAND).data;
  const spoken: Plane = {
    ...filled,
    data: filled.data.map((v, i) => (soft[i]! < 0.02 || soft[i]! > 0.98 ? v : clampUnit(v + IN_BAND * odds[bin(view.rgb, i)]!))),
  };
  return { region: firmed(spoken, view), lost: own > 0 ? unknown / own : 1 };
}
