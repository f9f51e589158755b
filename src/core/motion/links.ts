import type { Plane } from '../raster/picture';
import { bilinear } from './bilinear';
import { closes, denseFlow, pyramid, type Flow, type FlowMethod } from './flow';

/** The way from a frame to another: flow, and 1 where a pixel is seen in both. */
export interface Link {
  readonly flow: Flow;
  readonly seen: Uint8Array;
}

/** Links of each frame of a scene to the one after and the one before; null where there is none: at the ends, and over a cut. */
export interface Links {
  readonly next: readonly (Link | null)[];
  readonly before: readonly (Link | null)[];
}

/** Both ways between two neighbouring frames, from their luma 0..255. */
export function linkFrames(first: Plane, second: Plane, method?: FlowMethod): { readonly there: Link; readonly back: Link } {
  return linkPyramids(pyramid(first), pyramid(second), method);
}

/** The same from pyramids, where each frame is used twice. */
export function linkPyramids(first: readonly Plane[], second: readonly Plane[], method?: FlowMethod): { readonly there: Link; readonly back: Link } {
  const there = denseFlow(first, second, method);
  const back = denseFlow(second, first, method);
  return { there: { flow: there, seen: closes(there, back) }, back: { flow: back, seen: closes(back, there) } };
}

/** Links of frames given by their luma; `cuts`: frames that begin a scene. `look` hears the share done. */
export function linksOf(
  lumas: readonly Plane[],
  cuts: readonly number[] = [],
  method?: FlowMethod,
  look: (share: number) => void = () => undefined,
): Links {
  const next: (Link | null)[] = lumas.map(() => null);
  const before: (Link | null)[] = lumas.map(() => null);
  let last = lumas[0] ? pyramid(lumas[0]) : [];
  for (let t = 1; t < lumas.length; t++) {
    look(t / lumas.length);
    const here = pyramid(lumas[t]!);
    if (!cuts.includes(t)) {
      const { there, back } = linkPyramids(last, here, method);
      next[t - 1] = there;
      before[t] = back;
    }
    last = here;
  }
  return { next, before };
}

/** One link after another. */
export function chained(first: Link, second: Link): Link {
  const { width: w, height: h } = first.flow;
  const u = new Float32Array(w * h);
  const v = new Float32Array(w * h);
  const seen = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const tx = x + first.flow.u[i]!;
      const ty = y + first.flow.v[i]!;
      u[i] = first.flow.u[i]! + bilinear(second.flow.u, w, h, tx, ty);
      v[i] = first.flow.v[i]! + bilinear(second.flow.v, w, h, tx, ty);
      if (first.seen[i] && tx >= 0 && ty >= 0 && tx <= w - 1 && ty <= h - 1) seen[i] = second.seen[Math.round(ty) * w + Math.round(tx)]!;
    }
  return { flow: { width: w, height: h, u, v }, seen };
}
