import { smoothHidden, type HiddenShape } from '../kernels/behindHost';
import type { Backdrop } from './layered';
import { SWEEPS, type PlateShape } from './plateShape';

/** Share of mirrored texture over what was smoothed, once it lies a few px behind the edge. */
const TEXTURE = 0.6;
const TEXTURE_FROM = 1.5;
const TEXTURE_OVER = 4;

/** What hidden pixels look like, and how far they lie. */
export interface HiddenLook {
  readonly colour: Float32Array;
  readonly q: Float32Array;
}

/** Roots of colours of pixels; lamps do not shine from behind. */
function coloursAt(colour: Float32Array, places: Int32Array): Float32Array {
  const out = new Float32Array(places.length * 4);
  for (let k = 0; k < places.length; k++) {
    const i = places[k]! * 4;
    for (let c = 0; c < 4; c++) out[k * 4 + c] = Math.min(1, colour[i + c]!);
  }
  return out;
}

/** Smooths colours behind the edges, held by what is seen of the same surface, and lays mirrored texture over them. */
export function hiddenFromBesides(hidden: HiddenShape, colour: Float32Array): HiddenLook {
  const texture = coloursAt(colour, hidden.from);
  const out = texture.slice();
  smoothHidden(out, coloursAt(colour, hidden.seen), hidden.links, hidden.masks, SWEEPS);
  for (let k = 0; k < hidden.pixels.length; k++) {
    const share = TEXTURE * Math.min(1, Math.max(0, (hidden.away[k]! - TEXTURE_FROM) / TEXTURE_OVER));
    for (let c = 0; c < 4; c++) out[k * 4 + c]! += share * (texture[k * 4 + c]! - out[k * 4 + c]!);
  }
  return { colour: out, q: hidden.smoothed };
}

/** What a person gave for what lies behind. */
export function hiddenFromBackdrop({ width, height, pad, q, tau }: PlateShape, hidden: HiddenShape, { picture, distance }: Backdrop): HiddenLook {
  const colour = new Float32Array(hidden.pixels.length * 4);
  const depth = hidden.seeded.slice();
  for (const [k, i] of hidden.pixels.entries()) {
    const x = Math.min(picture.width - 1, Math.max(0, (i % width) - pad));
    const y = Math.min(height - 2 * pad - 1, Math.max(0, Math.floor(i / width) - pad));
    const p = y * picture.width + x;
    for (let c = 0; c < 4; c++) colour[k * 4 + c] = Math.sqrt(Math.max(0, picture.data[p * 4 + c]!));
    const z = distance?.data[p];
    // what is given never lies in front of what hides it
    if (z !== undefined && 1 / z < q[i]! - tau) depth[k] = 1 / z;
  }
  return { colour, q: depth };
}
