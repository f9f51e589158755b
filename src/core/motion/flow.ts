import { enlargedField, flowLevel } from '../kernels/flowHost';
import type { Plane } from '../picture';
import { bilinear } from './bilinear';

/** Where each pixel of one picture is found in another: pixel (x, y) at (x + u, y + v), px. */
export interface Flow {
  readonly width: number;
  readonly height: number;
  readonly u: Float32Array;
  readonly v: Float32Array;
}

/** How flow is worked out. */
export interface FlowMethod {
  /** the finest size worked at: 0 full, 1 half, 2 a quarter */
  readonly finest: number;
  /** rounds of refinement; 0 leaves the patches' answer as it is */
  readonly rounds: number;
}

export const FLOW_METHOD: FlowMethod = { finest: 1, rounds: 2 };

/** Means of 2x2 px; an odd last row or column is left out. */
export function halve({ width: w, height: h, data }: Plane): Plane {
  const width = w >> 1;
  const height = h >> 1;
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = 2 * y * w + 2 * x;
      out[y * width + x] = 0.25 * (data[i]! + data[i + 1]! + data[i + w]! + data[i + w + 1]!);
    }
  return { width, height, data: out };
}

/** A plane at its own and ever smaller sizes, down to a short side of `smallest` px. */
export function pyramid(plane: Plane, smallest = 24): readonly Plane[] {
  const levels = [plane];
  for (let last = plane; Math.min(last.width, last.height) >= 2 * smallest; levels.push(last)) last = halve(last);
  return levels;
}

/** A flow at twice its size, and so on up to a size: what it was worked out for, halved once or more, is its own. */
export function enlargedFlow(flow: Flow, width: number, height: number): Flow {
  if (flow.width === width && flow.height === height) return flow;
  const { u, v, width: w, height: h } = enlargedFlow(flow, width >> 1, height >> 1);
  return { width, height, u: enlargedField(u, w, h, width, height), v: enlargedField(v, w, h, width, height) };
}

/**
 * Dense optical flow from one picture to another, from coarse to fine: dense inverse search (Kroeger, Timofte, Dai & Van Gool 2016), refined at
 * each level by a variational step (Brox, Bruhn, Papenberg & Weickert 2004). Takes pyramids of luma 0..255 of one size; the flow comes at the
 * finest size worked at.
 */
export function coarseFlow(from: readonly Plane[], to: readonly Plane[], { finest, rounds }: FlowMethod = FLOW_METHOD): Flow {
  const top = from.length - 1;
  const last = Math.min(finest, top);
  const { width, height } = from[top]!;
  let flow: Flow = { width, height, u: new Float32Array(width * height), v: new Float32Array(width * height) };
  for (let level = top; level >= last; level--) {
    flow = enlargedFlow(flow, from[level]!.width, from[level]!.height);
    // coarse levels are cheap
    flowLevel(from[level]!, to[level]!, flow.u, flow.v, rounds > 0 && level > last ? rounds + 2 : rounds);
  }
  return flow;
}

/** The same at the size of the pictures. */
export const denseFlow = (from: readonly Plane[], to: readonly Plane[], method?: FlowMethod): Flow =>
  enlargedFlow(coarseFlow(from, to, method), from[0]!.width, from[0]!.height);

/**
 * 1 where the way there and back closes, 0 where the pixel is hidden in the other picture, leaves it, or the flow is wrong (Sundaram, Brox &
 * Keutzer 2010, eq. 5).
 */
export function closes(there: Flow, back: Flow): Uint8Array {
  const { width: w, height: h, u, v } = there;
  const out = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const tx = x + u[i]!;
      const ty = y + v[i]!;
      if (!(tx >= 0 && ty >= 0 && tx <= w - 1 && ty <= h - 1)) continue;
      const bu = bilinear(back.u, w, h, tx, ty);
      const bv = bilinear(back.v, w, h, tx, ty);
      const miss = (u[i]! + bu) ** 2 + (v[i]! + bv) ** 2;
      if (miss < 0.01 * (u[i]! ** 2 + v[i]! ** 2 + bu * bu + bv * bv) + 0.5) out[i] = 1;
    }
  return out;
}

/** A plane as it is seen through a flow: at p what lies at p + flow(p). */
export function warp(data: Float32Array, { width, height, u, v }: Flow): Float32Array {
  const out = new Float32Array(data.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      out[i] = bilinear(data, width, height, x + u[i]!, y + v[i]!);
    }
  return out;
}
